import { AssetTable } from '../core/loading/asset-table.ts'
import type { RunLog } from '../core/log/run-log.ts'
import type { Item, Screen, Visit } from '../core/project/types.ts'
import { keepTiers, restoreTiers } from '../core/simulate/kept-tiers.ts'
import { whyFailed } from '../core/watch/why-failed.ts'
import { ListRun } from '../core/list/list-run.ts'
import { standstillOf, steppedNote, StopWatch, type Standstill, type Wanted } from '../core/watch/standstill.ts'
import { headOf, scriptOf } from '../core/simulate/simulate.ts'
import { ScriptPlayer } from '../core/scrolling/script-player.ts'
import type { Heap, World } from '../core/worlds/ports.ts'
import type { HoldingStage } from './cell-view.ts'
import { HandMotion } from './hand-motion.ts'
import { gated, Gate } from './gate.ts'
import { LiveClock } from './live-clock.ts'
import { LiveDecoder } from './live-decoder.ts'
import { byHand, LiveDisk } from './live-disk.ts'
import { LiveFrames } from './live-frames.ts'
import { LiveLog } from './live-log.ts'
import { LiveNetwork } from './live-network.ts'
import type { Found, LeftBehind, LiveOptions } from './live-options.ts'
import { LiveSurface } from './live-surface.ts'
import { livePages, type FeedState, type LivePage } from './live-pages.ts'
import { OriginClient } from './origin-client.ts'
import { serverReturns } from './own-server.ts'

/** The disk tier's freshness is judged by seconds of real time. */
const epochMs = () => Math.round(performance.timeOrigin + performance.now())

/** No collector can be observed from a page: garbage is not part of a live run's events. */
const unseenHeap: Heap = { churn: () => undefined, garbage: () => 0, collect: () => null }

/** One live visit: the engine in the browser's own world. */
export class LiveRun {
  readonly log: RunLog
  readonly origin: OriginClient
  readonly run: ListRun
  hand: HandMotion | null = null
  /** Draws the pictures again: the page shows the device at another size. */
  readonly redraw: () => void
  /** Shows one stage in every cell; null: the real ones. */
  readonly force: (stage: HoldingStage | null) => void
  private readonly clock = new LiveClock()
  private readonly gate = new Gate(this.clock)
  private readonly stopWatch: StopWatch
  private readonly network: LiveNetwork
  private readonly decoder: LiveDecoder
  private readonly disk: LiveDisk
  private readonly frames: LiveFrames
  private readonly abort = new AbortController()
  private readonly watch: ReturnType<typeof setInterval>
  private readonly table: AssetTable
  private endReported = false
  private stepped = false

  private constructor(options: LiveOptions, origin: OriginClient) {
    const { project, screen, seed, host, ended } = options
    const script = options.script === null ? null : scriptOf(project, options.script)
    this.origin = origin
    this.log = new LiveLog({
      ...headOf(project, screen, { world: 'live', seed, visit: options.visit, script: script?.name ?? 'by hand' }),
      refreshHz: options.refreshHz,
    })
    const table = new AssetTable(this.log)
    this.network = new LiveNetwork({
      origin,
      now: () => this.clock.now(),
      headersNow: options.headersNow,
      serverReturns,
      trouble: options.trouble,
      returned: () => this.gate.pass(() => this.run.networkReturned()),
    })
    this.decoder = new LiveDecoder(
      this.network.bodies,
      table,
      project.loading.decodeOn === 'main' ? 0 : project.loading.decodeWorkers,
    )
    this.disk = new LiveDisk(
      script === null ? byHand : options.whose,
      this.network.bodies,
      table,
      project.assets,
      options.picked,
      options.trouble,
    )
    const { disk } = this
    if (options.visit === 'first') disk.clear()
    const checkEnd = () => {
      if (script === null || this.endReported || this.gate.closed || !this.run.checkEnd()) return
      this.endReported = true
      ended(this.log)
    }
    const surface = new LiveSurface(host, project, screen, this.decoder, options)
    const surfaces = new Set([surface])
    this.frames = new LiveFrames(this.clock, this.gate, options.refreshHz, {
      finish: () => {
        for (const each of surfaces) each.tidy()
      },
      afterEach: checkEnd,
    })
    this.redraw = () => surface.redraw()
    this.force = (stage) => surface.force(stage)
    const pagesOf = (
      of: Screen,
      { given, known }: { given: readonly Item[] | null; known: LivePage[] },
      report: (state: FeedState) => void,
    ) =>
      livePages({
        origin,
        screen: of,
        known,
        given,
        signal: this.abort.signal,
        timeoutMs: project.loading.timeoutMs,
        outage: () => this.network.outage,
        unreachable: () => this.network.unreachable(),
        report,
      })
    const world: World = {
      clock: this.clock,
      network: this.network,
      decoder: this.decoder,
      disk,
      frames: this.frames,
      heap: unseenHeap,
      pages: pagesOf(screen, { given: options.items, known: options.pages }, (feed) => {
        // There may never be a cell.
        if (feed.is === 'failed' || feed.is === 'empty') surface.show()
        options.feed(feed)
      }),
      surface,
      screens: {
        pages: (other) => pagesOf(other, { given: null, known: [] }, () => undefined),
        show: (other, item, geometry) => {
          const over = document.createElement('div')
          over.className = 'tt-opened'
          host.append(over)
          const drawn = new LiveSurface(over, project, other, this.decoder, { ...options, stays: false })
          drawn.attach({ item, geometry })
          surfaces.add(drawn)
          const close = () => {
            surfaces.delete(drawn)
            over.remove()
          }
          return { surface: drawn, close }
        },
      },
    }
    this.stopWatch = new StopWatch(this.log)
    const inner = gated(world, this.gate)
    this.run = new ListRun({
      project,
      screen,
      world: inner,
      log: this.log,
      table,
      seed,
      epochMs: epochMs(),
      motion: (bounds, act, requestFrame) => {
        if (script) return new ScriptPlayer(script.steps, project.device.flick, inner.clock, bounds, act, requestFrame)
        this.hand = new HandMotion(project.device.flick, bounds, requestFrame, () => this.clock.now(), options.start)
        return this.hand
      },
      setOffline: (offline) => this.network.setOffline(offline),
    })
    const { run } = this
    disk.entryOf = (asset) => run.loader.diskTier.entry(asset)
    this.table = table
    if (options.left) this.takeOver(options.left, options.visit)
    this.log.head.diskStartBytes = run.loader.diskTier.bytes
    surface.attach({
      item: (index) => run.itemAt(index),
      geometry: (index) => run.layout.geometry(index),
      whyFailed: (cell, slot) => whyFailed(run, cell, slot),
    })
    this.watch = setInterval(checkEnd, 100)
    document.addEventListener('visibilitychange', this.followTab)
    run.start()
  }

