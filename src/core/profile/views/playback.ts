import { K } from '../../log/event-kinds.ts'
import { chunkRows, type RunLog } from '../../log/run-log.ts'
import { unitsPerDp } from '../../numbers/units.ts'
import type { StageName } from '../../project/types.ts'

/** What one picture slot showed. */
export interface PlayedSlot {
  stage: StageName
  /** The rendition whose picture was in it, −1: none. */
  rendition: number
  /** Bytes of what was arriving, and of all of it; 0: not known. */
  received: number
  total: number
}

export interface PlayedCell {
  cell: number
  kind: number
  /** The item: its place in the feed, and its key. */
  index: number
  key: string
  row: number
  /** −1: the log does not tell it. */
  column: number
  /** dp, in the list. */
  top: number
  height: number
  slots: PlayedSlot[]
}

/** The device's screen as it was at a moment. */
export interface PlayedScreen {
  ms: number
  /** Of the window in the list, dp. */
  top: number
  cells: PlayedCell[]
}

interface CellState {
  kind: number
  index: number
  key: number
  row: number
  column: number
  attached: boolean
  slots: { claim: number; rendition: number; stage: StageName; received: number; total: number }[]
}

type Event = readonly [kind: number, a: number, b: number, c: number, d: number, x: number]

/**
 * Reads the screen at any moment of a run from its log alone. What a frame does is on screen when the frame is
 * presented; what arrives between frames shows at once. Going back begins anew.
 */
export class Playback {
  private readonly log: RunLog
  private at = 0
  private cells: CellState[] = []
  private rows = new Map<number, { top: number; height: number }>()
  private top = 0
  /** Where a claim's picture goes, and whose request it waits for. */
  private claims = new Map<number, { cell: number; slot: number }>()
  private claimsOf = new Map<number, number[]>()
  private requestOf = new Map<number, number>()
  private totals = new Map<number, number>()
  /** What a frame under way has done, not presented yet. */
  private pending: Event[] = []

  constructor(log: RunLog) {
    this.log = log
  }

  /** The screen when so many ms had passed. */
  screenAt(ms: number): PlayedScreen {
    const us = Math.round(ms * 1000)
    if (this.at > 0 && this.timeOf(this.at - 1) > us) this.begin()
    while (this.at < this.log.count && this.timeOf(this.at) <= us) this.take(this.at++)
    return { ms, top: this.top / unitsPerDp, cells: this.visible() }
  }

  private begin(): void {
    this.at = 0
    this.cells = []
    this.rows = new Map()
    this.top = 0
    this.claims = new Map()
    this.claimsOf = new Map()
    this.requestOf = new Map()
    this.totals = new Map()
    this.pending = []
    this.failed = new Set()
    this.assetOf = new Map()
    this.failedAssets = new Set()
    this.early = new Map()
  }

  private timeOf(event: number): number {
    return this.log.chunks[Math.floor(event / chunkRows)]!.t[event % chunkRows]!
  }

  private take(number: number): void {
    const chunk = this.log.chunks[Math.floor(number / chunkRows)]!
    const row = number % chunkRows
    const kind = chunk.kind[row]!
    const event: Event = [kind, chunk.a[row]!, chunk.b[row]!, chunk.c[row]!, chunk.d[row]!, chunk.x[row]!]
    // Who asks for what is known to fail has failed at once, unless a request is made all the same.
    if (kind === K.claim && this.failedAssets.has(this.log.renditions[event[2]]!.asset)) this.failed.add(event[1])
    if (kind === K.frame) for (const each of this.pending.splice(0)) this.bindings(each)
    else if (
      kind === K.create ||
      kind === K.bind ||
      kind === K.recycle ||
      kind === K.away ||
      kind === K.hold ||
      (kind === K.claim && event[3] >= 0)
    )
      this.pending.push(event)
    else this.shows(event)
  }

  /** What a frame does to cells. */
  private bindings([kind, a, b, c, d, x]: Event): void {
    switch (kind) {
      case K.create:
        this.cells[a] = { kind: b, index: -1, key: -1, row: -1, column: -1, attached: false, slots: [] }
        return
      case K.bind: {
        const cell = this.cells[a]!
        const other = cell.key !== b
        Object.assign(cell, { key: b, index: c, row: d, column: x - 1, attached: true })
        if (other)
          for (const slot of cell.slots) Object.assign(slot, { claim: -1, stage: 'absent', received: 0, total: 0 })
        return
      }
      case K.hold:
        this.cells[a]!.attached = true
        return
      case K.away:
      case K.recycle:
        this.cells[a]!.attached = false
        return
      default:
        this.claims.set(a, { cell: c, slot: d })
        this.claimed(a, c, d, x)
    }
  }

