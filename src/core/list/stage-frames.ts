import type { StageName } from '../project/types.ts'
import { setBox, type ListCell } from './list-cell.ts'
import type { ListState } from './list-state.ts'
import { whenPresented } from './visuals.ts'

/** Frames that differ by stage, and pictures that give their slot its size: how a change of them moves the screen. */
export class StageFrames {
  private readonly list: ListState
  /** An edit is under way, which holds the screen by an anchor of its own. */
  anchored = false
  /** Top and height in 1/1024 dp. */
  private readonly placeCell: (cell: ListCell, top: number, height: number) => void

  constructor(list: ListState, placeCell: (cell: ListCell, top: number, height: number) => void) {
    this.list = list
    this.placeCell = placeCell
  }

  /**
   * Before a cell is shown, its frames are those of the stages it will begin with: that moves nothing on screen. Slots
   * that `goOn` stay as they are.
   */
  expectStages(cell: ListCell, goOn: (slot: number) => boolean): void {
    const before = this.list.layout.topOf(cell.row)
    const moved = this.expect(cell.index, cell.row, goOn)
    if (moved === 0) return
    this.list.dirty = true
    this.list.world.frames.request()
    if (before < this.list.correctedTop && !this.anchored) this.list.correct(moved)
  }

  /** Gives an item's slots the frames that they will begin with; returns by how much its row has grown, 1/1024 dp. */
  expect(index: number, row: number, goOn: (slot: number) => boolean = () => false): number {
    let moved = 0
    for (const number of this.list.pictures.of(index).keys())
      if (!goOn(number)) moved += this.list.layout.learnStage(index, number, row, this.beginsWith(index, number))
    return moved
  }

  beginsWith(index: number, slot: number): StageName {
    const own = this.list.pictures.of(index)[slot]
    if (!own) return 'absent'
    const picture = this.list.firstOf(own)
    if (this.list.loader.memory.has(picture.rendition)) return 'settled'
    return own.refused !== null || this.list.loader.failureOf(own.asset) !== undefined ? 'failed' : 'waiting'
  }

  /** A slot of a bound cell is in another stage, whose frame may differ. */
  stageChanged(cell: ListCell, slot: number, stage: StageName): void {
    if (!this.list.layout.isFramed(cell.kind) || cell.state !== 'attached') return
    const before = this.list.layout.topOf(cell.row)
    this.rowChanged(cell, before, this.list.layout.learnStage(cell.index, slot, cell.row, stage))
  }

  /**
   * The frames of a cell's slots may have changed, and its row, whose top was at `before`, has grown by `moved`, 1/1024
   * dp: what is below it on screen jumps.
   */
  rowChanged(cell: ListCell, before: number, moved: number): void {
    const { list } = this
    if (!list.layout.changesWithPictures(cell.kind)) return
    const movesOwn = this.renewFrames(cell)
    if (movesOwn === null && moved === 0) return
    list.dirty = true
    list.world.frames.request()
    list.world.surface.arrange(cell.id, cell.index)
    if (moved === 0) return
    this.placeCell(cell, before, list.layout.heightOf(cell.row))
    const bottom = before + list.layout.heightOf(cell.row) - moved
    if (bottom <= list.correctedTop) {
      list.correct(moved)
      return
    }
    list.world.frames.work('layout', 1, 0)
    if (movesOwn || this.isSeenBelow(cell.row, bottom))
      list.visuals.events.jump(whenPresented, { row: cell.row, dp: moved })
  }

  /**
   * Gives a cell's slots their present frames and logs those on screen. Returns whether texts of the cell on screen
   * have moved with them; null: no frame has changed.
   */
  private renewFrames(cell: ListCell): boolean | null {
    const { list } = this
    const { slots, texts } = list.layout.geometry(cell.index)
    const left = list.layout.leftOf(cell.column)
    let changed = false
    let seen = false
    for (const [number, slot] of cell.slots.entries()) {
      const { fit } = list.parts.screen.cells[cell.kind]!.slots[number]!
      const geometry = list.geometries.number(left, slots[number]!, fit)
      seen ||= slot.onScreen
      setBox(slot, slots[number]!)
      if (geometry === slot.geometry) continue
      changed = true
      slot.geometry = geometry
      if (slot.onScreen) list.visuals.events.slotFrame(whenPresented, { cell: cell.id, slot: number, geometry })
    }
    return changed ? seen && texts.length > 0 : null
  }

  /** Whether a row below one, which ended at `bottom`, is on screen: that is what moves. */
  private isSeenBelow(row: number, bottom: number): boolean {
    const { layout, correctedTop, height } = this.list
    return row + 1 < layout.rowCount && bottom + layout.gap < correctedTop + height
  }
}
