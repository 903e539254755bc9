import type { RunLog } from '../../core/log/run-log.ts'
import { unitsPerDp } from '../../core/numbers/units.ts'
import type { Project, Visit } from '../../core/project/types.ts'
import type { Standstill, Wanted } from '../../core/watch/standstill.ts'
import { visitOrder } from '../../core/project/visits.ts'
import type { HoldingStage } from '../../live/cell-view.ts'
import type { FeedState } from '../../live/live-pages.ts'
import type { LiveOptions, LiveRun } from '../../live/live-run.ts'
import type { LedgerResponse } from '../../live/origin-client.ts'
import { ServerAway } from '../../live/server-away.ts'
import type { FidelityOrder } from '../../workers/jobs/describe-job.ts'
import type { RunResult } from '../../workers/jobs/run-result.ts'
import { Cancelled, runWorker, type Job } from '../simulate/worker-client.ts'
import { createStore } from '../store/external-store.ts'
import { currentProject, tell, type ProjectState } from '../store/project-store.ts'
import { itemsOf, itemsToGive } from '../store/feed-store.ts'
import { headersOf } from '../store/secrets.ts'
import { pickedOf } from '../store/picked-pictures.ts'
import { currentRuns, keepRun, logOf } from '../store/run-store.ts'
import type { ListPlace } from '../../core/scrolling/script-player.ts'
import { leave, takeLeft } from './left-behind.ts'
import { isMissingChunk } from '../shell/new-build.ts'

export interface DeviceState {
  /** The screen of the project that the device shows. */
  screen: number
  /** hand: the list is the user's; driving: a script has it; still: as a drive left it. */
  mode: 'starting' | 'hand' | 'driving' | 'still' | 'failed'
  simulating: boolean
  /** 0–1 of what is under way. */
  progress: number
  /** The stage that every cell of the live device is made to show. */
  forced: HoldingStage | null
  /** Slow motion of arrivals. */
  pace: number
  /** The list as a whole on the live device. */
  feed: FeedState
  trouble: string | null
  /** The kept run from whose state simulations of later visits begin; null: from what the visits before leave. */
  from: number | null
  /** What a stepped drive stands still at; null: it goes on, or none is stepped. */
  stood: Standstill | null
  /** Which visits a drive or a simulation makes. */
  visits: VisitChoice
}

/** A cancelled drive is kept at once: the server is asked for no longer than this, ms. */
const cancelledLedgerMs = 400

export type VisitChoice = Visit | 'all'
const visitsOf = (choice: VisitChoice): Visit[] => (choice === 'all' ? [...visitOrder] : [choice])

const store = createStore<DeviceState>({
  screen: 0,
  mode: 'starting',
  simulating: false,
  progress: 0,
  pace: 1,
  forced: null,
  feed: { is: 'waiting' },
  trouble: null,
  stood: null,
  from: null,
  visits: 'first',
})
export const useDevice = store.use
export const currentDevice = store.get

let host: HTMLElement | null = null
let live: LiveRun | null = null
/** Where the hand's list stood before it was made anew. */
let place: ListPlace | null = null
/** CSS px of the page for one dp of the device. */
let scale = 0.5
let refreshHz: number | null = null
let simulation: Job<RunResult[]> | null = null
let starts = 0
/** Marks of the drive that is about to begin: its list was not there yet. */
let marksBefore = 0
/** Ends what a former start still waits for. */
let starting = new AbortController()
/** Drives that are being kept, or have been. */
const finished = new WeakSet<LiveRun>()
/** Visits that follow the drive by themselves. */
let ahead: Visit[] = []
/** px, bytes of pictures that live runs have seen, for simulations of hosts that the core does not know. */
const seen = new Map<string, { bytes: number; width: number; height: number }>()

const update = (change: Partial<DeviceState>) => store.set({ ...store.get(), ...change })

/** The element in which the list lives; null when the view goes. */
export function attachDevice(element: HTMLElement | null): void {
  host = element
  if (!element) stopLive()
}

/** The page shows the device at another size. */
export function scaleDevice(cssPxPerDp: number): void {
  const change = cssPxPerDp / scale
  scale = cssPxPerDp
  if (change > 1.1 || change < 0.9) live?.redraw()
}

export function currentRun(): LiveRun | null {
  return live
}

export function showScreen(screen: number): void {
  update({ screen })
}

/** Scrolls the live list to an item of the feed, if the hand has it. */
export function bringToScreen(index: number): void {
  if (!live?.hand) return
  const { run, hand } = live
  const row = run.layout.rowOf(index)
  if (row >= 0) hand.nudge((run.layout.topOf(row) - run.top) / unitsPerDp - 60)
}

