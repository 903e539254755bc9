import type { Us } from '../worlds/ports.ts'
import type { EventFields } from './event-kinds.ts'

/** Takes events as columns, in the order of their instants, µs. */
export interface EventRows {
  row: (kind: number, t: Us, a?: number, b?: number, c?: number, d?: number, x?: number) => void
  /** The number of a text in the string table. */
  text: (value: string) => number
}

/**
 * Writes events by the names of their fields. Made from the definitions by `npm run reference`; do not edit by hand.
 */
export class EventWriter {
  private readonly to: EventRows

  constructor(to: EventRows) {
    this.to = to
  }

  frame(t: Us, event: EventFields<'frame'>): void {
    this.to.row(0, t, 0, event.presented - t, event.begin - event.due, event.toldLate, event.due - t)
  }

  work(t: Us, event: EventFields<'work'>): void {
    this.to.row(1, t, event.cause, 0, 0, 0, event.ms)
  }

  scroll(t: Us, event: EventFields<'scroll'>): void {
    this.to.row(2, t, event.speed, event.corrected, event.atBound ? 1 : 0, this.to.text(event.by), event.top)
  }

  place(t: Us, event: EventFields<'place'>): void {
    this.to.row(3, t, event.row, event.height, 0, 0, event.top)
  }

  create(t: Us, event: EventFields<'create'>): void {
    this.to.row(4, t, event.cell, event.kind)
  }

  bind(t: Us, event: EventFields<'bind'>): void {
    this.to.row(5, t, event.cell, event.key, event.index, event.row, event.column === null ? 0 : event.column + 1)
  }

  recycle(t: Us, event: EventFields<'recycle'>): void {
    this.to.row(6, t, event.cell)
  }

  hold(t: Us, event: EventFields<'hold'>): void {
    this.to.row(7, t, event.cell)
  }

  claim(t: Us, event: EventFields<'claim'>): void {
    this.to.row(8, t, event.id, event.rendition, event.cell ?? -1, event.slot, event.index ?? -1)
  }

  release(t: Us, event: EventFields<'release'>): void {
    this.to.row(9, t, event.id, this.to.text(event.why))
  }

  queue(t: Us, event: EventFields<'queue'>): void {
    this.to.row(10, t, event.request, event.asset)
  }

  join(t: Us, event: EventFields<'join'>): void {
    this.to.row(11, t, event.claim, event.request)
  }

  rank(t: Us, event: EventFields<'rank'>): void {
    this.to.row(12, t, event.request, event.class)
  }

  start(t: Us, event: EventFields<'start'>): void {
    this.to.row(13, t, event.request, event.transfer, event.attempt, event.conditional ? 1 : 0)
  }

  connected(t: Us, event: EventFields<'connected'>): void {
    this.to.row(14, t, event.transfer)
  }

  firstByte(t: Us, event: EventFields<'firstByte'>): void {
    this.to.row(15, t, event.transfer, event.status, event.total ?? -1)
  }

  progress(t: Us, event: EventFields<'progress'>): void {
    this.to.row(16, t, event.transfer, event.bytes)
  }

  received(t: Us, event: EventFields<'received'>): void {
    this.to.row(17, t, event.transfer, event.bytes)
  }

  cut(t: Us, event: EventFields<'cut'>): void {
    this.to.row(18, t, event.transfer, event.request)
  }

  cancel(t: Us, event: EventFields<'cancel'>): void {
    this.to.row(19, t, event.transfer ?? -1, event.request, event.bytes, event.inFlight, this.to.text(event.why))
  }

  fail(t: Us, event: EventFields<'fail'>): void {
    this.to.row(20, t, event.transfer ?? -1, event.request ?? -1, event.bytes, this.to.text(event.reason), event.status)
  }

  retry(t: Us, event: EventFields<'retry'>): void {
    this.to.row(21, t, event.request, 0, 0, 0, event.at)
  }

  park(t: Us, event: EventFields<'park'>): void {
    this.to.row(22, t, event.request)
  }

  decodeStart(t: Us, event: EventFields<'decodeStart'>): void {
    this.to.row(23, t, event.request, event.rendition)
  }

  decodeEnd(t: Us, event: EventFields<'decodeEnd'>): void {
    this.to.row(24, t, event.request, event.rendition, 0, event.ok ? 1 : 0, event.ms)
  }

  ready(t: Us, event: EventFields<'ready'>): void {
    this.to.row(25, t, event.request)
  }

