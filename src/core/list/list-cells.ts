import type { ListLayout } from '../layout/list-layout.ts'
import { isLocal } from '../loading/hosts.ts'
import type { Claim } from '../loading/request.ts'
import { toUnits } from '../numbers/units.ts'
import { newCell, setBox, type ListCell } from './list-cell.ts'
import type { ListState } from './list-state.ts'
import { hasShape, type SlotPicture } from './pictures.ts'
import type { Place } from './recycler.ts'
import type { ScreenEdge } from './screen-edge.ts'
import type { StageFrames } from './stage-frames.ts'
import { whenPresented } from './visuals.ts'

/** Garbage that making and binding a cell leaves behind, bytes: an estimate. */
const createGarbage = 24_000
const bindGarbage = 2_000
export const priorities = { high: 0, normal: 1, low: 2 } as const

/** Cells and rows: attached as the window comes to them, bound, recycled; one claim a slot. */
export class ListCells {
  private readonly list: ListState
  private readonly stages: StageFrames
  private readonly edge: ScreenEdge
  /** Claims of recycled cells that are kept while their row is in the zone. */
  private zoneClaims: Claim[] = []
  /** The reason with which claims of removed cells are released. */
  private why = 'recycle'
  /** Last position of each row, and its height, 1/1024 dp. */
  private readonly placedRows = new Map<number, { top: number; height: number }>()
  /** The rows that are attached and placed; null: cells have come, gone or changed otherwise than by the window. */
  private followed: {
    layout: ListLayout
    first: number | null
    last: number | null
    version: number
    cells: number
  } | null = null

  constructor(list: ListState, stages: StageFrames, edge: ScreenEdge) {
    this.list = list
    this.stages = stages
    this.edge = edge
  }

  followWindow(): void {
    const { layout } = this.list
    const { beforeDp, afterDp } = this.list.parts.screen.layout
    const first = layout.rowAt(this.list.top - toUnits(beforeDp))
    const last = layout.rowAt(this.list.top + this.list.height + toUnits(afterDp) - 1)
    // Most frames bring in no row and change none: nothing has to be checked again.
    const { version } = layout.index
    const { followed } = this
    if (
      followed?.layout === layout &&
      followed.first === first &&
      followed.last === last &&
      followed.version === version &&
      followed.cells === layout.cellCount
    )
      return
    const cells = layout.cellCount
    for (const cell of this.list.recycler.attached.values())
      if (first === null || last === null || cell.row < first || cell.row > last) this.detach(cell, true)
    if (first !== null && last !== null) this.attachRows(first, last)
    // A row whose height has changed meanwhile may have moved one that was placed before: then all is done once more.
    this.followed = { layout, first, last, version, cells }
  }

  private attachRows(first: number, last: number): void {
    if (this.list.direction > 0) for (let row = first; row <= last; row++) this.attachRow(row)
    else for (let row = last; row >= first; row--) this.attachRow(row)
  }

  private attachRow(row: number): void {
    const { layout, recycler } = this.list
    for (let column = 0; column < layout.columns; column++) {
      const index = layout.itemAt(row, column)
      if (index !== null && !recycler.attached.has(index)) this.attach(index, row, column)
    }
    // The frames with which its cells begin may have changed the row.
    const top = layout.topOf(row)
    const height = layout.heightOf(row)
    for (let column = 0; column < layout.columns; column++) {
      const index = layout.itemAt(row, column)
      const cell = index === null ? undefined : recycler.attached.get(index)
      if (cell && cell.top !== top) this.placeCell(cell, top, height)
    }
    const placed = this.placedRows.get(row)
    if (placed?.top === top && placed.height === height) return
    this.placedRows.set(row, { top, height })
    this.list.visuals.events.place(whenPresented, { row, top, height })
  }

  private attach(index: number, row: number, column: number): ListCell {
    const { cell, from } = this.list.recycler.attach(index, this.list.layout.kindOf(index), row, column)
    if (from === 'held') {
      this.placeCell(cell, this.list.layout.topOf(row), this.list.layout.heightOf(row))
      for (const slot of cell.slots) if (slot.claim) slot.claim.held = false
      this.list.log.events.hold(this.list.world.clock.now(), { cell: cell.id })
      // Its small pictures may have arrived while it was away.
      for (const [number, { claim, larger }] of cell.slots.entries())
        if (larger && claim?.state === 'delivered') this.askLarger(cell, number)
      // It was away when the others of its screen made their claims again.
      this.askAgain(cell)
    } else this.bind(cell)
    return cell
  }

  /** Claims of a cell that lost their request while its screen was away are made again, memory first. */
  askAgain(cell: ListCell): void {
    for (const [number, slot] of cell.slots.entries()) {
      if (slot.claim?.state !== 'open' || slot.claim.request?.state !== 'cancelled') continue
      this.list.loader.release(slot.claim, 'again')
      const picture = this.list.pictures.of(cell.index)[number]
      if (picture) slot.claim = this.claimFor(cell, number, (slot.larger && picture.small) ?? picture, slot.onScreen)
    }
  }

