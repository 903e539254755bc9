import { RunLog } from '../log/run-log.ts'
import type { AppEvent } from './app-event.ts'
import type { Aligned } from './clocks.ts'
import { longestMs, type EvidenceEvent, type Exchange } from './evidence.ts'
import { exchangeOf, isTriedAgain } from './exchanges.ts'
import { moved } from './moved.ts'
import { recordedHead } from './recorded-head.ts'
import { EvidenceWriter, type EventNames } from './evidence-writer.ts'
import { FrameTimes, refreshOf } from './recorded-frames.ts'
import { RecordedCells } from './recorded-cells.ts'
import { RecordedRequests, type Asset, type Running } from './recorded-requests.ts'
import { RecordedRows } from './recorded-rows.ts'

/** Something that happens in the run that is being assembled. */
interface Step {
  /** µs. */
  t: number
  /** Order within one instant: what ends, what the app reports (in its order), what starts. */
  rank: number
  order: number
  run: () => void
}

const ends = 0
const says = 1
const begins = 2
const endsAtOnce = 3

/** Combines what the sources report into a run log, from which the same profile is made as from any other. */
export function recordRun(aligned: readonly Aligned[], names: { project: string; screen: string }): RunLog {
  return new Recorder(aligned, names).record()
}

class Recorder {
  private readonly log: RunLog
  private readonly events: EvidenceEvent[] = []
  private readonly exchanges: Exchange[]
  private readonly requests: RecordedRequests
  private readonly cells: RecordedCells
  private readonly steps: Step[] = []
  private readonly frames: FrameTimes
  private readonly names: EventNames
  private readonly writer: EvidenceWriter
  private order = 0

  constructor(aligned: readonly Aligned[], called: { project: string; screen: string }) {
    for (const { source, shiftMs } of aligned)
      for (const event of source.events) this.events.push(moved(event, shiftMs))
    this.exchanges = aligned.flatMap(({ source, shiftMs }) => source.exchanges.map((each) => moved(each, shiftMs)))
    for (const event of this.events) if (event.event === 'response') this.exchanges.push(exchangeOf(event))
    this.exchanges.sort((one, other) => one.startMs - other.startMs)
    // Stable: events of one instant stay in their order.
    this.events.sort((one, other) => one.t - other.t)
    this.names = new Set(this.events.map(({ event }) => event))
    const appHead = aligned.find(({ source }) => source.head)?.source.head ?? null
    const refreshHz = appHead?.refreshHz ?? refreshOf(this.events)
    const rows = new RecordedRows(this.events)
    const { events, exchanges } = this
    this.log = new RunLog(recordedHead({ events, exchanges, appHead, refreshHz, columns: rows.columns }, called))
    this.requests = new RecordedRequests(this.log)
    this.cells = new RecordedCells(this.log, this.requests, rows, {
      byScroll: this.names.has('scroll') && rows.isMeasured,
      hasFrames: this.names.has('frame'),
      reportsDeliveries: this.names.has('deliver'),
    })
    this.frames = new FrameTimes(this.events, refreshHz)
    this.writer = new EvidenceWriter(this.log, { requests: this.requests, cells: this.cells }, this.events, this.names)
  }

  record(): RunLog {
    this.planExchanges()
    this.planEvents()
    this.steps.sort((one, other) => one.t - other.t || one.rank - other.rank || one.order - other.order)
    for (const { run } of this.steps) run()
    const last = this.steps.at(-1)?.t ?? 0
    this.log.events.end(Math.max(last, this.log.endTime), { why: 'recorded' })
    return this.log
  }

  private plan(ms: number, rank: number, run: (t: number) => void, order: number = this.order++): void {
    // Events beyond the clock of a log belong to another run.
    if (!(ms >= 0 && ms <= longestMs)) return
    const t = Math.round(ms * 1000)
    this.steps.push({ t, rank, order, run: () => run(t) })
  }

  private planExchanges(): void {
    const byAddress = new Map<string, Exchange[]>()
    for (const each of this.exchanges) {
      const list = byAddress.get(each.address)
      if (list) list.push(each)
      else byAddress.set(each.address, [each])
    }
    const asked = this.askedTimes()
    for (const [address, list] of byAddress) {
      const asset = this.requests.of(address)
      asset.onNetwork = true
      for (const [i, exchange] of list.entries())
        this.planExchange(asset, exchange, isTriedAgain(exchange, list[i + 1], asked.get(address)), asked.has(address))
    }
  }

