import type { Facts } from './facts.ts'

/**
 * A cell by which an edit holds the screen in place: the item that it showed, and how far its row was from the top.
 * Jumps that have not been placed yet have moved it, or have been corrected above the window, which no event reports.
 */
interface Anchor {
  cell: number
  key: number
  offsets: readonly [placed: number, withJumps: number]
}

/**
 * Follows the positions of rows while a log is read, and whether an edit has moved what was on screen. A jump is logged
 * with the frame that makes it, the rows below it with the frame that places them again. Lengths in 1/1024 dp.
 */
export class PlaceWatch {
  private readonly facts: Facts
  private readonly rowTops = new Map<number, number>()
  /** Jumps whose rows are placed again by the next frame. */
  private toCome: { row: number; units: number }[] = []
  /** How many of those there had been when a row was placed in the present frame: its position includes them. */
  private readonly placedAfter = new Map<number, number>()
  private anchor: Anchor | null = null
  private hidden = false
  /** The frame in which the edit was made has not been presented yet. */
  private editFrame = true
  /** Of the window. */
  top = 0
  /** How far the last scroll went beyond a correction; whether the list was at either end. */
  private byGesture = 0
  private atBound = true

  constructor(facts: Facts) {
    this.facts = facts
  }

  topOf(row: number): number {
    return this.rowTops.get(row) ?? 0
  }

  /**
   * A frame is presented; the events that moved the list in it follow. `rowOf`: the position of an item's cell now,
   * null when it is not shown any more; `moved`: the frame before had scrolled.
   */
  presented(t: number, moved: boolean, rowOf: (anchor: Anchor) => number | null): void {
    this.check(t, moved, rowOf)
    this.toCome = []
    this.placedAfter.clear()
  }

  scrolled(top: number, corrected: number, atBound: boolean): void {
    this.byGesture = top - this.top - corrected
    this.atBound = atBound
    this.top = top
  }

  placed(row: number, top: number): void {
    this.rowTops.set(row, top)
    this.placedAfter.set(row, this.toCome.length)
  }

  jumped(row: number, units: number): void {
    this.anchor = null
    this.toCome.push({ row, units })
  }

  /** The list is covered, or on screen again: while it is covered no row is placed. */
  covered(hidden: boolean): void {
    this.anchor = null
    this.editFrame = true
    this.hidden = hidden
  }

  /** An edit is made while a cell shows an item in a row. */
  edited(cell: number, key: number, row: number): void {
    if (this.anchor || this.hidden) return
    const moves = this.toCome
      .slice(this.placedAfter.get(row) ?? 0)
      .reduce((sum, jump) => sum + (jump.row < row ? jump.units : 0), 0)
    const placed = this.topOf(row) - this.top
    this.anchor = { cell, key, offsets: [placed, placed + moves] }
  }

  /** At the second frame after an edit everything that it moved has been presented. */
  private check(t: number, moved: boolean, rowOf: (anchor: Anchor) => number | null): void {
    const { anchor } = this
    if (!anchor) return
    if (this.editFrame) {
      this.editFrame = false
      return
    }
    this.anchor = null
    this.editFrame = true
    const row = rowOf(anchor)
    // At either end of the list it cannot move further.
    if (row === null || this.atBound) return
    if (!anchor.offsets.includes(this.topOf(row) - this.top) && !(moved && this.byGesture !== 0))
      this.facts.placeBreaches.push(t)
  }
}
