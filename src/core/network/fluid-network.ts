import type { NetworkSettings } from '../project/types.ts'
import { draw } from '../numbers/draw.ts'
import type { Clock, Us } from '../worlds/ports.ts'
import { windowAt } from './slow-start.ts'

/** A connection that was idle for longer than this starts slowly again. */
const idleResetUs = 1_000_000

type Settings = Pick<
  NetworkSettings,
  'rttMs' | 'jitterMs' | 'downKbps' | 'protocol' | 'connectionsPerHost' | 'setupRtts' | 'slowStart' | 'thinkMs'
>

export interface FluidEvents {
  connected(id: number): void
  firstByte(id: number): void
  done(id: number): void
}

export interface FluidOrder {
  id: number
  host: string
  bytes: number
  /** No first byte ever comes. */
  silent?: boolean
  /** Nothing more arrives after so many bytes. */
  stallAt?: number
  /** A transfer with a rate of its own, in bytes per µs. */
  cap?: number
}

interface Connection {
  host: string
  ready: boolean
  /** Streams on it in any state; h1 has one at most. */
  users: number
  /** The first byte since it last started slowly. */
  epoch: Us
  /** When its last stream stopped receiving; -Infinity before the first. */
  lastActive: Us
  flowing: number
  waiting: Transfer[]
}

interface Transfer {
  id: number
  host: string
  total: number
  end: number
  cap: number
  /** The most that it may receive now: its own cap, and its share of its connection's window. */
  capNow: number
  silent: boolean
  received: number
  /** When its last byte came; its start before the first. */
  lastByteAt: Us
  rate: number
  state: 'queued' | 'setup' | 'sent' | 'flowing' | 'ghost' | 'stalled'
  connection: Connection | null
  timer: number | null
}

/**
 * A fluid model of one session's link: the flowing transfers share its rate (max-min fair), each also limited by its
 * connection's window. The same class is the virtual world's network and paces the origin. Instants in µs, rates in
 * bytes per µs. Nothing is random but the jitter, a draw by transfer number.
 */
export class FluidNetwork {
  private readonly clock: Clock
  private readonly events: FluidEvents
  private readonly seed: number
  private readonly rtt: Us
  private readonly link: number
  private readonly settings: Settings
  private readonly transfers = new Map<number, Transfer>()
  private readonly connections = new Map<string, Connection[]>()
  private readonly queues = new Map<string, Transfer[]>()
  private flowing: Transfer[] = []
  private settledAt: Us = 0
  private timer: number | null = null
  private draws = 0

  constructor(clock: Clock, settings: Settings, seed: number, events: FluidEvents) {
    this.clock = clock
    this.settings = settings
    this.seed = seed
    this.events = events
    this.rtt = Math.round(settings.rttMs * 1000)
    this.link = settings.downKbps / 8000
  }

  start(order: FluidOrder): void {
    const transfer: Transfer = {
      id: order.id,
      host: order.host,
      total: order.bytes,
      end: Math.min(order.bytes, order.stallAt ?? Infinity),
      cap: order.cap ?? Infinity,
      capNow: Infinity,
      silent: order.silent ?? false,
      received: 0,
      lastByteAt: this.clock.now(),
      rate: 0,
      state: 'queued',
      connection: null,
      timer: null,
    }
    this.transfers.set(order.id, transfer)
    this.findConnection(transfer)
  }

  /** Whole bytes received by now. */
  received(id: number): number {
    const transfer = this.transfers.get(id)
    if (!transfer) return 0
    if (transfer.state !== 'flowing') return Math.floor(transfer.received + 1e-6)
    const at = transfer.received + transfer.rate * (this.clock.now() - this.settledAt)
    return Math.floor(Math.min(transfer.end, at) + 1e-6)
  }

  /** When the last byte that a transfer has received arrived: now, while it flows. */
  lastByteAt(id: number): Us {
    const transfer = this.transfers.get(id)
    if (!transfer) return 0
    if (transfer.state !== 'flowing' || transfer.rate <= 0) return transfer.lastByteAt
    // A drip brings whole bytes far apart: the last of them arrived when its count was full.
    const at = Math.min(transfer.end, transfer.received + transfer.rate * (this.clock.now() - this.settledAt))
    const whole = Math.floor(at + 1e-6)
    return whole <= transfer.received
      ? transfer.lastByteAt
      : Math.floor(this.clock.now() - (at - whole) / transfer.rate)
  }

