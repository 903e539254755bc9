import FormControl from 'react-bootstrap/FormControl'
import type { Device, Slot } from '../../../core/project/types.ts'
import { set } from '../../store/project-store.ts'
import { TypedNumber } from '../../controls/TypedNumber.tsx'
import { Chip } from '../../controls/Chip.tsx'

interface TreatmentsProps {
  slot: Slot
  path: string
  /** px of the slot. */
  px: number
  costs: Device['costs']['treatNsPerPx']
}

type Treatment = Slot['treatments'][number]
const fresh: Record<Treatment['type'], Treatment> = {
  grayscale: { type: 'grayscale', amount: 1 },
  blur: { type: 'blur', radiusDp: 8 },
  tint: { type: 'tint', colour: '#15252F', amount: 0.3 },
}

/** Treatments in the order in which they are made at decode; a chip is dragged, or moved with the arrow keys. */
export function Treatments({ slot, path, px, costs }: TreatmentsProps) {
  const { treatments } = slot
  const put = (next: readonly Treatment[]) => set(`${path}/treatments`, next)
  const move = (from: number, to: number) => {
    if (to < 0 || to >= treatments.length || from === to) return
    const next = [...treatments]
    next.splice(to, 0, ...next.splice(from, 1))
    put(next)
  }
  return (
    <div
      className="tt-field"
      data-explain="Made of the picture at decode, in this order; the cost is the device’s for one picture of the slot’s size."
    >
      <span id="treatments">Treatments</span>
      <div className="tt-swatches" role="group" aria-labelledby="treatments">
        {treatments.map((each, i) => (
          <span key={i} className="tt-treatment">
            <Chip
              draggable
              aria-label={`${each.type}, ${i + 1} of ${treatments.length}; the arrow keys move it`}
              onDragStart={(event) => event.dataTransfer.setData('application/x-tug-treatment', String(i))}
              onDragOver={(event) => event.preventDefault()}
              onDrop={(event) => move(Number(event.dataTransfer.getData('application/x-tug-treatment')), i)}
              onKeyDown={(event) => {
                if (event.key === 'ArrowRight') move(i, i + 1)
                else if (event.key === 'ArrowLeft') move(i, i - 1)
                else if (event.key === 'Delete') put(treatments.filter((_, at) => at !== i))
              }}
            >
              {i + 1} {each.type} <small>{((px * costs[each.type]) / 1e6).toFixed(1)} ms</small>
            </Chip>
            <Amounts of={each} onChange={(next) => put(treatments.with(i, next))} />
            <Chip aria-label={`Remove ${each.type}`} onClick={() => put(treatments.filter((_, at) => at !== i))}>
              ×
            </Chip>
          </span>
        ))}
        {(['grayscale', 'blur', 'tint'] as const).map((type) => (
          <Chip key={type} disabled={treatments.length >= 8} onClick={() => put([...treatments, fresh[type]])}>
            + {type}
          </Chip>
        ))}
      </div>
    </div>
  )
}

/** How much of a treatment, typed. */
function Amounts({ of, onChange }: { of: Treatment; onChange: (next: Treatment) => void }) {
  if (of.type === 'blur')
    return (
      <TypedNumber
        label="blur radius"
        unit="dp"
        explain="Radius of the blur, dp"
        value={of.radiusDp}
        onChange={(radiusDp) => onChange({ ...of, radiusDp })}
      />
    )
  return (
    <>
      {of.type === 'tint' && (
        <FormControl
          size="sm"
          type="color"
          className="tt-colour"
          aria-label="tint colour"
          value={of.colour}
          onChange={(event) => onChange({ ...of, colour: event.target.value.toUpperCase() })}
        />
      )}
      <TypedNumber
        label={`${of.type} amount`}
        explain="How much of it, from 0 to 1"
        value={of.amount}
        onChange={(amount) => onChange({ ...of, amount })}
      />
    </>
  )
}
