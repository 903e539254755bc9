import { K } from '../log/event-kinds.ts'
import type { StageName } from '../project/types.ts'
import type { ListCell } from './list-cell.ts'
import type { ListState } from './list-state.ts'

/** Frames that differ by stage, and pictures that give their slot its size: what a change of them moves on screen. */
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

  /** Before a cell is shown, its frames are those of the stages it will begin with: that moves nothing on screen. Slots that `goOn` stay as they are. */
  expectStages(cell: ListCell, goOn: (slot: number) => boolean): void {
    const before = this.list.layout.topOf(cell.row)
    const moved = this.expect(cell.index, cell.row, goOn)
    if (moved === 0) return
    this.list.dirty = true
    this.list.world.frames.request()
    if (before < this.list.correctedTop && !this.anchored) this.list.correct(moved)
  }

  /** Gives an item's slots the frames that they will begin with: by how much its row has grown, 1/1024 dp. */
  expect(index: number, row: number, goOn: (slot: number) => boolean = () => false): number {
    let moved = 0
    for (const number of this.list.pictures.of(index).keys())
      if (!goOn(number)) moved += this.list.layout.learnStage(index, number, row, this.beginsWith(index, number))
    return moved
  }

  beginsWith(index: number, slot: number): StageName {
    const picture = this.list.pictures.of(index)[slot]
    if (!picture) return 'absent'
    if (this.list.loader.memory.has(picture.rendition)) return 'settled'
    return picture.refused !== null || this.list.loader.failureOf(picture.asset) !== undefined ? 'failed' : 'waiting'
  }

  /** A slot of a bound cell is in another stage, whose frame may differ. */
  stageChanged(cell: ListCell, slot: number, stage: StageName): void {
    if (!this.list.layout.isFramed(cell.kind) || cell.state !== 'attached') return
    const before = this.list.layout.topOf(cell.row)
    this.rowChanged(cell, before, this.list.layout.learnStage(cell.index, slot, cell.row, stage))
  }

  /** A row that stood at `before` has grown by `moved`, 1/1024 dp: what is below it on screen jumps. */
  rowChanged(cell: ListCell, before: number, moved: number): void {
    if (moved === 0) return
    this.list.dirty = true
    this.list.world.frames.request()
    const { slots } = this.list.layout.geometry(cell.index)
    const left = this.list.layout.leftOf(cell.column)
    for (const [number, slot] of cell.slots.entries()) {
      slot.box = slots[number]!
      slot.geometry = this.list.geometries.number(
        left,
        slot.box,
        this.list.parts.screen.cells[cell.kind]!.slots[number]!.fit,
      )
    }
    this.list.world.surface.arrange(cell.id, cell.index)
    this.placeCell(cell, before, this.list.layout.heightOf(cell.row))
    if (before + this.list.layout.heightOf(cell.row) - moved <= this.list.correctedTop) {
      this.list.correct(moved)
      return
    }
    this.list.world.frames.work('layout', 1, 0)
    this.list.visuals.add(K.jump, cell.row, 0, 0, 0, moved)
  }
}