  abort(id: number): { bytes: number; inFlight: number } {
    const transfer = this.transfers.get(id)
    if (!transfer) return { bytes: 0, inFlight: 0 }
    this.settle()
    this.transfers.delete(id)
    if (transfer.timer !== null) this.clock.cancel(transfer.timer)
    const bytes = Math.floor(transfer.received + 1e-6)
    const flew = transfer.state === 'flowing'
    const inFlight = flew ? Math.round(Math.min(transfer.end - transfer.received, (transfer.rate * this.rtt) / 2)) : 0
    const connection = transfer.connection
    if (transfer.state === 'queued') this.unqueue(transfer)
    if (connection) connection.waiting = connection.waiting.filter((each) => each !== transfer)
    if (flew && inFlight > 0) this.haunt(transfer, connection!)
    else if (flew) this.stopFlowing(transfer)
    if (connection) this.leave(connection, this.settings.protocol === 'h1')
    this.share()
    return { bytes, inFlight }
  }

  /** The link is gone: every transfer ends here and every connection is closed. Returns what was running. */
  dropAll(): { id: number; bytes: number }[] {
    this.settle()
    const running = [...this.transfers.values()].map((each) => ({
      id: each.id,
      bytes: Math.floor(each.received + 1e-6),
    }))
    for (const transfer of this.transfers.values()) if (transfer.timer !== null) this.clock.cancel(transfer.timer)
    this.transfers.clear()
    this.connections.clear()
    this.queues.clear()
    this.flowing = []
    this.share()
    return running
  }

  private findConnection(transfer: Transfer): void {
    const { protocol, connectionsPerHost } = this.settings
    const open = this.connections.get(transfer.host) ?? []
    const usable = protocol === 'h2' ? open[0] : open.find((each) => each.users === 0)
    if (usable) this.use(transfer, usable)
    else if (open.length < (protocol === 'h2' ? 1 : connectionsPerHost)) this.connect(transfer, open)
    else {
      const queue = this.queues.get(transfer.host)
      if (queue) queue.push(transfer)
      else this.queues.set(transfer.host, [transfer])
    }
  }

  private connect(transfer: Transfer, open: Connection[]): void {
    const connection: Connection = {
      host: transfer.host,
      ready: false,
      users: 0,
      epoch: 0,
      lastActive: -Infinity,
      flowing: 0,
      waiting: [],
    }
    open.push(connection)
    this.connections.set(transfer.host, open)
    this.use(transfer, connection)
    this.clock.at(this.clock.now() + Math.round(this.settings.setupRtts * this.rtt), () => {
      connection.ready = true
      for (const each of connection.waiting.splice(0)) if (this.transfers.get(each.id) === each) this.send(each)
    })
  }

  private use(transfer: Transfer, connection: Connection): void {
    connection.users++
    transfer.connection = connection
    transfer.state = 'setup'
    if (connection.ready) this.send(transfer)
    else connection.waiting.push(transfer)
  }

  private send(transfer: Transfer): void {
    transfer.state = 'sent'
    const spread = (2 * draw(this.seed, 'jitter', this.draws++) - 1) * this.settings.jitterMs * 1000
    const delay = Math.max(0, this.rtt + this.settings.thinkMs * 1000 + spread)
    this.events.connected(transfer.id)
    if (transfer.silent || !this.transfers.has(transfer.id)) return
    transfer.timer = this.clock.at(this.clock.now() + Math.round(delay), () => this.flow(transfer))
  }

  private flow(transfer: Transfer): void {
    transfer.timer = null
    this.settle()
    const connection = transfer.connection!
    const now = this.clock.now()
    if (connection.flowing === 0 && now - connection.lastActive > idleResetUs) connection.epoch = now
    transfer.state = 'flowing'
    connection.flowing++
    this.flowing.push(transfer)
    this.events.firstByte(transfer.id)
    if (this.transfers.has(transfer.id)) this.share()
  }

