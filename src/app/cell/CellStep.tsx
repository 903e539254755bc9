import { useMemo, useState } from 'react'
import { disagreements } from '../../core/layout/frame-agreement.ts'
import { cellWidthOf, layOutCell } from '../../core/layout/cell-geometry.ts'
import type { Project, Screen, StageName } from '../../core/project/types.ts'
import { assetUrls } from '../../live/asset-urls.ts'
import { Handle } from '../controls/Handle.tsx'
import { useSample } from '../feed/use-items.ts'
import { useDevice } from '../device/device-store.ts'
import { edit, set, useProject } from '../store/project-store.ts'
import { Agreement } from './slot/Agreement.tsx'
import { Arrival } from './stages/Arrival.tsx'
import { FocalPoint } from './slot/FocalPoint.tsx'
import { FrameHandles } from './slot/FrameHandles.tsx'
import { LoadTrack } from './stages/LoadTrack.tsx'
import { momentAt, momentWord } from './stages/moment.ts'
import { takePictureFile } from './slot/own-picture.ts'
import { OutsideLoad } from './beside/OutsideLoad.tsx'
import { OwnSettings } from './slot/OwnSettings.tsx'
import { CellLayout } from './CellLayout.tsx'
import { PictureSlot } from './slot/PictureSlot.tsx'
import { sampleTexts, withTexts, type SampleTexts } from './sample/sample-texts.ts'
import { sampleShare, StageCell } from './stages/StageCell.tsx'
import { SameLook } from './beside/SameLook.tsx'
import { StageLook } from './stages/StageLook.tsx'
import { TextRoom } from './sample/TextRoom.tsx'
import { Texts } from './sample/Texts.tsx'
import { usePicture } from './sample/use-picture.ts'
import { useTrack } from './stages/use-track.ts'
import { Chip } from '../controls/Chip.tsx'

const stages: readonly { stage: StageName; name: string; note: string }[] = [
  { stage: 'absent', name: 'Absent', note: 'no address' },
  { stage: 'waiting', name: 'Waiting', note: 'placeholder' },
  { stage: 'arriving', name: 'Arriving', note: `${sampleShare * 100} %` },
  { stage: 'settled', name: 'Settled', note: 'shown' },
  { stage: 'failed', name: 'Failed', note: 'an error' },
]

/** The widest and the highest that a cell is drawn in its stage card, px. */
const card = { width: 148, height: 104 }

type Grips = 'edges' | 'insets'
const gripNames: Record<Grips, string> = { edges: 'edges and corners', insets: 'insets and gap' }

/** How one picture sits and arrives: the cell in all its stages, and what shapes it. */
export default function CellStep() {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const [kind, setKind] = useState(0)
  const [slot, setSlot] = useState(0)
  const number = Math.min(chosen, project.screens.length - 1)
  const screen = project.screens[number]!
  const cell = Math.min(kind, screen.cells.length - 1)
  const { slots } = screen.cells[cell]!
  const chips = screen.cells.flatMap((each, k) =>
    each.slots.map((one, s) => ({ k, s, name: screen.cells.length > 1 ? `${each.kind} · ${one.id}` : one.id })),
  )
  return (
    <div className="tt-step">
      <div className="tt-cell-head">
        <h1>Cell{slots.length > 0 ? ` · “${slots[Math.min(slot, slots.length - 1)]!.id}”` : ''}</h1>
        {chips.length > 1 &&
          chips.map(({ k, s, name }) => (
            <Chip
              key={`${k} ${s}`}
              aria-pressed={k === cell && s === slot}
              onClick={() => {
                setKind(k)
                setSlot(s)
              }}
            >
              {name}
            </Chip>
          ))}
        <Chip
          data-explain="One more picture in this kind of cell"
          disabled={slots.length >= 8}
          onClick={() => {
            edit('slot', [
              {
                op: 'add',
                path: `/screens/${number}/cells/${cell}/slots/-`,
                value: { id: `picture ${slots.length + 1}`, address: slots.at(-1)?.address, size: slots.at(-1)?.size },
              },
            ])
            setKind(cell)
            setSlot(slots.length)
          }}
        >
          + picture
        </Chip>
        {slots.length > 1 && (
          <Chip
            onClick={() =>
              edit('slot', [
                { op: 'remove', path: `/screens/${number}/cells/${cell}/slots/${Math.min(slot, slots.length - 1)}` },
              ])
            }
          >
            take this one away
          </Chip>
        )}
      </div>
      <p className="tt-lead">
        One cell, every stage of its picture. Pick a stage to shape it, drag the tug along the load to keep any moment
        still.
      </p>
      {slots.length > 0 ? (
        <PictureCell
          key={`${number} ${cell}`}
          project={project}
          screen={screen}
          number={number}
          kind={cell}
          slotNumber={Math.min(slot, slots.length - 1)}
        />
      ) : (
        <p className="tt-card">
          This kind of cell has no picture slot. Give it one in the project file, under /screens/{number}/cells/{cell}
          /slots.
        </p>
      )}
    </div>
  )
}

