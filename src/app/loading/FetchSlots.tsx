import Button from 'react-bootstrap/Button'
import { set } from '../store/project-store.ts'
import { KeepAbove } from './KeepAbove.tsx'
import { classNames, rowName, useLiveLine } from './use-live-line.ts'

/** The number of slots that are drawn; the rest is counted. */
const mostSlots = 12

/** The fetch slots of the live device with what they fetch now; removed and added by hand. */
export function FetchSlots({ slots, perHost, keepAbove }: { slots: number; perHost: number; keepAbove: number }) {
  const { running } = useLiveLine()
  const shown = Math.min(slots, mostSlots)
  const resize = (next: number) => {
    set('/loading/fetchSlots', next)
    // A host that may use all of them still may; one with a lower limit keeps its own.
    if (perHost === slots || perHost > next) set('/loading/fetchSlotsPerHost', next)
  }
  return (
    <div className="tt-slots">
      <ol aria-label={`${slots} fetch slots, ${running.length} in use`}>
        {Array.from({ length: shown }, (_, i) => {
          const slot = running[i]
          const share = slot?.share ?? (slot ? 0.03 : 0)
          return (
            <li key={i} data-class={slot?.class} data-kept={slot && share >= keepAbove ? '' : undefined}>
              <span className="tt-slot-fill" style={{ width: `${share * 100}%` }} />
              <span key={slot?.id ?? -1} className="tt-slot-word" data-taken={slot ? '' : undefined}>
                {slot ? `${rowName(slot.row)} · ${classNames[slot.class] ?? ''}` : 'free'}
              </span>
            </li>
          )
        })}
      </ol>
      <div className="tt-slot-buttons">
        <Button
          size="sm"
          variant="outline-primary"
          aria-label="Remove a fetch slot"
          disabled={slots <= 1}
          onClick={() => resize(slots - 1)}
        >
          −
        </Button>
        <Button
          size="sm"
          variant="outline-primary"
          aria-label="Add a fetch slot"
          disabled={slots >= 64}
          onClick={() => resize(slots + 1)}
        >
          +
        </Button>
        {slots > shown && <span className="tt-quiet">and {slots - shown} more</span>}
      </div>
      <KeepAbove share={keepAbove} />
    </div>
  )
}
