import { Handle } from '../controls/Handle.tsx'
import { set } from '../store/project-store.ts'

const screenPx = 18
const gapPx = 4
/** The number of screens that are drawn; a larger budget is typed. */
const mostScreens = 12

/** The memory budget as screens of pictures beyond the zones; its end is dragged. */
export function MemoryBand({ memoryMb, screenMb }: { memoryMb: number; screenMb: number }) {
  const screens = memoryMb / screenMb
  const drawn = Math.min(mostScreens, screens)
  const pxPerMb = (screenPx + gapPx) / screenMb
  const word =
    memoryMb === 0
      ? 'nothing is kept'
      : `${screens < 10 ? screens.toFixed(1) : Math.round(screens)} screens of pictures`
  return (
    <div className="tt-memory-band">
      <strong>Memory</strong>{' '}
      <small>
        {memoryMb} MB · {word}
      </small>
      <div className="tt-memory-screens" style={{ width: mostScreens * (screenPx + gapPx) }}>
        {Array.from({ length: mostScreens }, (_, i) => (
          <span key={i} aria-hidden style={{ width: screenPx }}>
            <i style={{ width: `${100 * Math.min(1, Math.max(0, drawn - i))}%` }} />
          </span>
        ))}
        <Handle
          label="Memory, MB"
          axis="x"
          value={Math.min(Math.floor(mostScreens * screenMb), Math.round(memoryMb))}
          min={0}
          max={Math.floor(mostScreens * screenMb)}
          text={`${memoryMb} MB`}
          pxPerUnit={pxPerMb}
          style={{ left: drawn * (screenPx + gapPx) }}
          onChange={(next) => set('/loading/memoryMb', next)}
        />
      </div>
    </div>
  )
}
