import { appEvent, appEventsFormat, appHead, type AppEvent, type AppHead } from '../../core/evidence/app-event.ts'
import { moved } from '../../core/evidence/moved.ts'
import { networkSchema } from '../../core/project/world-schema.ts'
import type { RecordingOrder } from '../bodies.ts'
import { OriginSession, type LedgerEntry } from '../origin/session.ts'
import { AppClock, type ClockAlignment } from './app-clock.ts'

/** A recording ends by itself after this, ms: the clock of a run log is no longer. */
const longestMs = 4_200_000
/** The most lines and characters of a recording, and of batches in a second: what is more is counted, not kept. */
const mostLines = 1_000_000
const mostText = 256_000_000
const mostBatchesPerS = 200
/** A link as fast as the schema allows, with nothing in the way: as fast as possible. */
const noPacing = { name: 'as it comes', rttMs: 0, jitterMs: 0, thinkMs: 0, downKbps: 10_000_000, slowStart: false }

/** The result of a batch of app events. */
export interface Taken {
  taken: number
  skipped: number
}

/** The state of a recording, as its stream reports it. */
export interface Standing {
  id: string
  name: string
  upstream: string
  nowMs: number
  ended: boolean
  responses: number
  aborted: number
  bytes: number
  /** Events by their names. */
  counts: Record<string, number>
  skipped: number
  clock: ClockAlignment
  /** Why it is not kept on disk; null: it is, or need not be. */
  trouble: string | null
}

export type Line = { app: boolean; event: AppEvent }

/** A recording of a real app: what its base has written, and what the app has sent. */
export class Recording {
  readonly id: string
  readonly order: RecordingOrder
  readonly session: OriginSession
  /** Everything received, in order of arrival. */
  readonly lines: Line[] = []
  endedMs: number | null = null
  head: AppHead | null = null
  trouble: string | null = null
  private readonly beganAt: number
  private readonly clock = new AppClock()
  private readonly keep: (line: object) => void
  /** ms of the recording at which its session began: later, when the server was started again. */
  private readonly sessionFromMs: number
  private readonly open: LedgerEntry[] = []
  private collected = 0
  private readonly counts: Record<string, number> = {}
  private responses = 0
  private aborted = 0
  private bytes = 0
  private skipped = 0
  private text = 0
  private batches: number[] = []
  private readonly listeners = new Set<() => void>()

  /** `beganAt`: ms since 1970; `keep` writes to where it outlives the server. */
  constructor(id: string, order: RecordingOrder, beganAt: number, keep: (line: object) => void) {
    this.id = id
    this.order = order
    this.beganAt = beganAt
    this.keep = keep
    this.sessionFromMs = this.nowMs()
    const network = networkSchema.parse({
      ...(order.network ?? noPacing),
      ...(order.faults ? { faults: order.faults } : {}),
    })
    this.session = new OriginSession(id, network, order.seed, [])
    this.session.watched = true
  }

  nowMs(): number {
    return this.endedMs ?? Date.now() - this.beganAt
  }

  get alignment(): ClockAlignment {
    return this.clock.alignment
  }

