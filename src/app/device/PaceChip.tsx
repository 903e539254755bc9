import { Chip } from '../controls/Chip.tsx'
import { setPace } from './device-store.ts'

const paces = [
  [1, '1×'],
  [0.5, '½×'],
  [0.25, '¼×'],
  [0.1, '⅒×'],
] as const

/** Slow motion of arrivals on the device, and loading once more. */
export default function PaceChip({ pace, onReplay }: { pace: number; onReplay: () => void }) {
  const at = paces.findIndex(([each]) => each === pace)
  const [next] = paces[(at + 1) % paces.length]!
  return (
    <>
      <Chip
        aria-label={`Arrivals play at ${paces[at]![1]}`}
        data-explain="Slow motion of arrivals on the device"
        onClick={() => setPace(next)}
      >
        {paces[at]![1]}
      </Chip>
      <Chip aria-label="Load what is on screen again" data-explain="Load what is on screen again" onClick={onReplay}>
        ↻
      </Chip>
    </>
  )
}
