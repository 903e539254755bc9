import type { Origin } from '../feed/feed-list.ts'
import { toUnits } from '../numbers/units.ts'
import type { Step } from '../project/types.ts'
import { editFeed } from './feed-edits.ts'
import type { ListCell } from './list-cell.ts'
import type { ListCells } from './list-cells.ts'
import type { ListState } from './list-state.ts'
import type { ScreenEdge } from './screen-edge.ts'
import type { StageFrames } from './stage-frames.ts'

/** The feed changes while it is on screen: what is on screen stays where it is, unchanged items keep their pictures. */
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
    if (this.pendingEdits.length === 0) return false
    const edits = this.pendingEdits.splice(0)
    const { log, world } = this.list
    // What has moved above the window since the last frame has moved the list along already.
    const top = this.list.correctedTop
    const before = this.placesOnScreen(top)
    const cells = [...this.list.recycler.attached.values()]
    this.list.recycler.attached.clear()
    const origins = new Map(cells.map((cell) => [cell, this.list.feed.origin(cell.index)]))
    const moved = new Set<ListCell>()
    for (const edit of edits) {
      if (edit.op === 'move')
        for (const [cell, origin] of origins) {
          const index = this.list.feed.find(origin)
          if (index !== null && index >= edit.at && index < edit.at + edit.count) moved.add(cell)
        }
      editFeed(this.list.feed, edit)
    }
    // Rows are measured by the stages that their pictures begin with: those must be of the items as they are now.
    this.list.pictures.forget(this.list.layout)
    this.list.layout.rebuild()
    this.list.ahead.clear()
    this.list.recycler.dropHeld()
    this.cells.forgetPlaces()
    const found = this.locate(origins)
    const isAbove = edits.some(({ op, at }) => op === 'insert' && at === 0)
    const follows = this.list.parts.screen.layout.atTop === 'follow' && isAbove && top <= 0
    const anchor = follows ? undefined : before.find(({ cell }) => found.has(cell) && !moved.has(cell))
    for (const edit of edits)
      log.events.edit(world.clock.now(), {
        op: edit.op,
        at: edit.at,
        count: edit.count,
        to: edit.to,
        anchor: anchor?.cell.id ?? null,
      })
    this.stages.anchored = anchor !== undefined
    this.rebind(cells, found)
    this.stages.anchored = false
    if (anchor) {
      this.expectAbove(anchor.cell.row, anchor.offset + toUnits(this.list.parts.screen.layout.beforeDp))
      this.list.correct(this.list.layout.topOf(anchor.cell.row) - anchor.offset - top)
    }
    this.list.dirty = true
    return true
  }

  /**
   * Rows that will be bound beside a row and above it, as far up as is attached, get their frames now, so that the
   * correction includes them too. Rows that become lower let others in above them.
   */
  private expectAbove(row: number, units: number): void {
    const { layout, recycler } = this.list
    for (let above = row; above >= 0; above--) {
      for (let column = 0; column < layout.columns; column++) {
        const index = layout.itemAt(above, column)
        if (index !== null && !recycler.attached.has(index) && layout.isFramed(layout.kindOf(index)))
          this.stages.expect(index, above)
      }
      if (layout.topOf(above) <= layout.topOf(row) - units) return
    }
  }

  /** The cells on screen from the top, and their positions: an edit elsewhere must not move them. */
  private placesOnScreen(top: number): { cell: ListCell; offset: number }[] {
    return [...this.list.recycler.attached.values()]
      .filter((cell) => this.list.layout.topOf(cell.row) + this.list.layout.heightOf(cell.row) > top)
      .sort((a, b) => a.index - b.index)
      .map((cell) => ({ cell, offset: this.list.layout.topOf(cell.row) - top }))
  }

  /** The new positions of items that cells show and can go on showing: those of the same kind. */
  private locate(origins: ReadonlyMap<ListCell, Origin>): Map<ListCell, number> {
    const found = new Map<ListCell, number>()
    for (const [cell, origin] of origins) {
      const index = this.list.feed.find(origin)
      if (index !== null && this.list.layout.fittingKindOf(index) === cell.kind) found.set(cell, index)
    }
    return found
  }

  private rebind(cells: readonly ListCell[], found: ReadonlyMap<ListCell, number>): void {
    // Removals come first: the index may be another item's by now.
    for (const cell of cells) {
      if (found.has(cell)) continue
      this.edge.leaveScreen(cell, this.list.world.clock.now())
      this.list.recycler.detach(cell, false)
    }
    for (const cell of cells) {
      const index = found.get(cell)
      if (index === undefined) continue
      cell.index = index
      cell.row = this.list.layout.rowOf(index)!
      cell.column = this.list.layout.columnOf(index)!
      this.list.recycler.attached.set(index, cell)
      this.cells.bind(cell)
    }
  }
}
