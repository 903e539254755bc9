import { knownItems } from '../../core/feed/known-items.ts'
import { useEffect, useMemo, useState, type CSSProperties } from 'react'
import useSWRImmutable from 'swr/immutable'
import Alert from 'react-bootstrap/Alert'
import type { Item, Project, Screen } from '../../core/project/types.ts'
import type { FeedCheck } from '../../core/simulate/feed-check.ts'
import { cellWidthOf, layOutCell } from '../../core/layout/cell-geometry.ts'
import { StageCell } from '../cell/stages/StageCell.tsx'
import { usePicture } from '../cell/sample/use-picture.ts'
import { bringToScreen, useDevice } from '../device/device-store.ts'
import { feedWorker } from '../simulate/worker-client.ts'
import { useProject } from '../store/project-store.ts'
import { AddressRule } from './AddressRule.tsx'
import { bind, placesOf, type Place } from './bindings.ts'
import { Granted } from './Granted.tsx'
import { kindOf } from './kind-of.ts'
import { Mosaic } from './Mosaic.tsx'
import { OwnCells } from './OwnCells.tsx'
import { OnScreenEdits } from './OnScreenEdits.tsx'
import { SampleFields } from './SampleFields.tsx'
import { SourceBar } from './SourceBar.tsx'
import { showSample, useItems, useSample } from './use-items.ts'

const roomPx = { width: 190, height: 210 }

/** The pictures of the list: a feed, its values on the cell, and every address before anything loads. */
export default function FeedStep() {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const number = Math.min(chosen, project.screens.length - 1)
  const screen = project.screens[number]!
  const { items, trouble } = useItems(screen)
  const sample = useSample(screen)
  const check = useFeedCheck(project, number, items)
  const kind = kindOf(screen, sample.item)
  const [slotNumber, setSlotNumber] = useState(0)
  const [held, setHeld] = useState<string | null>(null)
  const places = placesOf(screen, number, kind)
  const cell = screen.cells[kind]!
  const slot = cell.slots[Math.min(slotNumber, cell.slots.length - 1)]
  const slotCheck =
    check?.slots.find((each) => each.cell === kind && cell.slots[each.number] === slot) ??
    check?.slots.find((each) => each.cell === kind) ??
    null
  const put = (place: Place, pointer: string | null) => {
    if (pointer !== null) bind(place, pointer, items)
    setHeld(null)
  }
  return (
    <div className="tt-step">
      <h1>Feed · which pictures</h1>
      <p className="tt-lead">
        Drag a value onto a place of the cell, or click it and then the place. The device fills as soon as a picture is
        bound.
      </p>
      <SourceBar screen={screen} />
      {trouble && (
        <Alert variant="warning" className="tt-notice">
          {trouble}
        </Alert>
      )}
      <div className="tt-feed">
        <SampleFields
          item={sample.item}
          number={sample.number}
          count={sample.count}
          places={places}
          held={held}
          onHold={setHeld}
        />
        <section className="tt-card tt-feed-cell" aria-label="The cell">
          <SampleCell project={project} screen={screen} kind={kind} item={sample.item} />
          <div
            className="tt-places"
            role="group"
            aria-label={held === null ? 'Places of the cell' : `Put ${held} onto`}
          >
            {places.map((place) => (
              <button
                key={place.id}
                type="button"
                className="tt-place"
                data-open={held === null ? undefined : ''}
                data-explain={`${place.explain}${place.bound === null ? '' : ` Now: ${place.bound}.`}`}
                onClick={() =>
                  held === null && place.id.startsWith('slot')
                    ? setSlotNumber(Number(place.id.slice(5)))
                    : put(place, held)
                }
                onDragOver={(event) => event.preventDefault()}
                onDrop={(event) => {
                  event.preventDefault()
                  event.stopPropagation()
                  put(place, event.dataTransfer.getData('text/plain') || null)
                }}
              >
                {place.name}
                <small>{place.bound ?? ''}</small>
              </button>
            ))}
          </div>
        </section>
        {slot && (
          <AddressRule
            screen={screen}
            number={number}
            kind={kind}
            slot={slot}
            slotNumber={cell.slots.indexOf(slot)}
            check={slotCheck}
          />
        )}
      </div>
      <OwnCells screen={screen} number={number} kind={kind} items={items} />
      {check && check.withoutKind > 0 && (
        <Alert variant="warning" className="tt-notice">
          {check.withoutKind} items fit no kind of cell and take no room.
        </Alert>
      )}
      {slotCheck && (
        <Mosaic
          check={slotCheck}
          allowed={project.loading.cleartextHosts}
          onItem={(index) => {
            showSample(index)
            bringToScreen(index)
          }}
        />
      )}
      <div className="tt-cards">
        <OnScreenEdits />
        <Granted project={project} />
      </div>
    </div>
  )
}

function SampleCell({ project, screen, kind, item }: { project: Project; screen: Screen; kind: number; item: Item }) {
  const cell = screen.cells[kind]!
  const { widthDp, density } = project.device
  const width = cellWidthOf(screen.layout, widthDp)
  const geometry = useMemo(() => layOutCell(cell, width, item, () => null), [cell, width, item])
  const box = geometry.slots[0]
  const { picture, trouble } = usePicture(screen, cell.slots[0], item, box ?? null, density)
  const scale = Math.min(roomPx.width / width, roomPx.height / geometry.heightDp, 1.3)
  const heightPx = Math.round(geometry.heightDp * scale)
  return (
    <div
      className="tt-feed-sample"
      style={{ '--sample-px': `${heightPx}px` } as CSSProperties}
      data-short={heightPx < 100 || undefined}
    >
      <StageCell stage="settled" name="Settled" note="" {...{ cell, item, density, scale, picture }} widthDp={width} />
      {trouble && (
        <p className="tt-saving" role="status">
          Its picture is unavailable: {trouble}.
        </p>
      )}
    </div>
  )
}

/** The check of the screen's feed; the last one is shown until the next is there. */
function useFeedCheck(project: Project, number: number, items: readonly Item[]): FeedCheck | null {
  const screen = project.screens[number]!
  const relay = useDevice(({ relay }) => relay)
  // One answer, requested anew whenever its inputs change; with a key each, all former answers would be kept.
  const { data, error, mutate } = useSWRImmutable<FeedCheck, Error>(
    ['the check in Feed', project.name, screen.id],
    () => {
      const own = knownItems(screen.feed) !== null
      return feedWorker.ask('checkFeed', { project, screen: number, items: own ? null : items, relay }).result
    },
    { revalidateOnMount: false },
  )
  const { device } = project
  useEffect(() => void mutate(), [mutate, screen, device, items, relay])
  if (error) throw error
  return data ?? null
}