interface PictureCellProps {
  project: Project
  screen: Screen
  number: number
  kind: number
  slotNumber: number
}

function PictureCell({ project, screen, number, kind, slotNumber }: PictureCellProps) {
  const { gapDp } = screen.layout
  const cell = screen.cells[kind]!
  const slot = cell.slots[slotNumber]!
  const { widthDp, density, refreshHz } = project.device
  const cellWidth = cellWidthOf(screen.layout, widthDp)
  const sample = useSample(screen)
  const [texts, setTexts] = useState<SampleTexts>('own')
  const item = useMemo(() => withTexts(sample.item, cell, texts), [sample.item, cell, texts])
  const geometry = useMemo(() => layOutCell(cell, cellWidth, item, () => null), [cell, cellWidth, item])
  const box = geometry.slots[slotNumber]!
  const px = useMemo(
    () => ({
      width: Math.max(1, Math.round(box.width * density)),
      height: Math.max(1, Math.round(box.height * density)),
    }),
    [box.width, box.height, density],
  )
  const { picture, trouble } = usePicture(screen, slot, item, box, density)
  const [grips, setGrips] = useState<Grips>('edges')
  const boxes = useMemo(
    () =>
      new Map(
        stages.map(({ stage }) => [
          stage,
          layOutCell(
            cell,
            cellWidth,
            item,
            () => null,
            (each) => (each === slotNumber ? stage : 'settled'),
          ).slots[slotNumber]!,
        ]),
      ),
    [cell, cellWidth, item, slotNumber],
  )
  const room = {
    width: cellWidth,
    height: cell.height.type === 'fixed' ? cell.height.dp : null,
    beside: cell.arrangement === 'picture-start' || cell.arrangement === 'picture-end',
  }
  const track = useTrack(project, number, slotNumber, item)
  const [at, setAt] = useState<number | null>(null)
  const [picked, setPicked] = useState<Exclude<StageName, 'settled'>>('waiting')
  const moment = track && at !== null ? momentAt(track, at) : null
  const apart = useMemo(
    () => disagreements(cell, cellWidth, item).filter((each) => each.slot === slotNumber),
    [cell, cellWidth, item, slotNumber],
  )
  const assetUrl = useMemo(() => assetUrls(project.assets), [project.assets])
  const scale = Math.min(card.width / cellWidth, card.height / geometry.heightDp, 1.3)
  const path = `/screens/${number}/cells/${kind}/slots/${slotNumber}`
  const corner = slot.cornersDp[0]
  return (
    <>
      {track && (
        <LoadTrack
          track={track}
          refreshHz={refreshHz}
          at={at ?? 0}
          onAt={setAt}
          onArrival={(ms) => set(`${path}/transition/ms`, ms)}
        />
      )}
      <div className="tt-stages">
        {stages.map(({ stage, name, note }) => {
          const current = moment?.stage === stage
          return (
            <StageCell
              key={stage}
              {...{ stage, name, cell, item, density, scale, picture, slotNumber, assetUrl }}
              widthDp={cellWidth}
              moment={current ? moment : null}
              current={current}
              note={stage === 'settled' && trouble ? 'unavailable' : (current && momentWord(moment)) || note}
              {...(stage === 'settled'
                ? {}
                : {
                    onPick: () => setPicked(stage),
                    onPictureFile: (file: File) => void takePictureFile(file, `${path}/stages/${stage}/visual`),
                  })}
            >
              {stage === (stage === 'settled' ? stage : picked) && (stage === 'settled' || grips === 'edges') && (
                <FrameHandles
                  slot={slot}
                  stage={stage}
                  path={path}
                  box={boxes.get(stage)!}
                  beside={[...boxes.values()]}
                  room={room}
                  scale={scale}
                  insets={grips === 'insets'}
                />
              )}
              {stage === 'settled' && grips === 'insets' && (
                <>
                  <div className="tt-neighbour" aria-hidden style={{ top: (geometry.heightDp + gapDp) * scale }} />
                  <Handle
                    label="Gap below"
                    value={gapDp}
                    min={0}
                    max={200}
                    text={`${gapDp} dp`}
                    pxPerUnit={scale}
                    axis="y"
                    snaps={[0, 4, 8, 12, 16, 24]}
                    style={{ left: 12, top: (geometry.heightDp + gapDp) * scale }}
                    onChange={(dp) => set(`/screens/${number}/layout/gapDp`, dp)}
                  />
                </>
              )}
              {stage === 'settled' && grips === 'edges' && !slot.circle && (
                <Handle
                  label="Corner radius"
                  value={Math.round(corner)}
                  min={0}
                  max={Math.floor(Math.min(box.width, box.height) / 2)}
                  text={`${corner} dp`}
                  pxPerUnit={scale}
                  axis="x"
                  onChange={(dp) => set(`${path}/cornersDp`, [dp, dp, dp, dp])}
                  style={{ left: (box.x + corner) * scale, top: box.y * scale }}
                />
              )}
              {stage === 'settled' && grips === 'edges' && (
                <FocalPoint
                  at={slot.position}
                  box={{
                    left: box.x * scale,
                    top: box.y * scale,
                    width: box.width * scale,
                    height: box.height * scale,
                  }}
                  onChange={(to) => set(`${path}/position`, to)}
                />
              )}
            </StageCell>
          )
        })}
      </div>
      <div className="tt-swatches tt-sample-texts" role="group" aria-label="What is on the cards">
        {(['edges', 'insets'] as const).map((each) => (
          <Chip
            key={each}
            aria-pressed={grips === each}
            data-explain="What can be dragged on the pictures"
            onClick={() => setGrips(each)}
          >
            {gripNames[each]}
          </Chip>
        ))}
        {cell.texts.length > 0 &&
          sampleTexts.map(({ is, name }) => (
            <Chip key={is} aria-pressed={texts === is} onClick={() => setTexts(is)}>
              {name}
            </Chip>
          ))}
        <TextRoom cell={cell} item={item} geometry={geometry} />
      </div>
      {trouble && (
        <p className="tt-saving" role="status">
          The sample’s picture is unavailable: {trouble}. Its stages are shown without it.
        </p>
      )}
      <Agreement apart={apart} slot={slot} path={path} />
      <div className="tt-cards tt-cell-cards">
        <div className="tt-stack">
          <Arrival slot={slot} path={path} refreshHz={refreshHz} />
          <CellLayout screen={screen} number={number} kind={kind} />
        </div>
        <PictureSlot project={project} slot={slot} path={path} px={px} box={box} decoded={picture} />
        <StageLook slot={slot} stage={picked} path={path} assets={project.assets.map(({ name }) => name)} box={box} />
      </div>
      <Texts cell={cell} path={`/screens/${number}/cells/${kind}`} />
      <OutsideLoad />
      <SameLook screen={number} kind={kind} item={item} />
      <OwnSettings path={path} screen={number} cell={kind} slot={slotNumber} />
    </>
  )
}
