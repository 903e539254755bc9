import { dequal } from 'dequal'
import type { RunLog } from '../../core/log/run-log.ts'
import { unitsPerDp } from '../../core/numbers/units.ts'
import { differInLooksAlone } from '../../core/project/looks-alone.ts'
import type { Screen, Visit } from '../../core/project/types.ts'
import type { ListPlace } from '../../core/scrolling/script-player.ts'
import type { Wanted } from '../../core/watch/standstill.ts'
import type { HoldingStage } from '../../live/cell-view.ts'
import type { LivePage } from '../../live/live-pages.ts'
import type { Found, LiveOptions } from '../../live/live-options.ts'
import type { LiveRun } from '../../live/live-run.ts'
import { ServerAway } from '../../live/server-away.ts'
import { isMissingChunk } from '../shell/new-build.ts'
import { itemsOf } from '../store/feed-store.ts'
import { pickedOf } from '../store/picked-pictures.ts'
import { currentProject, notify, type ProjectState } from '../store/project-store.ts'
import { headersOf } from '../store/secrets.ts'
import { currentDevice, messageOf, screenAt, update, visitsOf } from './device-state.ts'
import { takeLeft } from './left-behind.ts'
import { seePictures } from './seen-pictures.ts'

/** The refresh rate that a page is assumed to have until it is measured, Hz. */
const usualHz = 60

/** How long keeping a cancelled drive waits for the server, ms: it is kept at once. */
const cancelledLedgerMs = 400

/**
 * The live list of the page: made for the hand or for a drive, kept when a drive ends, made again when settings change.
 */
class LiveDevice {
  private host: HTMLElement | null = null
  private live: LiveRun | null = null
  /** Scroll position of the hand's list before it was rebuilt. */
  private place: ListPlace | null = null
  /** Pages of the feed that the list has loaded. */
  private pages: LivePage[] = []
  /** CSS px of the page for one dp of the device. */
  private cssPxPerDp = 0.5
  private refreshHz: number | null = null
  private measuring: Promise<number> | null = null
  private starts = 0
  /** The settings that the hand's list was made with. */
  private made: ProjectState | null = null
  /** Marks of a drive that is about to begin, whose list is not there yet. */
  private marksBefore = 0
  /** Cancels what an earlier start still waits for. */
  private starting = new AbortController()
  /** Drives that have been kept or are being kept. */
  private readonly finished = new WeakSet<LiveRun>()
  /** Visits that follow the drive automatically, on the same screen. */
  private ahead: Visit[] = []

  /** The element in which the list lives; null when the view goes. */
  attach(element: HTMLElement | null): void {
    this.host = element
    if (!element) this.stopLive()
  }

  /** The page shows the device at another size. */
  scaleTo(cssPxPerDp: number): void {
    const change = cssPxPerDp / this.cssPxPerDp
    this.cssPxPerDp = cssPxPerDp
    if (change > 1.1 || change < 0.9) this.live?.redraw()
  }

  /** Scrolls the live list to an item of the feed, if the hand has it. */
  bringToScreen(index: number): void {
    if (!this.live?.hand) return
    const { run, hand } = this.live
    const row = run.layout.rowOf(index)
    if (row !== null) hand.nudge((run.layout.topOf(row) - run.top) / unitsPerDp - 60)
  }

  /** Shows one stage in every cell of the live device, whatever its real one; null: the real ones. */
  forceStage(forced: HoldingStage | null): void {
    update({ forced })
    this.live?.force(forced)
  }

  /** Pins this moment of the live run for later; the mark is kept with the run. */
  markNow(): void {
    if (!this.live) {
      if (currentDevice().mode === 'driving') this.marksBefore++
      return
    }
    const row = this.live.run.layout.rowAt(this.live.run.top)
    this.live.note(row === null ? 'marked before the list was ready' : `marked at row ${row}`)
  }

  /** The present list, if there is one. */
  get run(): LiveRun | null {
    return this.live
  }

  /** How fast arrivals play on the live device: 1 as they are, less for slow motion. */
  setPace(pace: number): void {
    update({ pace })
  }

