import { useMemo } from 'react'
import { layOutCell } from '../../core/layout/cell-geometry.ts'
import type { Project, Screen, StageName } from '../../core/project/types.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Handle } from '../controls/Handle.tsx'
import { useDevice } from '../shell/device-store.ts'
import { set, useProject } from '../store/project-store.ts'
import { PlaceholderColour } from './PlaceholderColour.tsx'
import { useSample } from '../feed/use-items.ts'
import { usePicture } from './use-picture.ts'
import { StageCell } from './StageCell.tsx'

const stages: readonly { stage: StageName; name: string; note: string }[] = [
  { stage: 'absent', name: 'Absent', note: 'no address' },
  { stage: 'waiting', name: 'Waiting', note: 'placeholder' },
  { stage: 'arriving', name: 'Arriving', note: '76 %' },
  { stage: 'settled', name: 'Settled', note: 'shown' },
  { stage: 'failed', name: 'Failed', note: 'an error' },
]

/** The widest that a cell is drawn in its stage card, px. */
const cardPx = 148

/** How one picture sits and arrives: the cell in all its stages, and what shapes it. */
export default function CellStep() {
  const { project } = useProject()!
  const device = useDevice()
  const number = Math.min(device.screen, project.screens.length - 1)
  const screen = project.screens[number]!
  if (screen.cells[0]!.slots.length > 0) return <PictureCell project={project} screen={screen} number={number} />
  return (
    <div className="tt-step">
      <h1>Cell</h1>
      <p className="tt-card">The first kind of cell on this screen has no picture slot. Give it one in the project file, under /screens/{number}/cells/0/slots.</p>
    </div>
  )
}

function PictureCell({ project, screen, number }: { project: Project; screen: Screen; number: number }) {
  const { columns, gapDp, paddingDp } = screen.layout
  const cell = screen.cells[0]!
  const slot = cell.slots[0]!
  const { widthDp, density, refreshHz } = project.device
  const cellWidth = Math.max(1, (widthDp - 2 * paddingDp - (columns - 1) * gapDp) / columns)
  const { item } = useSample(screen)
  const box = layOutCell(cell, cellWidth, item, () => null).slots[0]!
  const px = useMemo(() => ({ width: Math.max(1, Math.round(box.width * density)), height: Math.max(1, Math.round(box.height * density)) }), [box.width, box.height, density])
  const picture = usePicture(screen, slot, item, box, density)
  const scale = Math.min(cardPx / cellWidth, 1.3)
  const at = `/screens/${number}`
  const slotAt = `${at}/cells/0/slots/0`
  const corner = slot.cornersDp[0]
  const setCorners = (dp: number) => set(`${slotAt}/cornersDp`, [dp, dp, dp, dp])
  return (
    <div className="tt-step">
      <h1>Cell · “{slot.id}”</h1>
      <p className="tt-lead">One cell, every stage of its picture. Drag the corner of the settled picture, or shape it below.</p>
      <div className="tt-stages">
        {stages.map(({ stage, name, note }) => (
          <StageCell key={stage} {...{ stage, name, note, cell, item, density, scale, picture }} widthDp={cellWidth}>
            {stage === 'settled' && !slot.circle && (
              <Handle
                label="Corner radius" value={Math.round(corner)} min={0} max={Math.floor(Math.min(box.width, box.height) / 2)} text={`${corner} dp`}
                pxPerUnit={scale} axis="x" onChange={setCorners} style={{ left: (box.x + corner) * scale, top: box.y * scale }}
              />
            )}
          </StageCell>
        ))}
      </div>
      <div className="tt-cards">
        <section className="tt-card" aria-label="Arrival">
          <h2>Arrival</h2>
          <Choice schema="screens/0/cells/0/slots/0/transition/type" path={`${slotAt}/transition/type`} value={slot.transition.type} names={{ none: 'none', fade: 'fade', 'fade-grow': 'fade and grow' }} />
          <Amount schema="screens/0/cells/0/slots/0/transition/ms" path={`${slotAt}/transition/ms`} value={slot.transition.ms} from={0} to={1000} step={10} note={`${Math.round((slot.transition.ms * refreshHz) / 1000)} frames at ${refreshHz} Hz`} />
          <Choice schema="screens/0/cells/0/slots/0/transition/on" path={`${slotAt}/transition/on`} value={slot.transition.on} names={{ compositor: 'compositor', main: 'main thread' }} />
          <PlaceholderColour slot={slot} path={`${slotAt}/stages/waiting/visual`} />
        </section>
        <section className="tt-card" aria-label="Picture slot">
          <h2>Picture slot · {px.width} × {px.height} px</h2>
          <Amount schema="screens/0/layout/columns" path={`${at}/layout/columns`} value={columns} from={1} to={8} note={`${Math.round(cellWidth)} dp each`} />
          <Choice schema="screens/0/cells/0/slots/0/fit" path={`${slotAt}/fit`} value={slot.fit} names={{ contain: 'contain', cover: 'cover', fill: 'fill', none: 'none', 'scale-down': 'scale down' }} />
          <Amount schema="screens/0/cells/0/slots/0/shadowDp" path={`${slotAt}/cornersDp`} label="Corners" value={corner} from={0} to={64} onChange={setCorners} note="all four" />
          <Amount schema="screens/0/layout/gapDp" path={`${at}/layout/gapDp`} value={gapDp} from={0} to={40} />
        </section>
      </div>
    </div>
  )
}
