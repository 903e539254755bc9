import { dequal } from 'dequal'
import { useEffect, useMemo, useRef, useState, type ComponentType } from 'react'
import Button from 'react-bootstrap/Button'
import type { Project } from '../../core/project/types.ts'
import { Progress } from '../controls/Progress.tsx'
import { usePlayed } from '../playback/playback-store.ts'
import { currentProject, set, useProject } from '../store/project-store.ts'
import {
  attachDevice,
  cancelWork,
  markNow,
  setPace,
  currentDevice,
  currentRun,
  driveLive,
  scaleDevice,
  simulate,
  startHand,
  useDevice,
} from './device-store.ts'
import { LazyPart } from '../shell/LazyPart.tsx'
import { useDeviceScale } from './use-device-scale.ts'
import { Chip } from '../controls/Chip.tsx'

/** A changed setting reaches the live list when the hand has been still for so long, ms. */
const settleMs = 220

/** The live device: the list at its proportions, its chips, and what drives it. */
export function DevicePanel() {
  const state = useProject()
  const chosen = useDevice(({ screen }) => screen)
  const mode = useDevice(({ mode }) => mode)
  const simulating = useDevice(({ simulating }) => simulating)
  const trouble = useDevice(({ trouble }) => trouble)
  const pace = useDevice(({ pace }) => pace)
  const area = useRef<HTMLDivElement>(null)
  const started = useRef('')
  const [readout, setReadout] = useState(false)
  const pressed = useRef<{ x: number; y: number } | null>(null)
  const playing = usePlayed() !== null
  const scale = useDeviceScale(area, state?.project.device ?? null)

  const listInput = useListInput(state?.project)

  useEffect(() => scaleDevice(scale), [scale])
  useEffect(() => {
    if (!state) return
    const place = `${state.id} ${chosen}`
    const same = started.current === place
    const timer = setTimeout(
      () => {
        started.current = place
        // A drive that was started meanwhile has these settings already.
        if (currentDevice().mode !== 'driving') void startHand(state, same)
      },
      same ? settleMs : 0,
    )
    return () => clearTimeout(timer)
    // What the list is made of is its input; gestures, budgets, saving and notices are not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [listInput, state?.id, chosen])

  if (!state) return <div className="tt-device-panel" />
  const { project } = state
  const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
  const { widthDp, heightDp } = project.device
  const busy = mode === 'driving' || simulating
  return (
    <section className="tt-device-panel" aria-label="Device">
      <div className="tt-chips">
        <LazyChip
          name="Screens"
          load={() => import('./ScreenChip.tsx')}
          given={{ name: screen.name || screen.id }}
          text={screen.name || screen.id}
        />
        <LazyChip name="Variants" load={() => import('./VariantChip.tsx')} text="" />
        <LazyChip
          name="Device settings"
          load={() => import('./DeviceChip.tsx')}
          text={`${project.device.refreshHz} Hz`}
        />
        <span
          className="tt-chip"
          tabIndex={0}
          data-explain={`The network that the origin paces its answers by: ${project.network.downKbps / 1000} Mbit/s, ${project.network.rttMs} ms; illustrative values`}
        >
          {project.network.name}
        </span>
      </div>
      <div className="tt-device-area" ref={area}>
        <div className="tt-device" style={{ width: widthDp * scale + 10, height: heightDp * scale + 10 }}>
          <div
            className="tt-glass"
            data-readout={readout ? '' : undefined}
            ref={attachDevice}
            tabIndex={0}
            role="group"
            aria-label={`${screen.name || screen.id}, the live list: drag it, or scroll it with the arrow and page keys; a failed picture is asked for again by a tap, all of them with r`}
            style={{ width: widthDp, height: heightDp, zoom: scale }}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              pressed.current = { x: event.clientX, y: event.clientY }
              withHand((hand) => hand.press(event.clientY / scale, event.timeStamp))
            }}
            onPointerMove={(event) =>
              event.buttons > 0 && withHand((hand) => hand.move(event.clientY / scale, event.timeStamp))
            }
            onPointerUp={(event) => {
              withHand((hand) => hand.release(event.timeStamp))
              const from = pressed.current
              if (from && Math.hypot(event.clientX - from.x, event.clientY - from.y) < tapPx)
                retryAt(event.clientX, event.clientY)
            }}
            onWheel={(event) => withHand((hand) => hand.nudge(event.deltaY / scale))}
            onKeyDown={(event) => {
              if (event.key === 'r' && !event.ctrlKey && !event.metaKey && currentHand())
                currentRun()?.run.retryFailed(null)
              const steps: Record<string, number> = {
                ArrowDown: 80,
                ArrowUp: -80,
                PageDown: heightDp,
                PageUp: -heightDp,
                Home: -beyondAll,
                End: beyondAll,
              }
              const dp = steps[event.key]
              if (dp === undefined) return
              event.preventDefault()
              withHand((hand) => hand.nudge(dp))
            }}
          />
          {playing && (
            <LazyPart
              name="Playback"
              load={() => import('../playback/DeviceOverlay.tsx')}
              given={{ scale }}
              meanwhile={null}
            />
          )}
          <FeedSign />
          <LazyPart
            name="Readout"
            load={() => import('./DeviceReadout.tsx')}
            given={{ on: readout }}
            meanwhile={null}
          />
        </div>
      </div>
      {trouble && (
        <p className="tt-trouble" role="alert">
          {trouble}
        </p>
      )}
      <div className="tt-drive">
        <Button className="tt-main-action" data-hint="drive" onClick={() => void driveLive()} disabled={busy}>
          ▶ Drive live
        </Button>
        <Button variant="outline-primary" onClick={() => void simulate()} disabled={busy}>
          Simulate
        </Button>
        {!busy && <PaceChip pace={pace} onReplay={() => void startHand(state, true)} />}
        {busy && (
          <Button variant="outline-secondary" onClick={cancelWork}>
            Cancel
          </Button>
        )}
      </div>
      <div className="tt-under" aria-live="polite">
        {mode === 'driving' && `Driving: ${project.script}`}
        {simulating && <SimulationProgress />}
        {!busy && <ScriptPick />}
        <Chip
          aria-pressed={readout}
          data-explain="Created, bound, in flight and late while the finger moves; the tier of each picture on it: m memory, d disk, n network, l local"
          onClick={() => setReadout(!readout)}
        >
          readout
        </Chip>
        <Chip
          data-explain="Pins this moment of the drive for later (key M)"
          disabled={mode !== 'driving'}
          onClick={markNow}
        >
          mark
        </Chip>
      </div>
    </section>
  )
}