  /** Starts the list for the hand, with the settings as they are now. */
  async startHand(state: ProjectState, keepPlace: boolean): Promise<void> {
    if (!keepPlace) this.place = null
    else this.notePlace()
    await this.begin(state, screenAt(state.project), null, 'first')
  }

  /**
   * A position that no hand has changed since is restored exactly: turning the device back and forth does not drift.
   */
  private notePlace(): void {
    if (this.live && (this.live.hand?.touched ?? true)) this.place = this.live.run.place ?? this.place
  }

  /**
   * Whether the present list of the hand differs from the requested one in looks alone: then it stays until the new
   * one, which has its pictures, is there.
   */
  private outlives(state: ProjectState, screen: Screen): boolean {
    if (!this.live?.hand || !this.made || this.made.id !== state.id || this.made.project === state.project) return false
    return this.live.log.head.screen === screen.id && differInLooksAlone(this.made.project, state.project, screen.id)
  }

  /** Drives the list by the project's script; the run is kept when it ends. */
  async driveLive(): Promise<void> {
    const state = currentProject()
    if (!state || currentDevice().mode === 'driving') return
    const [first, ...rest] = visitsOf(currentDevice().visits)
    this.ahead = rest
    await this.begin(state, screenAt(state.project), state.project.script ?? '', first!)
  }

  /**
   * Drives until the awaited event has happened, and pauses there; null: goes on to the end. Begins a drive when none
   * is under way.
   */
  async stepLive(wanted: Wanted | null): Promise<void> {
    if (currentDevice().mode !== 'driving') await this.driveLive()
    if (currentDevice().mode === 'driving') this.live?.step(wanted, (standstill) => update({ standstill }))
  }

  /**
   * Ends the drive that is under way, at once, whatever the server does: a drive that has begun is kept as far as it
   * got.
   */
  cancel(): void {
    this.ahead = []
    const state = currentProject()
    if (currentDevice().mode !== 'driving' || !state) return
    if (this.live) {
      this.live.cancel()
      void this.finish(this.live, this.live.log, state)
      return
    }
    notify('The drive was cancelled before the server had answered: there is nothing to keep.')
    void this.startHand(state, false)
  }

  private async begin(state: ProjectState, screen: Screen, script: string | null, visit: Visit): Promise<void> {
    if (!this.host) return
    const start = ++this.starts
    this.starting.abort()
    this.starting = new AbortController()
    const { signal } = this.starting
    const stays = script === null && this.outlives(state, screen)
    if (!stays) {
      this.stopLive()
      this.pages = []
    }
    this.marksBefore = 0
    update({ mode: script === null ? 'starting' : 'driving', trouble: null, standstill: null })
    if (!stays) update({ feed: { is: 'waiting' } })
    try {
      const measured = this.measureRefresh()
      // The rate takes some twenty frames to measure. A drive is judged by it; a hand need not wait for it.
      const [hz, { LiveRun: Live }, headers, items] = await Promise.all([
        script === null ? (this.refreshHz ?? usualHz) : measured,
        import('../../live/live-run.ts'),
        headersOf(state.project.loading),
        screen.feed.source.type === 'file' ? itemsOf(state.id, screen) : null,
      ])
      if (start !== this.starts || !this.host) return
      const before = script === null ? null : await takeLeft(state.id, visit)
      if (start !== this.starts || !this.host) return
      const options: Omit<LiveOptions, Found> = {
        whose: state.id,
        project: state.project,
        screen,
        script,
        seed: state.project.seed,
        refreshHz: hz,
        host: this.host,
        items,
        pages: this.pages,
        headers,
        headersNow: () => headersOf(state.project.loading),
        shown: () => Math.min(1, (this.cssPxPerDp * devicePixelRatio) / state.project.device.density),
        stays,
        feed: (feed) => {
          if (!stays || feed.is !== 'waiting') update({ feed })
        },
        pace: () => currentDevice().pace,
        picked: pickedOf(state.id),
        trouble: (trouble) => update({ trouble }),
        ended: (log) => this.live && void this.finish(this.live, log, state),
      }
      const run = await Live.start(options, signal, () => {
        const shown = stays ? this.live : null
        if (shown) this.notePlace()
        const left = shown?.leaveBehind() ?? before
        this.stopLive()
        return { visit: shown ? 'again' : visit, left, start: script === null ? this.place : null }
      })
      if (start !== this.starts) {
        run.stop()
        return
      }
      this.take(run, script === null ? state : null)
      if (script === null) void this.renewWhenQuicker(measured, { hz, start, state })
    } catch (error) {
      // Something else was begun meanwhile, or this was cancelled.
      if (start !== this.starts || signal.aborted) return
      // A list that has stayed stops like any other: it is not the one that was requested.
      this.stopLive()
      update({ mode: 'failed', trouble: `The device could not start: ${messageOf(error)}` })
      if (error instanceof ServerAway || isMissingChunk(error)) void this.beginWhenServerReturns(signal)
    }
  }

