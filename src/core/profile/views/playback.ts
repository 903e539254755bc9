import { EventReader, type EventHandlers } from '../../log/event-reader.ts'
import { chunkRows, type RunLog } from '../../log/run-log.ts'
import { unitsPerDp } from '../../numbers/units.ts'
import type { StageName } from '../../project/types.ts'

/** What one picture slot showed. */
export interface PlayedSlot {
  stage: StageName
  /** The rendition whose picture was in it. */
  rendition: number | null
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
  /** null: the log does not have it. */
  column: number | null
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

interface SlotState extends PlayedSlot {
  claim: number | null
}

interface CellState {
  kind: number
  /** The item that it is bound to. */
  item: { index: number; key: number; row: number; column: number | null } | null
  attached: boolean
  slots: SlotState[]
}

const emptySlot: SlotState = { claim: null, rendition: null, stage: 'absent', received: 0, total: 0 }

/**
 * Reads the screen at any moment of a run from its log alone. The changes of a frame are on screen when the frame is
 * presented; what arrives between frames shows at once. Going back starts from the beginning.
 */
export class Playback {
  private readonly log: RunLog
  private readonly reader: EventReader
  private at = 0
  private cells: CellState[] = []
  private rows = new Map<number, { top: number; height: number }>()
  private top = 0
  /** The slot of a claim's picture, and the request that it waits for. */
  private claims = new Map<number, { cell: number; slot: number }>()
  private claimsOf = new Map<number, number[]>()
  private requestOf = new Map<number, number>()
  private totals = new Map<number, number>()
  /** Changes of a frame that has not been presented yet. */
  private pending: (() => void)[] = []

  constructor(log: RunLog) {
    this.log = log
    this.reader = new EventReader(log, this.handlers)
  }