  /** Moves every flowing transfer to now at the rates that held since the last change. */
  private settle(): void {
    const now = this.clock.now()
    const span = now - this.settledAt
    this.settledAt = now
    if (span <= 0) return
    for (const each of this.flowing) {
      if (each.rate <= 0) continue
      const before = Math.floor(each.received + 1e-6)
      each.received = Math.min(each.end, each.received + each.rate * span)
      const whole = Math.floor(each.received + 1e-6)
      if (whole > before) each.lastByteAt = Math.floor(now - Math.max(0, each.received - whole) / each.rate)
    }
  }

  /** Shares the link again and sets the one timer for the next change. */
  private share(): void {
    if (this.timer !== null) this.clock.cancel(this.timer)
    this.timer = null
    if (this.flowing.length === 0) return
    const now = this.clock.now()
    let next = Infinity
    let order = this.flowing
    let held = false
    let inOrder = true
    let before = 0
    for (const transfer of order) {
      transfer.capNow = this.capOf(transfer, now)
      held ||= transfer.capNow < this.link
      inOrder &&= transfer.capNow >= before
      before = transfer.capNow
    }
    // Those of one connection share its window: mostly they are in order already.
    if (held && !inOrder) order = order.toSorted((a, b) => a.capNow - b.capNow)
    let rest = this.link
    for (let index = 0; index < order.length; index++) {
      const transfer = order[index]!
      transfer.rate = Math.min(transfer.capNow, rest / (order.length - index))
      rest -= transfer.rate
      if (transfer.rate > 0)
        next = Math.min(next, now + Math.ceil((transfer.end - transfer.received) / transfer.rate - 1e-6))
      next = Math.min(next, this.nextWindow(transfer.connection!, now))
    }
    if (next < Infinity) this.timer = this.clock.at(Math.max(next, now), () => this.change())
  }

  private change(): void {
    this.timer = null
    this.settle()
    const ended = this.flowing.filter((each) => each.end - each.received < 1e-3)
    for (const transfer of ended) {
      this.stopFlowing(transfer)
      if (transfer.state === 'ghost') continue
      if (transfer.end < transfer.total) {
        transfer.state = 'stalled'
        transfer.received = transfer.end
        continue
      }
      this.transfers.delete(transfer.id)
      this.leave(transfer.connection!, false)
      this.events.done(transfer.id)
    }
    this.share()
  }

  private capOf(transfer: Transfer, now: Us): number {
    const { slowStart } = this.settings
    if (!slowStart || this.rtt === 0) return transfer.cap
    const connection = transfer.connection!
    return Math.min(transfer.cap, windowAt(connection.epoch, now, this.rtt) / this.rtt / connection.flowing)
  }

  private nextWindow(connection: Connection, now: Us): Us {
    if (!this.settings.slowStart || this.rtt === 0) return Infinity
    if (windowAt(connection.epoch, now, this.rtt) / this.rtt >= this.link) return Infinity
    return connection.epoch + (Math.floor((now - connection.epoch) / this.rtt) + 1) * this.rtt
  }

  private stopFlowing(transfer: Transfer): void {
    this.flowing = this.flowing.filter((each) => each !== transfer)
    const connection = transfer.connection!
    connection.flowing--
    connection.lastActive = this.clock.now()
    transfer.rate = 0
  }

  /** Bytes in flight of a cancelled transfer keep their share of the link for half a round trip. */
  private haunt(transfer: Transfer, connection: Connection): void {
    transfer.state = 'ghost'
    transfer.end = Infinity
    connection.users++
    this.clock.at(this.clock.now() + Math.round(this.rtt / 2), () => {
      if (!this.flowing.includes(transfer)) return
      this.settle()
      this.stopFlowing(transfer)
      connection.users--
      this.share()
    })
  }

  private leave(connection: Connection, close: boolean): void {
    connection.users--
    const open = this.connections.get(connection.host)
    if (!open) return
    if (close) open.splice(open.indexOf(connection), 1)
    const queue = this.queues.get(connection.host)
    const next = queue?.shift()
    if (next) this.findConnection(next)
  }

  private unqueue(transfer: Transfer): void {
    const others = this.queues.get(transfer.host)?.filter((each) => each !== transfer)
    if (others) this.queues.set(transfer.host, others)
  }
}
