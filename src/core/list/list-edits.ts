import { K } from '../log/event-kinds.ts'
import { toUnits } from '../numbers/units.ts'
import type { Step } from '../project/types.ts'
import { editFeed } from './feed-edits.ts'
import type { ListCell } from './list-cell.ts'
import type { ListCells } from './list-cells.ts'
import type { ListState } from './list-state.ts'
import type { ScreenEdge } from './screen-edge.ts'
import type { StageFrames } from './stage-frames.ts'

/** The feed changes while it is on screen: what is looked at stays where it is, unchanged items keep their pictures. */
export class ListEdits {
  readonly pendingEdits: Extract<Step, { do: 'edit' }>[] = []
  private readonly list: ListState
  private readonly stages: StageFrames
  private readonly cells: ListCells
  private readonly edge: ScreenEdge

  constructor(list: ListState, stages: StageFrames, cells: ListCells, edge: ScreenEdge) {
    this.list = list
    this.stages = stages
    this.cells = cells
    this.edge = edge
  }

  applyEdits(): boolean {
    const edits = this.pendingEdits.splice(0)
    if (edits.length === 0) return false
    const { log, world } = this.list
    // What has moved above the window since the last frame has moved the list along already.
    const top = this.list.correctedTop
    const before = this.placesOnScreen(top)
    const cells = [...this.list.recycler.attached.values()]
    this.list.recycler.attached.clear()
    const moved = new Set<string>()
    for (const edit of edits) {
      if (edit.op === 'move')
        for (let i = edit.at; i < Math.min(this.list.feed.count, edit.at + edit.count); i++)
          moved.add(this.list.feed.key(i))
      editFeed(this.list.feed, edit)
    }
    // Rows are measured by the stages that their pictures begin with: those must be of the items as they are now.
    this.list.pictures.forget(this.list.layout)
    this.list.layout.rebuild()
    this.list.ahead.clear()
    this.list.recycler.dropHeld()
    this.cells.forgetPlaces()
    const found = this.locate(cells)
    const anchor = before.find(
      ({ cell, key }) =>
        found.has(key) && this.list.layout.kindOf(found.get(key)!) === cell.kind && !moved.has(log.strings[key]!),
    )
    for (const edit of edits)
      log.write(K.edit, world.clock.now(), log.text(edit.op), edit.at, edit.count, edit.to, anchor?.cell.id ?? -1)
    this.stages.anchored = anchor !== undefined
    this.rebindByKey(cells, found)
    this.stages.anchored = false
    if (anchor) {
      // What will be bound above and beside it takes its frames now, so that the correction holds for them too.
      const { row } = anchor.cell
      const first = this.list.layout.topOf(row) - anchor.offset - toUnits(this.list.parts.screen.layout.beforeDp)
      for (let above = Math.max(0, this.list.layout.rowAt(first)); above <= row; above++)
        for (let column = 0; column < this.list.layout.columns; column++) {
          const index = this.list.layout.itemAt(above, column)
          if (
            index >= 0 &&
            !this.list.recycler.attached.has(index) &&
            this.list.layout.isFramed(this.list.layout.kindOf(index))
          )
            this.stages.expect(index, above)
        }
      this.list.correct(this.list.layout.topOf(row) - anchor.offset - top)
    }
    this.list.dirty = true
    return true
  }

  /** The cells on screen from the top, and where they stand: what an edit elsewhere must not move. */
  private placesOnScreen(top: number): { cell: ListCell; key: number; offset: number }[] {
    return [...this.list.recycler.attached.values()]
      .filter((cell) => this.list.layout.topOf(cell.row) + this.list.layout.heightOf(cell.row) > top)
      .sort((a, b) => a.index - b.index)
      .map((cell) => ({ cell, key: cell.key, offset: this.list.layout.topOf(cell.row) - top }))
  }

  /** Where the items that cells show are now, by key number. */
  private locate(cells: readonly ListCell[]): Map<number, number> {
    const wanted = new Map(cells.map((cell) => [this.list.log.strings[cell.key]!, cell.key]))
    const found = new Map<number, number>()
    for (let index = 0; index < this.list.feed.count && found.size < wanted.size; index++) {
      const key = wanted.get(this.list.feed.key(index))
      if (key !== undefined) found.set(key, index)
    }
    return found
  }

  private rebindByKey(cells: readonly ListCell[], found: ReadonlyMap<number, number>): void {
    const goesOn = (cell: ListCell) =>
      found.has(cell.key) && this.list.layout.kindOf(found.get(cell.key)!) === cell.kind
    // Who goes, goes first: its index may be another one's by now.
    for (const cell of cells) {
      if (goesOn(cell)) continue
      this.edge.leaveScreen(cell, this.list.world.clock.now())
      this.list.recycler.detach(cell, false)
    }
    for (const cell of cells) {
      if (!goesOn(cell)) continue
      const index = found.get(cell.key)!
      cell.index = index
      cell.row = this.list.layout.rowOf(index)
      cell.column = this.list.layout.columnOf(index)
      this.list.recycler.attached.set(index, cell)
      this.cells.bind(cell)
    }
  }
}
