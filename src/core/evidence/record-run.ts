import type { Observation } from '../log/observed.ts'
import { RunLog, type RunHead } from '../log/run-log.ts'
import type { AppEvent } from './app-event.ts'
import type { Aligned } from './clocks.ts'
import { longestMs, type EvidenceEvent, type Exchange } from './evidence.ts'
import { moveEvent } from './move-event.ts'
import { FrameTimes, refreshOf } from './recorded-frames.ts'
import { RecordedCells } from './recorded-cells.ts'
import { RecordedRequests, type Asset, type Running } from './recorded-requests.ts'
import { RecordedRows } from './recorded-rows.ts'

/** Limits that nobody knows of an app: none that a run could reach. */
const noLimit = 1_000_000_000

/** Something that happens in the run that is put together. */
interface Step {
  /** µs. */
  t: number
  /** Among those of one instant: what ends, what the app says (in its order), what begins. */
  rank: number
  order: number
  run: () => void
}

/** What an app tells of its own requests. */
type NetworkEvent = Extract<AppEvent, { event: 'start' | 'received' | 'cancel' | 'fail' }>

const ends = 0
const says = 1
const begins = 2
const endsAtOnce = 3

/** Puts what sources tell together to a run log, from which the same profile is made as from any other. */
export function recordRun(aligned: readonly Aligned[], names: { project: string; screen: string }): RunLog {
  return new Recorder(aligned, names).record()
}

class Recorder {
  private readonly log: RunLog
  private readonly events: EvidenceEvent[] = []
  private readonly exchanges: Exchange[]
  private readonly requests: RecordedRequests
  private readonly cells: RecordedCells
  private readonly rows: RecordedRows
  private readonly steps: Step[] = []
  private readonly observed: Set<Observation>
  private readonly frames: FrameTimes
  private readonly names: Set<EvidenceEvent['event']>
  private order = 0

