import type { RunLog } from '../log/run-log.ts'
import { unitsPerDp } from '../numbers/units.ts'
import { laterClass, type Asset, type RecordedRequests } from './recorded-requests.ts'
import { inDp, type RecordedRows } from './recorded-rows.ts'

interface RecordedCell {
  id: number
  bound: { row: number; key: string; asset: Asset | null; claim: number | null; delivered: boolean } | null
  /** The claim that it is on screen with; null: it is not on screen. */
  seen: { key: string; geometry: number } | null
  /** It shows its own picture. */
  showsOwn: boolean
  /** It shows a picture of its former item. */
  stale: boolean
  /** The app has reported that it shows another item's picture, or one that came for an earlier request. */
  showsOther: boolean
}

export interface Bound {
  cell: number | string
  row: number
  key: string
  address: string | null
}

/** The cells of a recorded run: what they are bound to, which of them are on screen, and what they show. */
export class RecordedCells {
  private readonly log: RunLog
  private readonly requests: RecordedRequests
  private readonly rows: RecordedRows
  private readonly widthDp: number
  /** On screen by scrolls and heights; else from bind to recycle. */
  private readonly byScroll: boolean
  /** Frames date each change on screen; else it is immediate. */
  private readonly waitsForFrames: boolean
  /** Deliveries are reported by themselves; else with what is shown. */
  private readonly reportsDeliveries: boolean
  /** Height of the window, 1/1024 dp. */
  private readonly window: number
  private readonly cells = new Map<number | string, RecordedCell>()
  /** Those that are bound, or still on screen: an app may give each bind a cell of a new name. */
  private readonly inUse = new Set<RecordedCell>()
  private readonly kinds = new Map<number | string, number>()
  private readonly placed = new Set<number>()
  private readonly geometries = new Map<string, number>()
  /** The addresses of items: any other address is a fallback. */
  private readonly owned = new Map<string, string>()
  private claims = 0
  private top = 0
  /** The position of the next scroll: what is bound for it is requested as if it were on screen. */
  private nextTop = 0

  constructor(
    log: RunLog,
    requests: RecordedRequests,
    rows: RecordedRows,
    { byScroll, hasFrames, reportsDeliveries }: { byScroll: boolean; hasFrames: boolean; reportsDeliveries: boolean },
  ) {
    this.log = log
    this.requests = requests
    this.rows = rows
    this.byScroll = byScroll
    this.reportsDeliveries = reportsDeliveries
    this.waitsForFrames = byScroll && hasFrames
    this.widthDp = log.head.widthDp
    this.window = log.head.heightDp * unitsPerDp
  }

  create(t: number, name: number | string, kind: number | string): RecordedCell {
    const known = this.cells.get(name)
    if (known) return known
    if (!this.kinds.has(kind)) this.kinds.set(kind, this.kinds.size)
    const cell: RecordedCell = {
      id: this.cells.size,
      bound: null,
      seen: null,
      showsOwn: false,
      stale: false,
      showsOther: false,
    }
    this.cells.set(name, cell)
    this.log.events.create(t, { cell: cell.id, kind: this.kinds.get(kind)! })
    return cell
  }

  bind(t: number, { cell: name, row, key, address }: Bound): void {
    const { log, rows } = this
    const cell = this.create(t, name, 'cell')
    const before = cell.bound
    if (before?.key === key && before.row === row && before.asset?.address === (address ?? undefined)) return
    this.release(t, cell, 'rebound')
    cell.stale ||= cell.showsOwn || cell.showsOther
    cell.showsOther = false
    if (!this.placed.has(row)) {
      this.placed.add(row)
      log.events.place(t, { row, top: rows.topOf(row), height: rows.heightOf(row) })
    }
    log.events.bind(t, { cell: cell.id, key: log.text(key), index: row, row, column: null })
    const asset = address === null ? null : this.requests.of(address)
    if (address !== null && !this.owned.has(address)) this.owned.set(address, key)
    cell.bound = { row, key, asset, claim: null, delivered: false }
    this.inUse.add(cell)
    cell.showsOwn = false
    if (asset) this.claim(t, cell, asset)
    if (!this.waitsForFrames) this.clear(t, cell)
    if (!this.byScroll) this.look(t, cell)
  }

  recycle(t: number, name: number | string): void {
    const cell = this.cells.get(name)
    if (!cell?.bound) return
    // What a frame takes off the screen is gone when it is presented.
    if (cell.seen && !this.waitsForFrames) this.leave(t, cell)
    this.release(t, cell, 'recycled')
    this.log.events.recycle(t, { cell: cell.id })
    cell.bound = null
    cell.stale ||= cell.showsOwn || cell.showsOther
    cell.showsOther = false
    cell.showsOwn = false
    if (this.waitsForFrames) return
    this.clear(t, cell)
    this.inUse.delete(cell)
  }

  /** Where the list will be at the next scroll, dp. */
  expect(topDp: number): void {
    this.nextTop = Math.round(topDp * unitsPerDp)
  }

  scrolled(topDp: number): void {
    this.top = Math.round(topDp * unitsPerDp)
  }

  /** What has come on screen, and what has left it. */
  lookAt(t: number): void {
    if (!this.byScroll) return
    for (const cell of this.inUse) {
      this.look(t, cell)
      if (!cell.bound && !cell.seen && !cell.stale) this.inUse.delete(cell)
    }
  }

