import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { Us } from '../worlds/ports.ts'
import type { ListCell } from './list-cell.ts'
import type { ListState } from './list-state.ts'
import { whenPresented } from './visuals.ts'

/** Which slots are on screen: what enters and leaves with each frame. */
export class ScreenEdge {
  private readonly list: ListState

  constructor(list: ListState) {
    this.list = list
  }

  /** The visible part of a slot, dp². */
  seenOf(slot: { box: { x: number; y: number; width: number; height: number } }, rowTop: number): number {
    const { y, width, height } = slot.box
    const from = Math.max(this.list.top, rowTop + toUnits(y))
    const to = Math.min(this.list.top + this.list.height, rowTop + toUnits(y + height))
    return to > from ? ((to - from) / unitsPerDp) * width : 0
  }

  updateVisibility(now: Us): void {
    for (const cell of this.list.recycler.attached.values()) {
      const top = this.list.layout.topOf(cell.row)
      for (let number = 0; number < cell.slots.length; number++) {
        const slot = cell.slots[number]!
        const area = this.seenOf(slot, top)
        const onScreen = area > 0
        if (onScreen !== slot.onScreen) this.crossEdge(cell, number, onScreen, area, now)
        if (slot.claim) {
          slot.claim.onScreen = onScreen
          slot.claim.row = cell.row
        }
      }
    }
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