  constructor(aligned: readonly Aligned[], { project, screen }: { project: string; screen: string }) {
    for (const { source, shiftMs } of aligned)
      for (const event of source.events) this.events.push(moveEvent(event, shiftMs))
    this.exchanges = aligned.flatMap(({ source, shiftMs }) =>
      source.exchanges.map((each) => shiftedExchange(each, shiftMs)),
    )
    for (const event of this.events) if (event.event === 'response') this.exchanges.push(exchangeOf(event))
    this.exchanges.sort((one, other) => one.startMs - other.startMs)
    // Stable: events of one instant stay in their order.
    this.events.sort((one, other) => one.t - other.t)
    this.names = new Set(this.events.map(({ event }) => event))
    this.observed = observedBy(this.events, this.exchanges, this.names)
    const appHead = aligned.find(({ source }) => source.head)?.source.head ?? null
    const refreshHz = appHead?.refreshHz ?? refreshOf(this.events)
    this.rows = new RecordedRows(this.events)
    const head: RunHead = {
      world: 'recorded',
      observed: [...this.observed].toSorted(),
      seed: 0,
      visit: 'first',
      project: appHead?.app ?? project,
      screen,
      script: 'recorded',
      refreshHz,
      heightDp: appHead?.heightDp ?? 800,
      widthDp: appHead?.widthDp ?? 360,
      diskStartBytes: startOfStorage(this.events),
      policy: {
        fetchSlots: noLimit,
        fetchSlotsPerHost: noLimit,
        decodeWorkers: noLimit,
        memoryMb: noLimit,
        diskMb: noLimit,
        guard: false,
        resetOnBind: false,
        heldCells: 0,
        restraint: true,
        agingMs: noLimit,
        columns: this.rows.columns,
      },
    }
    this.log = new RunLog(head)
    this.requests = new RecordedRequests(this.log)
    this.cells = new RecordedCells(this.log, this.requests, this.rows, {
      byScroll: this.names.has('scroll') && this.rows.isMeasured,
      hasFrames: this.names.has('frame'),
    })
    this.frames = new FrameTimes(this.events, refreshHz)
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
    // What lies beyond the clock of a log is of another run.
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
        this.came(t, asset)
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
          this.came(t, asset)
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

  private came(t: number, asset: Asset): void {
    if (!this.names.has('show')) this.cells.showReceived(t, asset)
  }

  private planEvents(): void {
    const own = new OwnExchanges(this.events)
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
            (t) => this.beginDecode(t, this.requests.of(address)),
            order,
          )
          this.plan(event.t, says, (t) => this.tell(t, event, own), order)
          break
        }
        default:
          this.plan(event.t, says, (t) => this.tell(t, event, own), order)
      }
    }
  }

  private beginDecode(t: number, asset: Asset): void {
    const request = asset.last ?? this.requests.want(t, asset).id
    this.log.events.decodeStart(t, { request, rendition: asset.rendition })
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
    // What is bound from now on is bound for this place.
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

  private tell(t: number, event: EvidenceEvent, own: OwnExchanges): void {
    const { log, requests } = this
    switch (event.event) {
      case 'want':
        this.tellWant(t, event, own)
        break
      case 'start':
      case 'received':
      case 'cancel':
      case 'fail':
        this.tellOwn(t, event, own)
        break
      case 'decode': {
        const asset = requests.of(event.address)
        const request = asset.last ?? requests.want(t, asset).id
        const us = Math.round(event.ms * 1000)
        log.events.decodeEnd(t, { request, rendition: asset.rendition, ms: us, ok: true })
        Object.assign(log.renditions[asset.rendition]!, { width: event.widthPx, height: event.heightPx })
        break
      }
      case 'memory':
        log.events.memory(t, { tier: 0, resident: Math.round(event.mb * 1000), bound: 0, garbage: 0 })
        break
      case 'mark':
        log.events.note(t, { text: event.text })
        break
      case 'collected':
        log.events.collect(t, { ms: 0, freed: 0, asked: true })
        log.events.memory(t, { tier: 0, resident: Math.round(event.mb * 1000), bound: 0, garbage: 0 })
        break
      case 'storage': {
        const bytes = Math.round((event.afterMb - event.beforeMb) * 1e6)
        if (bytes >= 0) log.events.diskWrite(t, { asset: 0, bytes })
        else log.events.diskEvict(t, { asset: 0, bytes: -bytes })
        break
      }
      case 'busy':
        log.events.busy(t, { thread: event.thread, ms: Math.round(event.ms * 1000) })
        break
      default:
        this.tellCell(t, event)
    }
  }

  private tellCell(t: number, event: EvidenceEvent): void {
    const { cells, requests } = this
    switch (event.event) {
      case 'create':
        cells.create(t, event.cell, event.kind ?? 'cell')
        break
      case 'bind': {
        const { cell, row, key = row, address = null } = event
        cells.bind(t, { cell, row, key: String(key), address })
        if (!this.names.has('show')) cells.showKept(t, cell)
        if (!this.names.has('frame') && this.names.has('scroll')) cells.lookAt(t)
        break
      }
      case 'recycle':
        cells.recycle(t, event.cell)
        break
      case 'show':
        if (event.tier === 'disk' && requests.of(event.address).open?.transfer === null)
          requests.fromDisk(t, requests.of(event.address))
        cells.show(t, event.cell, event.address, event.tier ?? 'network')
    }
  }

  private tellWant(t: number, { address, priority }: Extract<AppEvent, { event: 'want' }>, own: OwnExchanges): void {
    const { requests } = this
    const asset = requests.of(address)
    if (typeof priority === 'number' && [0, 1, 2, 3].includes(priority)) {
      asset.priority = true
      requests.rank(t, asset, priority)
    }
    requests.want(t, asset)
    if (!asset.onNetwork && !this.names.has('start')) own.start(t, requests, asset)
  }

  private tellOwn(t: number, event: NetworkEvent, own: OwnExchanges): void {
    const { requests } = this
    const asset = requests.of(event.address)
    const { open } = asset
    // Nothing came over the network for it: a cache had it.
    if (event.event === 'received' && event.bytes === 0 && open?.transfer === null && this.names.has('start')) {
      requests.fromDisk(t, asset)
      this.came(t, asset)
      return
    }
    if (asset.onNetwork) {
      // The network has told of its bytes; what never reached it, the app alone knows.
      if (open?.transfer !== null) return
      if (event.event === 'cancel') requests.cancel(t, asset, open, 0)
      if (event.event === 'fail') requests.fail(t, asset, open, { reason: event.reason, status: 0, bytes: 0 }, false)
      return
    }
    this.tellExchange(t, event, asset, own)
  }

  /** What the app alone tells of an exchange. */
  private tellExchange(t: number, event: NetworkEvent, asset: Asset, own: OwnExchanges): void {
    const { requests } = this
    const { open } = asset
    // An end of which no begin was told is one all the same, unless its picture has come already.
    const isNews = !asset.complete
    switch (event.event) {
      case 'start':
        own.start(t, requests, asset)
        break
      case 'received':
        requests.received(t, asset, own.running(asset) ?? own.start(t, requests, asset), Math.round(event.bytes))
        this.came(t, asset)
        break
      case 'cancel': {
        const request = open ?? (isNews ? requests.want(t, asset) : null)
        if (!request) break
        if (request.transfer === null && (event.bytes ?? 0) > 0) requests.start(t, asset, false)
        requests.cancel(t, asset, request, request.transfer === null ? 0 : Math.round(event.bytes ?? 0))
        break
      }
      case 'fail': {
        const request = open ?? (isNews ? requests.want(t, asset) : null)
        if (request)
          requests.fail(t, asset, request, { reason: event.reason, status: 0, bytes: 0 }, own.isTriedAgain(event))
      }
    }
  }
}

