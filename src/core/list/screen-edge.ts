import { unitsPerDp } from '../numbers/units.ts'
import type { Us } from '../worlds/ports.ts'
import type { ListCell, SlotState } from './list-cell.ts'
import type { ListState } from './list-state.ts'
import { whenPresented } from './visuals.ts'

/** Which slots are on screen: what enters and leaves with each frame. */
export class ScreenEdge {
  private readonly list: ListState
  /** Pictures on screen that are drawn through a mask, as of the last update. */
  private masks = 0

  constructor(list: ListState) {
    this.list = list
  }

  /** The visible part of a slot, dp². */
  seenOf(slot: Pick<SlotState, 'box' | 'from' | 'to'>, rowTop: number): number {
    const from = Math.max(this.list.top, rowTop + slot.from)
    const to = Math.min(this.list.top + this.list.height, rowTop + slot.to)
    return to > from ? ((to - from) / unitsPerDp) * slot.box.width : 0
  }

  updateVisibility(now: Us): void {
    const { recycler, layout, top, height } = this.list
    const bottom = top + height
    let masks = 0
    let row: number | null = null
    let rowTop = 0
    for (const cell of recycler.attached.values()) {
      // Cells of a row mostly come one after another.
      if (cell.row !== row) {
        row = cell.row
        rowTop = layout.topOf(row)
      }
      const { slots } = cell
      for (let number = 0; number < slots.length; number++) {
        const slot = slots[number]!
        const onScreen = rowTop + slot.to > top && rowTop + slot.from < bottom
        if (onScreen !== slot.onScreen) this.crossEdge(cell, number, onScreen, this.seenOf(slot, rowTop), now)
        const { claim } = slot
        if (claim) {
          claim.onScreen = onScreen
          claim.row = row
        }
        if (onScreen && slot.masked && slot.shows !== null) masks++
      }
    }
    this.masks = masks
  }

  /** Pictures that are drawn through a mask in the frame that has just been updated. */
  get masksOnScreen(): number {
    return this.list.hidden ? 0 : this.masks
  }

  leaveScreen(cell: ListCell, now: Us): void {
    for (const [number, slot] of cell.slots.entries()) {
      if (slot.onScreen) this.crossEdge(cell, number, false, 0, now)
      if (slot.claim) slot.claim.onScreen = false
    }
  }

  /** A slot that stays on screen shows something else from the next frame on. */
  endExposure(cell: ListCell, number: number, now: Us): void {
    this.crossEdge(cell, number, false, 0, now)
  }

  private crossEdge(cell: ListCell, number: number, onScreen: boolean, area: number, now: Us): void {
    const slot = cell.slots[number]!
    slot.onScreen = onScreen
    const { id, key } = cell
    const edge = { cell: id, slot: number, key: key!, geometry: slot.geometry, area: Math.round(area) }
    const { events } = this.list.visuals
    if (onScreen) events.enter(whenPresented, edge)
    else events.leave(whenPresented, edge)
    if (!onScreen && slot.claim) slot.claim.leftAt = now
  }
}