/** Shows one stage in every cell of the live device, whatever really happens; null: what really is. */
export function forceStage(forced: HoldingStage | null): void {
  update({ forced })
  live?.force(forced)
}

/** Which visits the next drive or simulation makes. */
export function chooseVisits(visits: VisitChoice): void {
  update({ visits })
}

/** From which kept run's state simulations of later visits begin. */
export function beginFrom(from: number | null): void {
  update({ from })
}

/** Pins this moment of the live run for later; the mark is kept with the run. */
export function markNow(): void {
  if (!live) {
    if (store.get().mode === 'driving') marksBefore++
    return
  }
  const row = live.run.layout.rowAt(live.run.top)
  live.note(row < 0 ? 'marked before the list was there' : `marked at row ${row}`)
}

/** How fast arrivals play on the live device: 1 as they are, less for slow motion. */
export function setPace(pace: number): void {
  update({ pace })
}

/** Starts the list for the hand, with the settings as they are now. */
export async function startHand(state: ProjectState, keepPlace: boolean): Promise<void> {
  if (!keepPlace) place = null
  // What no hand has moved since stands where it stood before: turning back, and back again, drifts nowhere.
  else if (live && (live.hand?.touched ?? true)) place = live.run.place
  await begin(state, null, place, 'first')
}

/** Drives the list by the project's script; the run is kept when it ends. */
export async function driveLive(): Promise<void> {
  const state = currentProject()
  if (!state || store.get().mode === 'driving') return
  const [first, ...rest] = visitsOf(store.get().visits)
  ahead = rest
  await begin(state, state.project.script ?? '', null, first!)
}

/** Drives until what is waited for has happened, and stands still there; null: goes on to the end. Begins a drive when none is under way. */
export async function stepLive(wanted: Wanted | null): Promise<void> {
  if (store.get().mode !== 'driving') await driveLive()
  if (store.get().mode === 'driving') live?.step(wanted, (stood) => update({ stood }))
}

/** Ends what is under way, at once, whatever the server does: a drive that has begun is kept as far as it came. */
export function cancelWork(): void {
  simulation?.cancel()
  ahead = []
  const state = currentProject()
  if (store.get().mode !== 'driving' || !state) return
  if (live) {
    live.cancel()
    void finishDrive(live, live.log, state)
    return
  }
  tell('The drive was cancelled before the server had answered: there is nothing to keep.')
  void startHand(state, false)
}

/** Runs the same script in the virtual world, on the chosen visits unless others are named; each run is kept. */
export async function simulate(choice: VisitChoice = store.get().visits): Promise<void> {
  const state = currentProject()
  if (!state || store.get().simulating) return
  const screen = screenAt(state.project)
  update({ simulating: true, progress: 0, trouble: null })
  try {
    const items = await itemsToGive(state.id, screen)
    const script = state.project.script ?? ''
    const { seed } = state.project
    simulation = runWorker.ask(
      'simulate',
      {
        project: state.project,
        screen: screen.id,
        script,
        seed,
        visits: visitsOf(choice),
        from: choice === 'first' || choice === 'all' ? null : await stateLeftBy(state.id, store.get().from),
        items,
        seen: [...seen],
      },
      (progress) => update({ progress }),
    )
    const runs = await simulation.result
    for (const [i, visit] of visitsOf(choice).entries())
      await keepRun(
        { project: state.id, world: 'simulated', visit, screen: screen.id, script, seed, raw: state.effective },
        runs[i]!,
        null,
      )
  } catch (error) {
    if (!(error instanceof Cancelled)) update({ trouble: `The simulation failed: ${messageOf(error)}` })
  } finally {
    simulation = null
    update({ simulating: false })
  }
}

/** px and bytes of pictures that live runs have seen. */
export const seenPictures = () => [...seen]

const screenAt = (project: Project) => project.screens[Math.min(store.get().screen, project.screens.length - 1)]!