  /** When each address was wanted or bound, ms, ascending. */
  private askedTimes(): Map<string, number[]> {
    const asked = new Map<string, number[]>()
    for (const event of this.events) {
      if (event.event !== 'want' && event.event !== 'bind') continue
      const { address } = event
      if (address === undefined) continue
      const known = asked.get(address)
      if (known) known.push(event.t)
      else asked.set(address, [event.t])
    }
    return asked
  }

  private planExchange(asset: Asset, exchange: Exchange, retried: boolean, isAsked: boolean): void {
    const { requests } = this
    const { wantedMs, startMs, firstByteMs, endMs, status, bytes } = exchange
    if (exchange.fromCache) {
      this.plan(endMs ?? startMs, begins, (t) => {
        requests.fromDisk(t, asset)
        this.writer.came(t, asset)
      })
      return
    }
    if (!isAsked || !this.names.has('want')) this.plan(wantedMs, begins, (t) => void requests.want(t, asset))
    let running: Running | null = null
    this.plan(startMs, begins, (t) => {
      running = requests.start(t, asset, exchange.conditional)
    })
    if (exchange.connectMs !== null)
      this.plan(startMs + exchange.connectMs, endsAtOnce, (t) => running && requests.connected(t, running))
    const after = (ms: number) => (Math.round(ms * 1000) === Math.round(startMs * 1000) ? endsAtOnce : ends)
    if (firstByteMs !== null && status > 0)
      this.plan(firstByteMs, after(firstByteMs), (t) => running && requests.firstByte(t, running, status))
    if (endMs === null) return
    this.plan(endMs, after(endMs), (t) => {
      if (!running) return
      const { request } = running
      switch (exchange.end) {
        case 'complete':
          requests.received(t, asset, running, Math.round(bytes ?? 0))
          this.writer.came(t, asset)
          break
        case 'open':
          if (bytes) requests.progress(t, running, Math.round(bytes))
          break
        case 'cut':
          requests.cancel(t, asset, request, Math.round(bytes ?? 0))
          break
        case 'failed':
          requests.fail(t, asset, request, { reason: exchange.reason, status, bytes: Math.round(bytes ?? 0) }, retried)
      }
    })
  }

  private planEvents(): void {
    for (const [order, event] of this.events.entries()) {
      switch (event.event) {
        case 'frame':
          this.planFrame(event, order)
          break
        case 'scroll':
          this.planScroll(event, order)
          break
        case 'decode': {
          const { address } = event
          this.plan(
            Math.max(0, event.t - event.ms),
            begins,
            (t) => this.writer.beginDecode(t, this.requests.of(address)),
            order,
          )
          this.plan(event.t, says, (t) => this.writer.write(t, event), order)
          break
        }
        default:
          this.plan(event.t, says, (t) => this.writer.write(t, event), order)
      }
    }
  }

  private planFrame(event: Extract<AppEvent, { event: 'frame' }>, order: number): void {
    this.plan(
      event.presentedMs,
      says,
      (t) => {
        const { due, begin } = this.frames.of(event)
        this.log.events.frame(t, {
          due: Math.round(due * 1000),
          presented: t,
          begin: Math.round(begin * 1000),
          toldLate: 0,
        })
        if (event.workMs !== undefined)
          this.log.events.work(t, { cause: this.log.text('frame'), ms: Math.round(event.workMs * 1000) })
      },
      order,
    )
    this.plan(event.presentedMs, says, (t) => this.cells.lookAt(t), order + 0.75)
  }

  /** A scroll belongs to the frame that shows it. */
  private planScroll(event: Extract<AppEvent, { event: 'scroll' }>, order: number): void {
    const { topDp } = event
    // What is bound from now on is bound for this position.
    this.plan(Math.max(0, event.t - this.frames.intervalMs), ends, () => this.cells.expect(topDp))
    const shown = this.frames.frameAfter(event.t)
    const move = (t: number) => {
      this.cells.scrolled(topDp)
      this.log.events.scroll(t, {
        top: Math.round(topDp * 1024),
        speed: 0,
        corrected: 0,
        atBound: false,
        by: 'app',
      })
    }
    if (shown) {
      this.plan(shown.presentedMs, says, move, shown.order + 0.5)
      return
    }
    this.plan(
      event.t,
      says,
      (t) => {
        move(t)
        this.cells.lookAt(t)
      },
      order,
    )
  }
}