  /** A picture was delivered: to a cell that is bound to it, or to a claim that was made ahead. */
  deliver(t: number, name: number | string | undefined, address: string, tier: string): void {
    const { log } = this
    const asset = this.requests.of(address)
    const { rendition } = asset
    const bound = name === undefined ? null : (this.cells.get(name)?.bound ?? null)
    if (bound?.asset === asset && bound.claim !== null && !bound.delivered) {
      bound.delivered = true
      log.events.deliver(t, { claim: bound.claim, tier, rendition })
      return
    }
    const claim = this.claims++
    log.events.claim(t, { id: claim, rendition, cell: null, slot: 0, index: null })
    log.events.deliver(t, { claim, tier, rendition })
  }

  /** A cell shows a picture; `late`: for its former item, or for an earlier request of its own. */
  show(t: number, name: number | string, address: string, tier: string, late: boolean): void {
    const cell = this.cells.get(name)
    if (!cell?.bound) return
    const { log } = this
    const asset = this.requests.of(address)
    if (cell.bound.asset !== asset) {
      const owner = this.owned.get(address)
      if (owner !== undefined && owner !== cell.bound.key) {
        cell.showsOther = true
        log.events.wrong(t, { cell: cell.id, rendition: asset.rendition, slot: 0 })
        return
      }
      this.release(t, cell, 'fallback')
      cell.bound.asset = asset
      this.claim(t, cell, asset)
    }
    if (!late) {
      this.showOwn(t, cell, tier)
      return
    }
    cell.showsOther = !cell.showsOwn
    log.events.standIn(t, { cell: cell.id, rendition: asset.rendition, slot: 0 })
  }

  /** The picture of an address has arrived: without show events, cells that are bound to it show it now. */
  showReceived(t: number, asset: Asset): void {
    for (const cell of this.inUse) if (cell.bound?.asset === asset && !cell.showsOwn) this.showOwn(t, cell, 'network')
  }

  /** Another picture of the item is already bound and complete: shown at once, where no shows are reported. */
  showKept(t: number, name: number | string): void {
    const cell = this.cells.get(name)
    if (cell?.bound?.asset?.complete && !cell.showsOwn) this.showOwn(t, cell, 'memory')
  }

  private showOwn(t: number, cell: RecordedCell, tier: string): void {
    const { asset, claim } = cell.bound!
    if (claim === null || !asset) return
    // Its request may have ended before the cell requested it: its decode was still under way.
    if (tier === 'network') this.requests.joinLast(t, claim, asset)
    if (!this.reportsDeliveries && !cell.showsOwn)
      this.log.events.deliver(t, { claim, tier, rendition: asset.rendition })
    cell.showsOwn = true
    cell.stale = false
    cell.showsOther = false
    this.log.events.show(t, { claim, rendition: asset.rendition, cell: cell.id, slot: 0, transition: false })
  }

  private claim(t: number, cell: RecordedCell, asset: Asset): void {
    const claim = this.claims++
    cell.bound!.claim = claim
    this.log.events.claim(t, { id: claim, rendition: asset.rendition, cell: cell.id, slot: 0, index: cell.bound!.row })
    asset.claims.add(claim)
    if (!asset.priority) this.requests.rank(t, asset, this.isSoonSeen(cell) ? 0 : Math.min(asset.class, laterClass))
    this.requests.join(t, claim, asset)
  }

  private release(t: number, cell: RecordedCell, why: string): void {
    if (!cell.bound || cell.bound.claim === null) return
    this.log.events.release(t, { id: cell.bound.claim, why })
    const { asset, claim } = cell.bound
    asset!.claims.delete(claim)
    cell.bound.claim = null
    if (asset!.claims.size === 0 && !asset!.priority) asset!.class = 3
  }

  private isSoonSeen(cell: RecordedCell): boolean {
    return !this.byScroll || this.overlaps(cell, this.top) || this.overlaps(cell, this.nextTop)
  }

  private overlaps({ bound }: RecordedCell, top: number): boolean {
    if (!bound) return false
    const from = this.rows.topOf(bound.row) - top
    return from < this.window && from + this.rows.heightOf(bound.row) > 0
  }

  private look(t: number, cell: RecordedCell): void {
    const { bound, seen } = cell
    const visible = bound !== null && (!this.byScroll || this.overlaps(cell, this.top))
    if (seen && (!visible || seen.key !== bound.key)) this.leave(t, cell)
    this.clear(t, cell)
    if (!visible || cell.seen) return
    const { geometry, area } = this.frameOf(bound.row)
    cell.seen = { key: bound.key, geometry }
    this.log.events.enter(t, { cell: cell.id, slot: 0, key: this.log.text(bound.key), geometry, area })
    if (bound.asset && !bound.asset.priority) this.requests.rank(t, bound.asset, 0)
  }

  /** A cell that is given to another item shows nothing of the former one, unless the app says so. */
  private clear(t: number, cell: RecordedCell): void {
    if (!cell.stale) return
    cell.stale = false
    this.log.events.clear(t, { cell: cell.id, slot: 0 })
  }

  private leave(t: number, cell: RecordedCell): void {
    const { key, geometry } = cell.seen!
    this.log.events.leave(t, { cell: cell.id, slot: 0, key: this.log.text(key), geometry, area: 0 })
    cell.seen = null
  }

  /** A row's own frame stands for its picture's, which is not reported. */
  private frameOf(row: number): { geometry: number; area: number } {
    const height = inDp(this.rows.heightOf(row))
    const width = this.widthDp / this.rows.columns
    const mark = String(height)
    let geometry = this.geometries.get(mark)
    if (geometry === undefined) {
      geometry = this.log.geometries.push({ x: 0, y: 0, width, height, widthPx: 0, heightPx: 0, fit: 'cover' }) - 1
      this.geometries.set(mark, geometry)
    }
    return { geometry, area: Math.round(width * height) }
  }
}