/** Exchanges that the app alone tells of. */
class OwnExchanges {
  /** Failures that are followed by another try, with nobody asking anew. */
  private readonly triedAgain = new Set<AppEvent>()

  constructor(events: readonly EvidenceEvent[]) {
    const failed = new Map<string, AppEvent>()
    for (const event of events) {
      if (event.event === 'fail') failed.set(event.address, event)
      if ((event.event === 'want' || event.event === 'bind') && event.address !== undefined)
        failed.delete(event.address)
      if (event.event !== 'start') continue
      const former = failed.get(event.address)
      if (former) this.triedAgain.add(former)
      failed.delete(event.address)
    }
  }

  /** One that is told to start twice has started once. */
  start(t: number, requests: RecordedRequests, asset: Asset): Running {
    return this.running(asset) ?? requests.start(t, asset, false)
  }

  running({ open }: Asset): Running | null {
    return open && open.transfer !== null ? { transfer: open.transfer, request: open } : null
  }

  isTriedAgain(event: AppEvent): boolean {
    return this.triedAgain.has(event)
  }
}

/** Whether the next exchange of an address goes on with the request of one that failed. */
function isTriedAgain(one: Exchange, next: Exchange | undefined, asked: readonly number[] | undefined): boolean {
  if (one.end !== 'failed' || !next || one.endMs === null) return false
  if (one.request !== null && next.request !== null) return one.request === next.request
  if (!asked) return false
  return !asked.some((ms) => ms > one.endMs! && ms <= next.startMs)
}

function exchangeOf(event: Extract<AppEvent, { event: 'response' }>): Exchange {
  const { address, t, status, bytes, aborted, firstByteMs, endMs } = event
  const answered: Pick<Exchange, 'end' | 'reason'> =
    status >= 400 || status === 0
      ? { end: 'failed', reason: status === 0 ? 'offline' : 'status' }
      : { end: 'complete', reason: '' }
  const ended: Pick<Exchange, 'end' | 'reason'> = aborted ? { end: 'cut', reason: '' } : answered
  return {
    address,
    wantedMs: t,
    startMs: t,
    firstByteMs,
    endMs,
    status,
    bytes,
    conditional: status === 304,
    fromCache: false,
    ...(endMs === null ? { end: 'open' as const, reason: '' } : ended),
    request: null,
    connectMs: null,
  }
}

function observedBy(
  events: readonly EvidenceEvent[],
  exchanges: readonly Exchange[],
  names: ReadonlySet<string>,
): Set<Observation> {
  const observed = new Set<Observation>()
  const add = (what: Observation, is: boolean) => {
    if (is) observed.add(what)
  }
  add('frames', names.has('frame'))
  add(
    'work',
    events.some((event) => event.event === 'frame' && event.workMs !== undefined),
  )
  add('scroll', names.has('scroll'))
  add(
    'binds',
    events.some((event) => event.event === 'bind' && event.address !== undefined),
  )
  add('shows', names.has('show'))
  add('requests', exchanges.length > 0 || ['start', 'received', 'cancel', 'fail'].some((name) => names.has(name)))
  add('wants', names.has('want') || observed.has('binds') || exchanges.some(({ request }) => request !== null))
  add(
    'tiers',
    exchanges.some(({ fromCache }) => fromCache) ||
      events.some((event) => event.event === 'show' && event.tier !== undefined),
  )
  add('decodes', names.has('decode'))
  add('creates', names.has('create'))
  add('memory', names.has('memory'))
  add('collected', names.has('collected'))
  add('storage', names.has('storage'))
  const busy = events.flatMap((event) => (event.event === 'busy' ? [event.thread] : []))
  add('mainBusy', observed.has('work') || busy.some((thread) => /^(main|ui)\b/i.test(thread)))
  add(
    'decodeBusy',
    busy.some((thread) => /decod/i.test(thread)),
  )
  return observed
}

/** Bytes that were stored before the run, as somebody has typed them in. */
function startOfStorage(events: readonly EvidenceEvent[]): number {
  const told = events.find((event) => event.event === 'storage')
  return told ? Math.round(told.beforeMb * 1e6) : 0
}

function shiftedExchange(exchange: Exchange, by: number): Exchange {
  return {
    ...exchange,
    wantedMs: exchange.wantedMs + by,
    startMs: exchange.startMs + by,
    firstByteMs: exchange.firstByteMs === null ? null : exchange.firstByteMs + by,
    endMs: exchange.endMs === null ? null : exchange.endMs + by,
  }
}
