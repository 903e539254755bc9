import { useState } from 'react'
import { mostOwnItems } from '../../core/project/script-schema.ts'
import FormControl from 'react-bootstrap/FormControl'
import type { Item, Step } from '../../core/project/types.ts'
import { currentRun, useDevice } from '../device/device-store.ts'
import { Chip } from '../controls/Chip.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Fold } from '../controls/Fold.tsx'
import { useProject } from '../store/project-store.ts'

type Edit = Extract<Step, { do: 'edit' }>
const edits: readonly { name: (count: number) => string; step: Edit }[] = [
  { name: (count) => `Add ${count} on top`, step: { do: 'edit', op: 'insert', at: 0, count: 3, to: 0 } },
  { name: () => 'Remove the first', step: { do: 'edit', op: 'remove', at: 0, count: 1, to: 0 } },
  { name: () => 'Move the first down', step: { do: 'edit', op: 'move', at: 0, count: 1, to: 8 } },
  { name: (count) => `Update ${count}`, step: { do: 'edit', op: 'update', at: 0, count: 3, to: 0 } },
  { name: () => 'Refresh all', step: { do: 'edit', op: 'refresh', at: 0, count: 1, to: 0 } },
]

const takesItems = ({ op }: Edit) => op === 'insert' || op === 'update'

/** Changes the feed while it is on the device. */
export function OnScreenEdits() {
  const mode = useDevice(({ mode }) => mode)
  const chosen = useDevice(({ screen }) => screen)
  const { project } = useProject()!
  const number = Math.min(chosen, project.screens.length - 1)
  const [typed, setTyped] = useState('')
  const { items, wrong } = readItems(typed)
  const stepOf = (step: Edit): Edit =>
    items !== null && takesItems(step) ? { ...step, items, count: items.length } : step
  return (
    <Fold title="Edits on screen">
      <div className="tt-swatches">
        {edits.map(({ name, step }) => (
          <Chip
            key={step.op}
            disabled={mode !== 'hand' || (wrong !== null && takesItems(step))}
            onClick={() => currentRun()?.run.play(stepOf(step))}
          >
            {name(stepOf(step).count)}
          </Chip>
        ))}
      </div>
      <FormControl
        as="textarea"
        size="sm"
        rows={2}
        className="tt-own-items"
        aria-label="Own data for what is added or updated"
        placeholder="Own data: an item as JSON, or a list of items; without it, items there are copied"
        value={typed}
        isInvalid={wrong !== null}
        onChange={(event) => setTyped(event.target.value)}
      />
      {wrong && (
        <p className="tt-saving" role="status">
          {wrong}
        </p>
      )}
      <Choice
        path={`/screens/${number}/layout/atTop`}
        value={project.screens[number]!.layout.atTop}
        names={{ stay: 'stay', follow: 'follow' }}
      />
      <p className="tt-quiet">What you look at stays where it is; nothing that is unchanged flickers.</p>
    </Fold>
  )
}

/** Items that were typed as JSON; none where nothing was typed, or what is wrong with it. */
function readItems(text: string): { items: Item[] | null; wrong: string | null } {
  if (text.trim() === '') return { items: null, wrong: null }
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return { items: null, wrong: 'This is not JSON yet: an item is { "field": value }, a list of items [ … ].' }
  }
  const items = Array.isArray(value) ? (value as unknown[]) : [value]
  const isItem = (each: unknown): each is Item => typeof each === 'object' && each !== null && !Array.isArray(each)
  if (items.length === 0 || items.length > mostOwnItems || !items.every(isItem))
    return {
      items: null,
      wrong: `From 1 to ${mostOwnItems.toLocaleString('en')} items are taken, each an object with its fields.`,
    }
  return { items, wrong: null }
}