  /**
   * The small picture is shown, or cannot be: the one that covers the slot is requested, and the small one stays until
   * it arrives.
   */
  askLarger(cell: ListCell, number: number): void {
    const slot = cell.slots[number]!
    const picture = slot.larger!
    slot.larger = null
    this.list.loader.release(slot.claim!, 'larger')
    slot.asset = picture.asset
    slot.claim = this.claimFor(cell, number, picture, slot.onScreen)
  }

  placeCell(cell: ListCell, top: number, height: number): void {
    cell.top = top
    this.list.world.surface.place(
      cell.id,
      this.list.layout.leftOf(cell.column),
      this.list.layout.cellWidthDp,
      top,
      height,
    )
  }

  /** The list has been laid out again: every row is placed again. */
  forgetPlaces(): void {
    this.placedRows.clear()
    this.followed = null
  }

  detach(cell: ListCell, mayHold: boolean): void {
    this.followed = null
    this.edge.leaveScreen(cell, this.list.world.clock.now())
    this.placedRows.delete(cell.row)
    if (this.list.recycler.detach(cell, mayHold) !== 'held') return
    this.list.log.events.away(this.list.world.clock.now(), { cell: cell.id })
    for (const slot of cell.slots) if (slot.claim) slot.claim.held = true
  }

  /** The screen closes: all its claims end now, those of held cells and those kept for the zone too. */
  close(): void {
    this.why = 'closed'
    for (const cell of [...this.list.recycler.attached.values()]) this.detach(cell, false)
    this.list.recycler.dropHeld()
    for (const claim of this.zoneClaims.splice(0)) this.list.loader.release(claim, 'closed')
    this.why = 'recycle'
  }

  makeCell(id: number, kind: number, place: Place): ListCell {
    this.list.log.events.create(this.list.world.clock.now(), { cell: id, kind })
    this.list.world.heap.churn(createGarbage)
    this.list.world.surface.create(id, kind)
    this.list.world.frames.work('create', 1, 0)
    const masked = this.list.parts.screen.cells[kind]!.slots.map((slot) => slot.shapeAt === 'draw' && hasShape(slot))
    return newCell(id, kind, place, masked)
  }

  /** Binds a cell to the item at its index: texts, then one claim a slot. */
  bind(cell: ListCell): void {
    const { log, world, layout, parts } = this.list
    const now = world.clock.now()
    const key = log.text(this.list.feed.key(cell.index))
    const again = cell.key === key
    log.events.bind(now, { cell: cell.id, key, index: cell.index, row: cell.row, column: cell.column })
    this.followed = null
    cell.key = key
    cell.top = null
    world.surface.bind(cell.id, cell.index)
    world.heap.churn(bindGarbage)
    if (parts.project.loading.setup === 'per-bind') this.list.setupsDue++
    const pictures = this.list.pictures.of(cell.index)
    if (layout.isFramed(cell.kind))
      this.stages.expectStages(cell, (number) => again && goesOn(cell, number, pictures[number]))
    const { slots } = layout.geometry(cell.index)
    const left = layout.leftOf(cell.column)
    const top = layout.topOf(cell.row)
    for (const [number, picture] of pictures.entries()) {
      const slot = cell.slots[number]!
      const settings = parts.screen.cells[cell.kind]!.slots[number]!
      const continues = again && goesOn(cell, number, picture)
      // Another address of the same item is another exposure.
      if (!continues && slot.onScreen) this.edge.endExposure(cell, number, now)
      setBox(slot, slots[number]!)
      const geometry = this.list.geometries.number(left, slot.box, settings.fit)
      if (slot.onScreen && geometry !== slot.geometry)
        this.list.visuals.events.slotFrame(whenPresented, { cell: cell.id, slot: number, geometry })
      slot.geometry = geometry
      if (continues) continue
      if (slot.claim) this.list.loader.release(slot.claim, 'rebind')
      const first = picture && this.list.firstOf(picture)
      slot.claim = null
      slot.asset = first?.asset ?? null
      slot.own = picture?.asset ?? null
      slot.small = picture?.small?.asset ?? null
      slot.larger = first === picture ? null : picture
      slot.fallbacks = 0
      this.resetSlot(cell, number, first?.rendition ?? null, again)
      if (!first) world.surface.stage(cell.id, number, 'absent')
      else slot.claim = this.claimFor(cell, number, first, this.edge.seenOf(slot, top) > 0)
    }
    world.frames.work('bind', 1, 0)
  }