  deliver(t: Us, event: EventFields<'deliver'>): void {
    this.to.row(26, t, event.claim, this.to.text(event.tier), event.rendition)
  }

  show(t: Us, event: EventFields<'show'>): void {
    this.to.row(27, t, event.claim, event.rendition, event.cell, event.slot, event.transition ? 1 : 0)
  }

  wrong(t: Us, event: EventFields<'wrong'>): void {
    this.to.row(28, t, event.cell, event.rendition, event.slot)
  }

  clear(t: Us, event: EventFields<'clear'>): void {
    this.to.row(29, t, event.cell, event.slot)
  }

  settle(t: Us, event: EventFields<'settle'>): void {
    this.to.row(30, t, event.claim)
  }

  evict(t: Us, event: EventFields<'evict'>): void {
    this.to.row(31, t, event.rendition)
  }

  diskAsk(t: Us, event: EventFields<'diskAsk'>): void {
    this.to.row(32, t, event.request)
  }

  diskMiss(t: Us, event: EventFields<'diskMiss'>): void {
    this.to.row(33, t, event.request)
  }

  diskRead(t: Us, event: EventFields<'diskRead'>): void {
    this.to.row(34, t, event.asset, event.bytes, event.request)
  }

  diskWrite(t: Us, event: EventFields<'diskWrite'>): void {
    this.to.row(35, t, event.asset, event.bytes)
  }

  diskEvict(t: Us, event: EventFields<'diskEvict'>): void {
    this.to.row(36, t, event.asset, event.bytes)
  }

  jump(t: Us, event: EventFields<'jump'>): void {
    this.to.row(37, t, event.row, 0, 0, 0, event.dp)
  }

  enter(t: Us, event: EventFields<'enter'>): void {
    this.to.row(38, t, event.cell, event.slot, event.key, event.geometry, event.area)
  }

  leave(t: Us, event: EventFields<'leave'>): void {
    this.to.row(39, t, event.cell, event.slot, event.key, event.geometry, event.area)
  }

  memory(t: Us, event: EventFields<'memory'>): void {
    this.to.row(40, t, event.resident, event.bound, event.garbage, 0, event.tier)
  }

  collect(t: Us, event: EventFields<'collect'>): void {
    this.to.row(41, t, 0, event.freed, event.asked ? 1 : 0, 0, event.ms)
  }

  relief(t: Us): void {
    this.to.row(42, t)
  }

  page(t: Us, event: EventFields<'page'>): void {
    this.to.row(43, t, event.n, this.to.text(event.outcome), event.items)
  }

  edit(t: Us, event: EventFields<'edit'>): void {
    this.to.row(44, t, this.to.text(event.op), event.at, event.count, event.to, event.anchor ?? -1)
  }

  scope(t: Us, event: EventFields<'scope'>): void {
    this.to.row(45, t, this.to.text(event.which), this.to.text(event.state))
  }

  end(t: Us, event: EventFields<'end'>): void {
    this.to.row(46, t, this.to.text(event.why))
  }

  note(t: Us, event: EventFields<'note'>): void {
    this.to.row(47, t, this.to.text(event.text))
  }

  use(t: Us, event: EventFields<'use'>): void {
    this.to.row(48, t, event.claim, event.rendition)
  }

  standIn(t: Us, event: EventFields<'standIn'>): void {
    this.to.row(49, t, event.cell, event.rendition, event.slot)
  }

  renewal(t: Us, event: EventFields<'renewal'>): void {
    this.to.row(50, t, this.to.text(event.host), this.to.text(event.outcome))
  }

  refused(t: Us, event: EventFields<'refused'>): void {
    this.to.row(51, t, event.request)
  }

  away(t: Us, event: EventFields<'away'>): void {
    this.to.row(52, t, event.cell)
  }

  unpark(t: Us, event: EventFields<'unpark'>): void {
    this.to.row(53, t, event.request)
  }

  slotFrame(t: Us, event: EventFields<'slotFrame'>): void {
    this.to.row(54, t, event.cell, event.slot, event.geometry)
  }

  screen(t: Us, event: EventFields<'screen'>): void {
    this.to.row(55, t, event.width, event.height)
  }

  restrain(t: Us, event: EventFields<'restrain'>): void {
    this.to.row(56, t, event.on ? 1 : 0)
  }

  busy(t: Us, event: EventFields<'busy'>): void {
    this.to.row(57, t, this.to.text(event.thread), 0, 0, 0, event.ms)
  }
}
