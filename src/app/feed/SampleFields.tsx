import { fieldsOf } from '../../core/feed/item-fields.ts'
import type { Item } from '../../core/project/types.ts'
import type { Place } from './bindings.ts'
import { showSample } from './use-items.ts'
import { Chip } from '../controls/Chip.tsx'

interface SampleFieldsProps {
  item: Item
  number: number
  count: number
  places: readonly Place[]
  /** The value that was picked up. */
  held: string | null
  onHold: (pointer: string | null) => void
}

/** A sample item: every value of it can be picked up by a click or dragged, to be put onto a place of the cell. */
export function SampleFields({ item, number, count, places, held, onHold }: SampleFieldsProps) {
  return (
    <section className="tt-card tt-sample" aria-label="Sample item">
      <div className="tt-sample-head">
        <h2>
          Item {count === 0 ? 0 : number + 1} of {count.toLocaleString('en')}
        </h2>
        <Chip aria-label="The item before" onClick={() => showSample(Math.max(0, number - 1))}>
          ‹
        </Chip>
        <Chip aria-label="The next item" onClick={() => showSample(Math.min(count - 1, number + 1))}>
          ›
        </Chip>
      </div>
      <ul>
        {fieldsOf(item).map(({ pointer, value, looksLike }) => {
          const bound = places.filter((place) => place.bound === pointer).map((place) => place.name)
          return (
            <li key={pointer}>
              <button
                type="button"
                className="tt-value"
                draggable
                aria-pressed={held === pointer}
                data-bound={bound.length > 0 ? '' : undefined}
                data-looks={looksLike}
                onClick={() => onHold(held === pointer ? null : pointer)}
                onDragStart={(event) => {
                  event.dataTransfer.setData('text/plain', pointer)
                  onHold(pointer)
                }}
              >
                <span className="tt-pointer">{pointer}</span>
                <span className="tt-worth">{shorten(value)}</span>
                {bound.length > 0 && <span className="tt-bound">{bound.join(', ')}</span>}
                {bound.length === 0 && looksLike === 'picture' && <span className="tt-quiet">a picture?</span>}
              </button>
            </li>
          )
        })}
      </ul>
      {count === 0 && (
        <p className="tt-quiet">The items of this feed will be here. Open a file, paste a text or give an address.</p>
      )}
    </section>
  )
}

function shorten(value: unknown): string {
  const text = typeof value === 'string' ? `“${value}”` : String(value)
  return text.length > 60 ? `${text.slice(0, 58)}…` : text
}