  claimFor(cell: ListCell, number: number, picture: SlotPicture, onScreen: boolean): Claim {
    const priority = priorities[this.list.parts.screen.cells[cell.kind]!.slots[number]!.priority]
    if (cell.slots[number]!.shows === null) this.list.world.surface.stage(cell.id, number, 'waiting')
    if (this.list.parts.project.loading.setup === 'first-use' && this.list.firstUse === 'to come')
      this.list.firstUse = 'due'
    const claim = this.list.loader.claim(
      {
        rendition: picture.rendition,
        cell: cell.id,
        slot: number,
        index: cell.index,
        row: cell.row,
        priority,
        refused: picture.refused,
      },
      onScreen,
    )
    if (claim.state === 'open' && cell.slots[number]!.shows === null) this.standIn(cell, number, claim)
    return claim
  }

  /** Requests the failed pictures of a cell again, where their slots offer that; returns how many. */
  retryFailed(cell: ListCell): number {
    let asked = 0
    for (const [number, slot] of cell.slots.entries()) {
      const { claim } = slot
      const picture = this.list.pictures.of(cell.index)[number]
      const { failed } = this.list.parts.screen.cells[cell.kind]!.slots[number]!.stages
      // What waits for the network is requested again by itself.
      if (claim?.state !== 'failed' || claim.request?.parked || !picture || !failed.retry) continue
      this.list.loader.forgetFailure(picture.asset)
      this.list.loader.release(claim, 'retry')
      slot.fallbacks = 0
      slot.asset = picture.asset
      slot.larger = null
      slot.claim = this.claimFor(cell, number, picture, slot.onScreen)
      asked++
    }
    return asked
  }

  /** While a picture loads, one of the same asset at another size stands in, if memory has one. */
  private standIn(cell: ListCell, number: number, claim: Claim): void {
    if (!this.list.parts.project.loading.standIn) return
    const other = this.list.loader.standInFor(claim.rendition)
    if (other === null) return
    const { width, height } = this.list.parts.table.renditions[other]!
    cell.slots[number]!.shows = other
    this.list.world.surface.picture(cell.id, number, other, false)
    this.list.world.frames.work('upload', 1, width * height)
    this.list.visuals.events.standIn(whenPresented, { cell: cell.id, rendition: other, slot: number })
  }

  /** With the reset, a slot goes back to waiting when it is bound; without it, it keeps what it showed. */
  private resetSlot(cell: ListCell, number: number, rendition: number | null, again: boolean): void {
    const slot = cell.slots[number]!
    if (slot.shows === null) return
    if (again && rendition !== null && this.standsIn(slot.shows)) {
      this.list.visuals.events.standIn(whenPresented, { cell: cell.id, rendition: slot.shows, slot: number })
      return
    }
    if (this.list.parts.project.loading.resetOnBind) {
      if (slot.shows === rendition && this.list.loader.memory.has(rendition)) return
      this.list.world.surface.clear(cell.id, number)
      this.list.visuals.events.clear(whenPresented, { cell: cell.id, slot: number })
      slot.shows = null
    } else if (this.list.parts.table.assetOf(slot.shows) !== slot.asset)
      this.list.visuals.events.wrong(whenPresented, { cell: cell.id, rendition: slot.shows, slot: number })
  }

  /** A picture that was on the device already stands in until the same item's remote one is there. */
  private standsIn(rendition: number): boolean {
    const { table, project } = this.list.parts
    return project.loading.standIn && isLocal(table.hrefs[table.assetOf(rendition)]!)
  }

  unbind(cell: ListCell): void {
    const { cancel } = this.list.parts.project.loading
    this.list.log.events.recycle(this.list.world.clock.now(), { cell: cell.id })
    this.list.world.surface.recycle(cell.id)
    for (const slot of cell.slots) {
      const { claim } = slot
      slot.claim = null
      if (!claim) continue
      claim.held = false
      if (cancel.when === 'zone' && claim.state === 'open' && this.why === 'recycle') this.zoneClaims.push(claim)
      else this.list.loader.release(claim, this.why)
    }
    cell.key = null
  }

  releaseZone(): void {
    if (this.zoneClaims.length === 0) return
    const rows = this.list.parts.project.loading.cancel.zoneRows
    const first = this.list.layout.rowAt(this.list.top)
    const last = this.list.layout.rowAt(this.list.top + this.list.height - 1)
    const isNear = (row: number) => first !== null && last !== null && row >= first - rows && row <= last + rows
    this.zoneClaims = this.zoneClaims.filter((claim) => {
      const stays = claim.state === 'open' && isNear(claim.row)
      if (!stays) this.list.loader.release(claim, 'zone')
      return stays
    })
  }
}

/** Whether the slot's present claim is for the picture that its item has. */
function goesOn(cell: ListCell, number: number, picture: SlotPicture | null | undefined): boolean {
  const { claim, own } = cell.slots[number]!
  return claim !== null && own === (picture?.asset ?? null)
}
