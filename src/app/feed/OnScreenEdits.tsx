import type { Step } from '../../core/project/types.ts'
import { currentRun, useDevice } from '../device/device-store.ts'
import { Chip } from '../controls/Chip.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Fold } from '../controls/Fold.tsx'
import { useProject } from '../store/project-store.ts'

type Edit = Extract<Step, { do: 'edit' }>
const edits: readonly { name: string; step: Edit }[] = [
  { name: 'Add 3 on top', step: { do: 'edit', op: 'insert', at: 0, count: 3, to: 0 } },
  { name: 'Remove the first', step: { do: 'edit', op: 'remove', at: 0, count: 1, to: 0 } },
  { name: 'Move the first down', step: { do: 'edit', op: 'move', at: 0, count: 1, to: 8 } },
  { name: 'Update 3', step: { do: 'edit', op: 'update', at: 0, count: 3, to: 0 } },
  { name: 'Refresh all', step: { do: 'edit', op: 'refresh', at: 0, count: 1, to: 0 } },
]

/** Changes the feed while it is on the device. */
export function OnScreenEdits() {
  const mode = useDevice(({ mode }) => mode)
  const chosen = useDevice(({ screen }) => screen)
  const { project } = useProject()!
  const number = Math.min(chosen, project.screens.length - 1)
  return (
    <Fold title="Edits on screen">
      <div className="tt-swatches">
        {edits.map(({ name, step }) => (
          <Chip key={name} disabled={mode !== 'hand'} onClick={() => currentRun()?.run.play(step)}>
            {name}
          </Chip>
        ))}
      </div>
      <Choice
        path={`/screens/${number}/layout/atTop`}
        value={project.screens[number]!.layout.atTop}
        names={{ stay: 'stay', follow: 'follow' }}
      />
      <p className="tt-quiet">What you look at stays where it is; nothing that is unchanged flickers.</p>
    </Fold>
  )
}