/** Alone follows the progress: a tick of it draws nothing else again. */
function SimulationProgress() {
  return <Progress name="Simulating" share={useDevice(({ progress }) => progress)} />
}

/** A chip that is loaded when the rest is there; until then, and without it, its text. */
function LazyChip<P extends object>({
  name,
  load,
  given,
  text,
}: {
  name: string
  load: () => Promise<{ default: ComponentType<P> }>
  given?: P
  text: string
}) {
  const plain = text === '' ? null : <span className="tt-chip">{text}</span>
  return <LazyPart name={name} load={load} {...(given && { given })} meanwhile={plain} without={plain} />
}

/** What the list is made of: the same object until something of it changes. */
function useListInput(project: Project | undefined): object | undefined {
  const now = useMemo(
    () => project && { ...project, name: '', scripts: [], script: null, variants: [], budgets: [] },
    [project],
  )
  const [kept, setKept] = useState(now)
  if (kept === now || dequal(kept, now)) return kept
  setKept(now)
  return now
}

/** Farther than any list is long, dp: the list stops at its end. */
const beyondAll = 1e12

const paces = [
  [1, '1×'],
  [0.5, '½×'],
  [0.25, '¼×'],
  [0.1, '⅒×'],
] as const

/** Slow motion of arrivals on the device, and the load once more. */
function PaceChip({ pace, onReplay }: { pace: number; onReplay: () => void }) {
  const at = paces.findIndex(([each]) => each === pace)
  const [next] = paces[(at + 1) % paces.length]!
  return (
    <>
      <Chip
        aria-label={`Arrivals play at ${paces[at]![1]}`}
        data-explain="Slow motion of arrivals on the device"
        onClick={() => setPace(next)}
      >
        {paces[at]![1]}
      </Chip>
      <Chip aria-label="Load what is on screen again" data-explain="Load what is on screen again" onClick={onReplay}>
        ↻
      </Chip>
    </>
  )
}

/** What the list as a whole has to say: that its feed is waited for, is empty, or stopped at a page that failed. */
function FeedSign() {
  const feed = useDevice(({ feed }) => feed)
  const mode = useDevice(({ mode }) => mode)
  if (feed.is === 'shown' || mode === 'failed') return null
  return (
    <div className="tt-feed-sign" role="status" data-is={feed.is}>
      {feed.is === 'waiting' && 'Asking for the feed…'}
      {feed.is === 'empty' && 'This feed has no items.'}
      {feed.is === 'failed' && (
        <>
          Page {feed.page} failed: {feed.message}
          <Button size="sm" variant="outline-primary" onClick={() => currentRun()?.run.askPageAgain()}>
            Ask again
          </Button>
        </>
      )}
    </div>
  )
}

/** A press that moves less than this is a tap, px. */
const tapPx = 4

/** A tap on a cell asks once more for its pictures that failed. */
function retryAt(x: number, y: number): void {
  const cell = document
    .elementsFromPoint(x, y)
    .flatMap((element) => element.closest<HTMLElement>('.tt-cell[data-index]') ?? [])[0]
  // A drive is the script's: a tap would make it another one.
  if (cell && currentHand()) currentRun()?.run.retryFailed(Number(cell.dataset.cell))
}

/** The hand takes the list; after a drive it starts anew from where the drive left it. */
function withHand(act: (hand: NonNullable<ReturnType<typeof currentHand>>) => void): void {
  const hand = currentHand()
  const state = currentProject()
  if (hand) act(hand)
  else if (currentDevice().mode === 'still' && state) void startHand(state, true)
}

function currentHand() {
  const run = currentRun()
  return run?.hand ?? null
}

function ScriptPick() {
  const { project } = useProject()!
  return (
    <span className="tt-script">
      <select
        aria-label="Script"
        data-explain="The gesture that drives the list"
        value={project.script ?? ''}
        onChange={(event) => set('/script', event.target.value)}
      >
        {project.scripts.map((script) => (
          <option key={script.name}>{script.name}</option>
        ))}
      </select>
    </span>
  )
}
