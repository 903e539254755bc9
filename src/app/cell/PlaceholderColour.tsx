import type { Slot } from '../../core/project/types.ts'
import { set } from '../store/project-store.ts'

const swatches = ['#E6DFCF', '#F7F4EC', '#C9D9DB', '#D9CBB6', '#31465C', '#15252F']
const spare = '#E6DFCF'

/** What stands in a slot while its picture is on the way: a colour, the item's own colour, or a skeleton. */
export function PlaceholderColour({ slot, path }: { slot: Slot; path: string }) {
  const { visual } = slot.stages.waiting
  const colour = visual.type === 'colour' ? visual.colour.toUpperCase() : null
  return (
    <div className="tt-field" title="What stands in the slot while its picture is on the way.">
      <span id="placeholder-label">Placeholder</span>
      <div className="tt-swatches" role="group" aria-labelledby="placeholder-label">
        {swatches.map((each) => (
          <button key={each} type="button" aria-label={`Colour ${each}`} aria-pressed={colour === each} style={{ background: each }} onClick={() => set(path, { type: 'colour', colour: each })} />
        ))}
        <input type="color" aria-label="Another colour" value={colour ?? spare} onChange={(event) => set(path, { type: 'colour', colour: event.target.value.toUpperCase() })} />
        <button type="button" className="tt-chip" aria-pressed={visual.type === 'item-colour'} onClick={() => set(path, { type: 'item-colour', at: '/colour' })}>the item’s own</button>
        <button type="button" className="tt-chip" aria-pressed={visual.type === 'skeleton'} onClick={() => set(path, { type: 'skeleton' })}>skeleton</button>
      </div>
    </div>
  )
}