  /** The list is ready: that of a drive, or the hand's with these settings. */
  private take(run: LiveRun, made: ProjectState | null): void {
    this.live = run
    this.made = made
    if (!dequal(currentDevice().relay, run.origin.relay)) update({ relay: run.origin.relay })
    for (; this.marksBefore > 0; this.marksBefore--) run.note('marked before the list was ready')
    if (made) run.force(currentDevice().forced)
    update({ mode: made ? 'hand' : 'driving' })
  }

  /** A page that is faster than assumed gets a list that knows it; one that seems slower may only be busy. */
  private async renewWhenQuicker(
    measured: Promise<number>,
    { hz, start, state }: { hz: number; start: number; state: ProjectState },
  ): Promise<void> {
    // Where it cannot be measured the list stays as it is: a drive, which needs it, measures again and reports the
    // failure.
    const rate = await measured.catch(() => hz)
    if (rate > hz && start === this.starts) await this.startHand(state, true)
  }

  /** The page's refresh rate, Hz. A page that seemed slow may have been busy: it is measured again, the best counts. */
  private measureRefresh(): Promise<number> {
    this.measuring ??= import('../../live/refresh-rate.ts').then(async ({ measureRefresh }) => {
      this.refreshHz = Math.max(this.refreshHz ?? 0, await measureRefresh())
      if (this.refreshHz < usualHz) this.measuring = null
      return this.refreshHz
    })
    // A part that could not be loaded is requested again.
    this.measuring.catch(() => (this.measuring = null))
    return this.measuring
  }

  /** The server was away when the device was about to start: when it is back the list is the hand's again. */
  private async beginWhenServerReturns(signal: AbortSignal): Promise<void> {
    const { serverReturns } = await import('../../live/own-server.ts')
    await serverReturns(signal).catch(() => undefined)
    const state = currentProject()
    if (!signal.aborted && state) await this.startHand(state, true)
  }

  /** The drive has ended: it is kept, and the next visit begins by itself. */
  private async finish(run: LiveRun, log: RunLog, state: ProjectState): Promise<void> {
    if (this.live !== run || this.finished.has(run)) return
    this.finished.add(run)
    update({ mode: 'still', standstill: null })
    seePictures(log)
    // The run does not wait long for what only the server knows: without an answer that is not observed.
    const written = run.origin.ledger(run.run.ended === 'cancelled' ? cancelledLedgerMs : undefined)
    const left = run.leaveBehind()
    const now = currentProject()
    // Another screen or project was chosen during the drive: it is shown as soon as the drive has ended.
    const isElsewhere = now !== null && (now.id !== state.id || screenAt(now.project).id !== log.head.screen)
    if (isElsewhere && this.ahead.length === 0) void this.startHand(now, false)
    try {
      await (await import('./keep-drive.ts')).keepDrive(log, { left, written }, state)
    } catch (error) {
      notify(`The run could not be kept: ${messageOf(error)}`)
    }
    const next = this.ahead.shift()
    const screen = state.project.screens.find(({ id }) => id === log.head.screen)
    if (next !== undefined && screen && this.live === run)
      await this.begin(state, screen, state.project.script ?? '', next)
  }

  private stopLive(): void {
    this.live?.stop()
    this.live = null
  }
}

export const liveDevice = new LiveDevice()