  /** The screen when so many ms had passed. */
  screenAt(ms: number): PlayedScreen {
    const us = Math.round(ms * 1000)
    if (this.at > 0 && this.timeOf(this.at - 1) > us) this.begin()
    const from = this.at
    while (this.at < this.log.count && this.timeOf(this.at) <= us) this.at++
    this.reader.read(from, this.at)
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

  /** Changes of a frame to cells: visible when it is presented. */
  private readonly handlers: EventHandlers = {
    frame: () => {
      for (const each of this.pending.splice(0)) each()
    },
    create: ({ cell, kind }) =>
      this.pending.push(() => {
        this.cells[cell] = { kind, item: null, attached: false, slots: [] }
      }),
    bind: ({ cell, key, index, row, column }) =>
      this.pending.push(() => {
        const state = this.cells[cell]!
        const other = state.item?.key !== key
        state.item = { key, index, row, column }
        state.attached = true
        // What it shows of the item before stays until it is cleared.
        if (other) for (const slot of state.slots) Object.assign(slot, { ...emptySlot, rendition: slot.rendition })
      }),
    hold: ({ cell }) => this.pending.push(() => this.attach(cell, true)),
    away: ({ cell }) => this.pending.push(() => this.attach(cell, false)),
    recycle: ({ cell }) => this.pending.push(() => this.attach(cell, false)),
    claim: ({ id, rendition, cell, slot, index }) => {
      // A claim on an asset that is known to fail has failed at once, unless a request is made all the same.
      if (this.failedAssets.has(this.log.renditions[rendition]!.asset)) this.failed.add(id)
      if (cell === null) return
      this.pending.push(() => {
        this.claims.set(id, { cell, slot })
        this.claimed(id, cell, slot, index)
      })
    },
    scroll: ({ top }) => {
      this.top = top
    },
    place: ({ row, top, height }) => this.rows.set(row, { top, height }),
    queue: ({ request, asset }) => this.assetOf.set(request, asset),
    join: ({ claim, request }) => {
      this.failed.delete(claim)
      const claims = this.claimsOf.get(request)
      if (claims) claims.push(claim)
      else this.claimsOf.set(request, [claim])
    },
    start: ({ request, transfer }) => {
      this.requestOf.set(transfer, request)
      this.waitAgain(request)
    },
    firstByte: ({ transfer, status, total }) => {
      this.totals.set(transfer, total ?? 0)
      if (status >= 200 && status < 300) this.arrives(transfer, 0)
    },
    progress: ({ transfer, bytes }) => this.arrives(transfer, bytes),
    cancel: ({ request }) => {
      for (const slot of this.slotsOf(request)) if (slot.stage === 'arriving') slot.stage = 'waiting'
    },
    fail: ({ request }) => {
      if (request === null) return
      this.failedAssets.add(this.assetOf.get(request)!)
      this.fails(request)
    },
    park: ({ request }) => this.fails(request),
    unpark: ({ request }) => {
      for (const claim of this.claimsOf.get(request) ?? []) this.failed.delete(claim)
      this.waitAgain(request)
    },
    show: ({ cell, slot, rendition }) => this.settled(cell, slot, rendition),
    standIn: ({ cell, slot, rendition }) => this.settled(cell, slot, rendition),
    clear: ({ cell, slot: number }) => {
      const slot = this.cells[cell]?.slots[number]
      if (!slot) return
      slot.rendition = null
      // The stand-in has gone: the picture that it stood in for has failed, or is still awaited.
      if (slot.stage === 'settled')
        slot.stage = slot.claim !== null && this.failed.has(slot.claim) ? 'failed' : 'waiting'
    },
  }

  private attach(cell: number, attached: boolean): void {
    this.cells[cell]!.attached = attached
  }

  private settled(cell: number, number: number, rendition: number): void {
    const slot = this.cells[cell]?.slots[number]
    if (slot) Object.assign(slot, { rendition, stage: 'settled' })
  }

  private waitAgain(request: number): void {
    for (const slot of this.slotsOf(request)) if (slot.stage === 'failed') slot.stage = 'waiting'
  }

  private claimed(claim: number, cell: number, number: number, index: number | null): void {
    const state = this.cells[cell]!
    if (state.item?.index !== index) return
    const slot = (state.slots[number] ??= { ...emptySlot })
    const come = this.early.get(claim)
    const loading = come ? 'arriving' : 'waiting'
    Object.assign(slot, {
      claim,
      stage: this.failed.has(claim) ? 'failed' : loading,
      received: come?.received ?? 0,
      total: come?.total ?? 0,
    })
    this.early.delete(claim)
  }

  /** Results of claims before the frame that made them was presented: failed, or delivered. */
  private failed = new Set<number>()
  /** The asset of each request, and those that are known to fail. */
  private assetOf = new Map<number, number>()
  private failedAssets = new Set<number>()
  private early = new Map<number, { received: number; total: number }>()

  private *slotsOf(request: number): Generator<SlotState> {
    for (const claim of this.claimsOf.get(request) ?? []) {
      const place = this.claims.get(claim)
      const slot = place && this.cells[place.cell]?.slots[place.slot]
      if (slot?.claim === claim) yield slot
    }
  }

  private arrives(transfer: number, bytes: number): void {
    const request = this.requestOf.get(transfer)
    if (request === undefined) return
    const total = this.totals.get(transfer) ?? 0
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
    // A device that was turned shows as much height as it had width.
    const { heightDp, widthDp } = this.log.head
    const bottom = this.top + Math.max(heightDp, widthDp) * unitsPerDp
    return this.cells.flatMap((state, cell) => {
      const { item } = state
      const place = item && state.attached ? this.rows.get(item.row) : undefined
      if (!item || !place || place.top >= bottom || place.top + place.height <= this.top) return []
      return [
        {
          ...item,
          cell,
          kind: state.kind,
          key: this.log.strings[item.key] ?? '',
          top: place.top / unitsPerDp,
          height: place.height / unitsPerDp,
          // Slots without a claim are missing.
          slots: Array.from(state.slots, (slot) => playedSlot(slot ?? emptySlot)),
        },
      ]
    })
  }
}

function playedSlot({ stage, rendition, received, total }: SlotState): PlayedSlot {
  return { stage: rendition === null ? stage : 'settled', rendition, received, total }
}