  private claimed(claim: number, cell: number, number: number, index: number): void {
    const state = this.cells[cell]!
    if (state.index !== index) return
    const slot = (state.slots[number] ??= { claim: -1, rendition: -1, stage: 'absent', received: 0, total: 0 })
    const come = this.early.get(claim)
    Object.assign(slot, {
      claim,
      stage: this.failed.has(claim) ? 'failed' : come ? 'arriving' : 'waiting',
      received: come?.received ?? 0,
      total: come?.total ?? 0,
    })
    this.early.delete(claim)
  }

  /** What became of claims before the frame that made them was presented: they had failed, or something had come. */
  private failed = new Set<number>()
  /** The asset of each request, and those that are known to fail. */
  private assetOf = new Map<number, number>()
  private failedAssets = new Set<number>()
  private early = new Map<number, { received: number; total: number }>()

  private shows([kind, a, b, c, d, x]: Event): void {
    switch (kind) {
      case K.scroll:
        this.top = x
        return
      case K.place:
        this.rows.set(a, { top: x, height: b })
        return
      case K.queue:
        this.assetOf.set(a, b)
        return
      case K.join: {
        this.failed.delete(a)
        const claims = this.claimsOf.get(b)
        if (claims) claims.push(a)
        else this.claimsOf.set(b, [a])
        return
      }
      case K.start:
        this.requestOf.set(b, a)
        for (const slot of this.slotsOf(a)) if (slot.stage === 'failed') slot.stage = 'waiting'
        return
      case K.firstByte:
        this.totals.set(a, c)
        if (b >= 200 && b < 300) this.arrives(a, 0)
        return
      case K.progress:
        this.arrives(a, b)
        return
      case K.cancel:
        for (const slot of this.slotsOf(b)) if (slot.stage === 'arriving') slot.stage = 'waiting'
        return
      case K.fail:
        if (b < 0) return
        this.failedAssets.add(this.assetOf.get(b)!)
        this.fails(b)
        return
      case K.park:
        this.fails(a)
        return
      case K.unpark:
        for (const claim of this.claimsOf.get(a) ?? []) this.failed.delete(claim)
        for (const slot of this.slotsOf(a)) if (slot.stage === 'failed') slot.stage = 'waiting'
        return
      case K.show: {
        const slot = this.cells[c]?.slots[d]
        if (slot) Object.assign(slot, { rendition: b, stage: 'settled' })
        return
      }
      case K.standIn: {
        const slot = this.cells[a]?.slots[c]
        if (slot) Object.assign(slot, { rendition: b, stage: 'settled' })
        return
      }
      case K.clear: {
        const slot = this.cells[a]?.slots[b]
        if (!slot) return
        slot.rendition = -1
        // What stood in has gone: what it stood in for has failed, or is still waited for.
        if (slot.stage === 'settled') slot.stage = this.failed.has(slot.claim) ? 'failed' : 'waiting'
        return
      }
    }
  }

  private *slotsOf(request: number): Generator<CellState['slots'][number]> {
    for (const claim of this.claimsOf.get(request) ?? []) {
      const place = this.claims.get(claim)
      const slot = place && this.cells[place.cell]?.slots[place.slot]
      if (slot?.claim === claim) yield slot
    }
  }

  private arrives(transfer: number, bytes: number): void {
    const request = this.requestOf.get(transfer)
    if (request === undefined) return
    const total = Math.max(0, this.totals.get(transfer) ?? 0)
    for (const claim of this.claimsOf.get(request) ?? [])
      if (!this.claims.has(claim)) this.early.set(claim, { received: bytes, total })
    for (const slot of this.slotsOf(request))
      if (slot.stage === 'waiting' || slot.stage === 'arriving')
        Object.assign(slot, { stage: 'arriving', received: bytes, total })
  }

  private fails(request: number): void {
    for (const claim of this.claimsOf.get(request) ?? []) this.failed.add(claim)
    for (const slot of this.slotsOf(request)) if (slot.stage !== 'settled') slot.stage = 'failed'
  }

  private visible(): PlayedCell[] {
    // A device that was turned shows as much as it is wide.
    const { heightDp, widthDp } = this.log.head
    const bottom = this.top + Math.max(heightDp, widthDp) * unitsPerDp
    return this.cells.flatMap((state, cell) => {
      const place = state.attached ? this.rows.get(state.row) : undefined
      if (!place || place.top >= bottom || place.top + place.height <= this.top) return []
      const slots = Array.from(state.slots, (slot): PlayedSlot =>
        slot
          ? {
              stage: slot.rendition >= 0 ? 'settled' : slot.stage,
              rendition: slot.rendition,
              received: slot.received,
              total: slot.total,
            }
          : { stage: 'absent', rendition: -1, received: 0, total: 0 },
      )
      return [
        {
          cell,
          kind: state.kind,
          index: state.index,
          key: this.log.strings[state.key] ?? '',
          row: state.row,
          column: state.column,
          top: place.top / unitsPerDp,
          height: place.height / unitsPerDp,
          slots,
        },
      ]
    })
  }
}
