import { draw } from '../../core/numbers/draw.ts'
import type { EventSender } from './event-sender.ts'
import { SimpleLoader } from './simple-loader.ts'

export const phone = { refreshHz: 60, widthDp: 360, heightDp: 780, density: 2 }
const rowDp = 240
const frameMs = 1000 / phone.refreshHz
/** Time constant of its flicks, ms. */
const slowing = 325

export interface AppOptions {
  base: string
  letGo: string
  addresses: readonly string[]
  seed: number
  cancels: 'never' | 'recycle'
  now: () => number
}

export interface AppCounts {
  requests: number
  received: number
  cancelled: number
  failed: number
  bytes: number
}

interface PhoneCell {
  id: number
  row: number
  shown: boolean
  /** Its picture was there when it was bound. */
  kept: boolean
}

/** The most that a gesture advances in one frame, however late it is, ms. */
const mostAFrameMs = 50

/**
 * A list of pictures on a phone that nobody holds: it is flicked down and a little back, and its loader does its job.
 */
export class PhoneApp {
  readonly counts: AppCounts = { requests: 0, received: 0, cancelled: 0, failed: 0, bytes: 0 }
  private readonly options: AppOptions
  private readonly sender: EventSender
  private readonly loader: SimpleLoader
  private readonly bound = new Map<number, PhoneCell>()
  private readonly pool: PhoneCell[] = []
  private readonly kept = new Set<string>()
  private cells = 0
  private top = 0

  constructor(options: AppOptions, sender: EventSender) {
    this.options = options
    this.sender = sender
    this.loader = new SimpleLoader(options.base, options.letGo, {
      start: (address) => {
        this.counts.requests++
        sender.add({ t: this.t, event: 'start', address })
      },
      received: (address, bytes) => {
        this.counts.received++
        this.counts.bytes += bytes
        this.kept.add(address)
        sender.add({ t: this.t, event: 'received', address, bytes })
      },
      cancelled: (address, bytes) => {
        this.counts.cancelled++
        this.counts.bytes += bytes
        sender.add({ t: this.t, event: 'cancel', address, bytes })
        // Its row has come back meanwhile.
        if ([...this.bound.values()].some(({ row }) => options.addresses[row] === address)) this.loader.want(address)
      },
      failed: (address, reason) => {
        this.counts.failed++
        sender.add({ t: this.t, event: 'fail', address, reason: reason.slice(0, 200) })
      },
    })
  }

  /** Opens the list, flicks it, and waits until everything has come. */
  async run(): Promise<AppCounts> {
    const script = this.gesture()
    const began = this.options.now()
    let failure: Error | null = null
    let before = began
    let sentAt = began
    // A late frame is drawn late: the gesture waits for it, as a slow machine would otherwise skip its rows.
    for (let gestureMs = 0; gestureMs <= script.endMs;) {
      await this.until(before + frameMs)
      const begin = this.options.now()
      gestureMs += Math.min(begin - before, mostAFrameMs)
      before = begin
      this.frame(begin, script.topAt(gestureMs))
      if (begin - sentAt > 400) {
        sentAt = begin
        this.sender.flush().catch((error: Error) => (failure ??= error))
      }
      if (failure !== null) throw failure
    }
    await this.loader.settled()
    this.frame(this.options.now(), this.top)
    this.sender.add({ t: this.t, event: 'memory', mb: process.memoryUsage().rss / 1e6 })
    await this.sender.flush()
    return this.counts
  }

  private get t(): number {
    return Math.round(this.options.now() * 1000) / 1000
  }

  private until(at: number): Promise<void> {
    return new Promise((resolve) => setTimeout(resolve, Math.max(0, at - this.options.now())))
  }

  /** A wait, two flicks down, and a short one back, a little different for each seed. */
  private gesture(): { endMs: number; topAt(ms: number): number } {
    const { seed } = this.options
    const flicks = [
      { at: 500 + 200 * draw(seed, 'gesture', 0), dpPerS: 6500 + 1500 * draw(seed, 'gesture', 1) },
      { at: 1500 + 300 * draw(seed, 'gesture', 2), dpPerS: 7500 + 1500 * draw(seed, 'gesture', 3) },
      { at: 3000 + 300 * draw(seed, 'gesture', 4), dpPerS: -1500 - 500 * draw(seed, 'gesture', 5) },
    ]
    const most = this.options.addresses.length * rowDp - phone.heightDp
    const way = (dpPerS: number, ms: number) =>
      ms <= 0 ? 0 : (dpPerS * slowing * (1 - Math.exp(-ms / slowing))) / 1000
    return {
      endMs: 5000,
      topAt: (ms) =>
        Math.max(
          0,
          Math.min(
            most,
            flicks.reduce((top, { at, dpPerS }) => top + way(dpPerS, ms - at), 0),
          ),
        ),
    }
  }

  private frame(begin: number, top: number): void {
    const { sender } = this
    const events: Parameters<EventSender['add']>[0][] = []
    const moved = top !== this.top || this.cells === 0
    this.top = top
    const first = Math.floor(top / rowDp)
    const last = Math.min(this.options.addresses.length - 1, Math.ceil((top + phone.heightDp) / rowDp) - 1)
    for (const cell of [...this.bound.values()]) if (cell.row < first || cell.row > last) this.recycle(cell)
    for (let row = first; row <= last; row++) if (!this.bound.has(row)) this.bind(row)
    for (const cell of this.bound.values()) {
      const address = this.options.addresses[cell.row]!
      if (cell.shown || !this.kept.has(address)) continue
      cell.shown = true
      events.push({ t: 0, event: 'show', cell: cell.id, address, tier: cell.kept ? 'memory' : 'network' })
    }
    const presented = this.t
    if (moved) events.unshift({ t: 0, event: 'scroll', topDp: Math.round(top * 100) / 100 })
    if (events.length > 0) {
      const workMs = Math.max(0, Math.round((presented - begin) * 1000) / 1000)
      sender.add({ t: presented, event: 'frame', presentedMs: presented, workMs })
    }
    for (const event of events) sender.add({ ...event, t: presented })
  }

  private bind(row: number): void {
    const { addresses } = this.options
    let cell = this.pool.pop()
    if (!cell) {
      cell = { id: this.cells++, row, shown: false, kept: false }
      this.sender.add({ t: this.t, event: 'create', cell: cell.id })
    }
    const address = addresses[row]!
    Object.assign(cell, { row, shown: false, kept: this.kept.has(address) })
    this.bound.set(row, cell)
    this.sender.add({ t: this.t, event: 'bind', cell: cell.id, row, key: String(row), address, heightDp: rowDp })
    if (this.kept.has(address)) return
    this.sender.add({ t: this.t, event: 'want', address })
    this.loader.want(address)
  }

  private recycle(cell: PhoneCell): void {
    this.bound.delete(cell.row)
    this.pool.push(cell)
    this.sender.add({ t: this.t, event: 'recycle', cell: cell.id })
    const address = this.options.addresses[cell.row]!
    if (this.options.cancels === 'recycle' && !this.kept.has(address)) this.loader.cancel(address)
  }
}
