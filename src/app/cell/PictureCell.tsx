import { useMemo, useState, type ReactNode } from 'react'
import { disagreements } from '../../core/layout/frame-agreement.ts'
import { cellWidthOf, layOutCell } from '../../core/layout/cell-geometry.ts'
import type { Project, Screen, StageName } from '../../core/project/types.ts'
import { assetUrls } from '../../live/asset-urls.ts'
import { useSample } from '../feed/use-items.ts'
import { set } from '../store/project-store.ts'
import { Agreement } from './slot/Agreement.tsx'
import { Arrival } from './stages/Arrival.tsx'
import { FrameHandles } from './slot/FrameHandles.tsx'
import { LoadTrack } from './stages/LoadTrack.tsx'
import { momentAt, momentWord } from './stages/moment.ts'
import { takePictureFile } from './slot/own-picture.ts'
import { AppDefaults } from './beside/AppDefaults.tsx'
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
import { SettledGrips, type Grips } from './slot/SettledGrips.tsx'

const stages: readonly { stage: StageName; name: string; note: string }[] = [
  { stage: 'absent', name: 'Absent', note: 'no address' },
  { stage: 'waiting', name: 'Waiting', note: 'placeholder' },
  { stage: 'arriving', name: 'Arriving', note: `${sampleShare * 100} %` },
  { stage: 'settled', name: 'Settled', note: 'shown' },
  { stage: 'failed', name: 'Failed', note: 'an error' },
]

/** The largest size at which a cell is drawn in its stage card, px. */
const card = { width: 148, height: 84 }

const gripNames: Record<Grips, string> = { edges: 'edges and corners', insets: 'insets and gap' }

interface PictureCellProps {
  project: Project
  screen: Screen
  number: number
  kind: number
  slotNumber: number
  /** The heading, and which slot it is. */
  head: ReactNode
}

/** One picture slot: its stages side by side with what can be dragged on them, and what shapes it. */
export function PictureCell({ project, screen, number, kind, slotNumber, head }: PictureCellProps) {
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
  const frames = { slot, path, beside: [...boxes.values()], room, scale }
  return (
    <>
      <div className="tt-step-head tt-cell-lead">
        {head}
        <p className="tt-lead is-spare">
          One cell, every stage of its picture. Pick a stage to shape it, drag the tug along the load to keep any moment
          still.
        </p>
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
      </div>
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
              {grips === 'edges' && stage !== 'settled' && stage === picked && (
                <FrameHandles {...frames} box={boxes.get(stage)!} stage={stage} insets={false} />
              )}
              {stage === 'settled' && (
                <SettledGrips
                  {...frames}
                  box={boxes.get(stage)!}
                  grips={grips}
                  heightDp={geometry.heightDp}
                  gapDp={gapDp}
                  onGap={(dp) => set(`/screens/${number}/layout/gapDp`, dp)}
                />
              )}
            </StageCell>
          )
        })}
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
        <StageLook
          slot={slot}
          stage={picked}
          path={path}
          assets={project.assets.map(({ name }) => name)}
          item={item}
          box={box}
        />
      </div>
      <Texts cell={cell} path={`/screens/${number}/cells/${kind}`} />
      <div className="tt-folds tt-cell-folds">
        <OutsideLoad density={density} />
        <SameLook screen={number} kind={kind} item={item} />
        <AppDefaults />
      </div>
      <OwnSettings path={path} screen={number} cell={kind} slot={slotNumber} />
    </>
  )
}