async function begin(state: ProjectState, script: string | null, start: ListPlace | null, visit: Visit): Promise<void> {
  if (!host) return
  const mine = ++starts
  starting.abort()
  starting = new AbortController()
  const { signal } = starting
  stopLive()
  marksBefore = 0
  update({ mode: script === null ? 'starting' : 'driving', trouble: null, stood: null, feed: { is: 'waiting' } })
  try {
    const screen = screenAt(state.project)
    // The rate takes some twenty frames to measure: the rest is made ready meanwhile.
    const [hz, { LiveRun: Live }, headers, items] = await Promise.all([
      refreshHz ?? import('../../live/live-frames.ts').then(({ measureRefresh }) => measureRefresh()),
      import('../../live/live-run.ts'),
      headersOf(state.project.loading),
      screen.feed.source.type === 'file' ? itemsOf(state.id, screen) : null,
    ])
    refreshHz = hz
    if (mine !== starts || !host) return
    const before = script === null ? null : await takeLeft(state.id, visit)
    if (mine !== starts || !host) return
    const options: LiveOptions = {
      visit,
      left: before,
      whose: state.id,
      project: state.project,
      screen,
      script,
      seed: state.project.seed,
      refreshHz: hz,
      host,
      start,
      items,
      headers,
      headersNow: () => headersOf(state.project.loading),
      shown: () => Math.min(1, (scale * devicePixelRatio) / state.project.device.density),
      feed: (feed) => update({ feed }),
      pace: () => store.get().pace,
      picked: pickedOf(state.id),
      trouble: (trouble) => update({ trouble }),
      ended: (log) => live && void finishDrive(live, log, state),
    }
    const run = await Live.start(options, signal)
    if (mine !== starts) {
      run.stop()
      return
    }
    live = run
    for (; marksBefore > 0; marksBefore--) run.note('marked before the list was there')
    if (script === null) run.force(store.get().forced)
    update({ mode: script === null ? 'hand' : 'driving' })
  } catch (error) {
    // Somebody has begun something else, or cancelled this.
    if (mine !== starts || signal.aborted) return
    update({ mode: 'failed', trouble: `The device could not start: ${messageOf(error)}` })
    if (error instanceof ServerAway || isMissingChunk(error)) void beginWhenServerReturns(signal)
  }
}

/** The server was away when the device was to start: when it is back the list is the hand's again. */
async function beginWhenServerReturns(signal: AbortSignal): Promise<void> {
  const { serverReturns } = await import('../../live/own-server.ts')
  await serverReturns(signal).catch(() => undefined)
  const state = currentProject()
  if (!signal.aborted && state) await startHand(state, true)
}

/** Profiles and keeps a live run; what the client logged is held against what the origin really wrote. */
async function finishDrive(run: LiveRun, log: RunLog, state: ProjectState): Promise<void> {
  if (live !== run || finished.has(run)) return
  finished.add(run)
  update({ mode: 'still', stood: null })
  for (const { address, bytes, sourceWidth, sourceHeight } of log.assets)
    if (bytes > 0 && sourceWidth > 0) seen.set(address, { bytes, width: sourceWidth, height: sourceHeight })
  const wasCancelled = run.run.ended === 'cancelled'
  try {
    // The run does not wait long for what only the server knows: without it, that is not observed.
    const written = run.origin.ledger(wasCancelled ? cancelledLedgerMs : undefined)
    const { encodeLog } = await import('../../core/log/log-encoding.ts')
    const result = await runWorker.ask('describe', {
      log: encodeLog(log),
      against: log.head.script === 'by hand' ? null : await simulationOf(state),
    }).result
    const left = run.leaveBehind()
    await leave(state.id, left).catch((error: unknown) =>
      tell(`What the drive left in its tiers is not there for the next visit: ${messageOf(error)}`),
    )
    const { visit, screen, script, seed } = log.head
    await keepRun(
      { project: state.id, world: 'live', visit, screen, script, seed, raw: state.effective },
      { ...result, kept: JSON.stringify(left.tiers) },
      gapOf(result!, await written),
    )
  } catch (error) {
    tell(`The run could not be profiled: ${messageOf(error)}`)
  }
  const next = ahead.shift()
  if (next !== undefined && live === run) await begin(state, state.project.script ?? '', null, next)
}

/** How far the client's bytes and those that the origin says it wrote are apart; null: not observed. */
function gapOf({ metrics }: RunResult, responses: readonly LedgerResponse[] | null): number | null {
  const written = responses?.reduce((sum, response) => sum + response.bodyBytes, 0) ?? 0
  if (written === 0) return null
  const logged = (metrics['bytes.received'] ?? 0) + (metrics['bytes.inFlight'] ?? 0)
  return Math.abs(logged - written) / written
}

/** What a kept run left in the tiers; null: no run of this project was chosen. */
async function stateLeftBy(project: string, run: number | null): Promise<string | null> {
  // Another project's run is none of this one's states.
  if (run === null || !currentRuns().list.some((each) => each.id === run && each.project === project)) return null
  const kept = (await logOf(run))?.kept
  if (!kept) throw new Error('what that run left is not in this browser any more; choose another')
  return kept
}

/** What a simulation of the present screen needs; null where its items are not at hand. */
async function simulationOf(state: ProjectState): Promise<FidelityOrder | null> {
  const screen = screenAt(state.project)
  return itemsToGive(state.id, screen).then(
    (items) => ({ project: state.project, items }),
    () => null,
  )
}

function stopLive(): void {
  live?.stop()
  live = null
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error))