  onChange(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** Whether another batch may come in this second. */
  mayTake(): boolean {
    const now = Date.now()
    this.batches = this.batches.filter((at) => now - at < 1000)
    this.batches.push(now)
    return this.batches.length <= mostBatchesPerS
  }

  /** A batch of app events, NDJSON. */
  take(text: string): Taken {
    const atMs = this.nowMs()
    const came = readBatch(text)
    this.text += text.length
    const room = this.text > mostText ? 0 : Math.max(0, mostLines - this.lines.length)
    const events = came.events.slice(0, room)
    const batch = { ...came, events, skipped: came.skipped + came.events.length - events.length }
    this.keep({ batch: { atMs, ...batch } })
    return this.takeRead(batch, atMs)
  }

  /** The same when it is read back from disk. */
  takeRead({ head, rttMs, events, skipped }: Batch, atMs: number): Taken {
    if (head) {
      this.head ??= head
      if (head.clockMs !== undefined) this.clock.arrived(head.clockMs, atMs, rttMs)
    }
    for (const event of events) this.add(true, event)
    this.skipped += skipped
    this.changed()
    return { taken: events.length, skipped }
  }

  mark(text: string): void {
    if (this.lines.length >= mostLines) return
    const event: AppEvent = { t: this.nowMs(), event: 'mark', text }
    this.keep({ line: event })
    this.add(false, event)
    this.changed()
  }

  /** An event on the recording's own clock, read back. */
  takeLine(event: AppEvent): void {
    this.add(false, event)
  }

  /** Records responses that are over; called again and again. */
  collect(): void {
    const { ledger } = this.session
    while (this.collected < ledger.length) this.open.push(ledger[this.collected++]!)
    let any = false
    for (let i = this.open.length - 1; i >= 0; i--) {
      const entry = this.open[i]!
      if (entry.endMs === null) continue
      this.open.splice(i, 1)
      const event = this.responseOf(entry, entry.endMs)
      this.keep({ line: event })
      this.add(false, event)
      any = true
    }
    if (any) this.changed()
    if (this.endedMs === null && this.nowMs() > longestMs) this.end()
  }

  /** The server ends, and the connections with it: responses under way are cut off. */
  cutOff(): void {
    for (const entry of this.session.ledger)
      if (entry.endMs === null) Object.assign(entry, { aborted: true, endMs: this.session.nowMs() })
    this.collect()
    this.session.close()
  }

  end(): void {
    if (this.endedMs !== null) return
    this.endedMs = this.nowMs()
    this.session.finishAll()
    this.collect()
    this.keep({ endedMs: this.endedMs })
    this.session.close()
    this.changed()
  }

  get standing(): Standing {
    const { id, order, responses, aborted, bytes, skipped } = this
    return {
      id,
      name: order.name,
      upstream: order.upstream,
      nowMs: this.nowMs(),
      ended: this.endedMs !== null,
      responses,
      aborted,
      bytes,
      counts: { ...this.counts },
      skipped,
      clock: this.alignment,
      trouble: this.trouble,
    }
  }

  /** Everything received from a line on, on the recording's clock. */
  eventsFrom(from: number, most: number): AppEvent[] {
    const offset = this.alignment.offsetMs ?? 0
    return this.lines.slice(from, from + most).map(({ app, event }) => (app ? moved(event, offset) : event))
  }

  /** Everything as app events on the recording's clock, NDJSON, to be imported again. */
  *ndjson(): Generator<string> {
    const head = this.head ?? { format: appEventsFormat, version: 1, app: this.order.name }
    // The clock is the recording's; the visit begins with the first event or request of the app.
    const first = this.eventsFrom(0, this.lines.length).reduce(
      (least, { t, event }) => (event === 'mark' ? least : Math.min(least, t)),
      Infinity,
    )
    yield `${JSON.stringify({ ...head, clockMs: first === Infinity ? 0 : first })}\n`
    for (let from = 0; from < this.lines.length; from += 1000)
      yield this.eventsFrom(from, 1000)
        .map((event) => `${JSON.stringify(event)}\n`)
        .join('')
    // Responses still under way are reported as such.
    for (const entry of this.open) if (entry.endMs === null) yield `${JSON.stringify(this.responseOf(entry, null))}\n`
  }

  private responseOf(entry: LedgerEntry, endMs: number | null): AppEvent {
    const at = (ms: number) => Math.round((ms + this.sessionFromMs) * 1000) / 1000
    return {
      t: at(entry.startMs),
      event: 'response',
      address: entry.address,
      status: entry.status,
      bytes: entry.bodyBytes,
      aborted: entry.aborted,
      firstByteMs: entry.firstByteMs === null ? null : at(entry.firstByteMs),
      endMs: endMs === null ? null : at(endMs),
    }
  }

  private add(app: boolean, event: AppEvent): void {
    this.lines.push({ app, event })
    if (app && event.event === 'start') this.clock.starts(event.address, event.t)
    if (event.event === 'response') {
      this.clock.asks(event.address, event.t)
      this.responses++
      this.bytes += event.bytes
      if (event.aborted) this.aborted++
    } else this.counts[event.event] = (this.counts[event.event] ?? 0) + 1
  }

  private changed(): void {
    for (const listener of this.listeners) listener()
  }
}

export interface Batch {
  head: AppHead | null
  /** The round trip of the batch before, as the app has measured it. */
  rttMs: number | null
  events: AppEvent[]
  skipped: number
}

/** Reads a batch; lines that are no app events are counted. Events that only a recording itself can report are none. */
function readBatch(text: string): Batch {
  const batch: Batch = { head: null, rttMs: null, events: [], skipped: 0 }
  for (const line of text.split('\n')) {
    if (line.trim() === '') continue
    let value: unknown
    try {
      value = JSON.parse(line)
    } catch {
      batch.skipped++
      continue
    }
    const head = appHead.safeParse(value)
    if (head.success) {
      batch.head = head.data
      const { rttMs } = value as { rttMs?: unknown }
      batch.rttMs = typeof rttMs === 'number' && Number.isFinite(rttMs) ? rttMs : null
      continue
    }
    const event = appEvent.safeParse(value)
    if (event.success && event.data.event !== 'response') batch.events.push(event.data)
    else batch.skipped++
  }
  return batch
}