  /**
   * Throws when the server gives no session, or when `signal` says that it is no longer wanted. `finds`: called when
   * the list can be made at once, for the state that it finds there; an earlier list may stay, and be scrolled, until
   * then.
   */
  static async start(
    options: Omit<LiveOptions, Found>,
    signal: AbortSignal,
    finds: () => Pick<LiveOptions, Found>,
  ): Promise<LiveRun> {
    const { project, seed, headers } = options
    const origin = await OriginClient.open(project.network, seed, headers, project.loading.headers, signal)
    if (signal.aborted) {
      void origin.close()
      signal.throwIfAborted()
    }
    return new LiveRun({ ...options, ...finds() }, origin)
  }

  /** Hands the contents of the tiers to the next visit; nothing of it is closed when this run stops. */
  leaveBehind(): LeftBehind {
    const tiers = keepTiers(this.run.loader, this.table)
    const held = this.run.loader.memory.entries()
    return { tiers, pictures: held.map(({ rendition }) => this.decoder.give(rendition)) }
  }

  /** A hidden tab is an app in the background. */
  private readonly followTab = () => this.run.play({ do: document.hidden ? 'background' : 'foreground' })

  private takeOver({ tiers, pictures }: LeftBehind, visit: Visit): void {
    // A picture that is not there any more cannot be in memory.
    const memory = tiers.memory.filter((_, i) => pictures[i])
    restoreTiers({ ...tiers, memory }, visit, this.run.loader, this.table)
    if (visit !== 'again') return
    const there = pictures.filter((picture) => picture !== null)
    const unknown = { bytes: null, widthPx: null, heightPx: null }
    for (const [i, { identity, host, target }] of memory.entries()) {
      const rendition = this.table.rendition(this.table.asset(identity, identity, host, unknown), target)
      if (this.run.loader.memory.has(rendition)) this.decoder.take(rendition, there[i]!)
    }
  }

  /** Bytes of a running transfer received by now. */
  received(transfer: number): number {
    return this.network.received(transfer)
  }

  /** ms since the visit began. */
  nowMs(): number {
    return this.clock.now() / 1000
  }

  /** Continues until the awaited event has happened, and pauses there; null: to the end. */
  step(wanted: Wanted | null, onStandstill: (standstill: Standstill | null) => void): void {
    this.gate.turned = (closed) => {
      if (!closed) this.frames.goOn()
    }
    this.gate.closes = () => {
      const at = wanted === null ? null : this.stopWatch.next(wanted)
      if (at) onStandstill(standstillOf(this.run, this.log, at, false))
      return at !== null
    }
    if (!this.stepped) this.note(steppedNote)
    this.stepped = true
    if (!this.gate.closed) this.stopWatch.skip()
    onStandstill(null)
    this.gate.open()
  }

  /** Pins this moment for later. */
  note(text: string): void {
    this.log.events.note(this.clock.now(), { text })
  }

  /** Ends the visit early; what happened so far stays in the log. */
  cancel(): void {
    this.endReported = true
    this.run.end('cancelled')
  }

  /** Releases everything real: fetches, workers, timers, frames. */
  stop(): void {
    this.run.end('stopped')
    this.endReported = true
    clearInterval(this.watch)
    document.removeEventListener('visibilitychange', this.followTab)
    this.abort.abort()
    this.frames.stop()
    this.clock.stop()
    this.network.stop()
    this.decoder.stop()
    this.disk.stop()
    void this.origin.close()
  }
}
