import type { Claim } from '../loading/request.ts'
import { priorities } from './list-cells.ts'
import type { ListState } from './list-state.ts'

/** Claims the pictures of a row that is not attached yet; refusals are reported when its cell is bound. */
export function claimAhead(list: ListState, index: number, row: number): Claim[] {
  const cell = list.parts.screen.cells[list.layout.kindOf(index)]!
  const claims: Claim[] = []
  const pictures = list.pictures.of(index)
  for (let slot = 0; slot < pictures.length; slot++) {
    const own = pictures[slot]
    const picture = own ? list.firstOf(own) : null
    if (!picture || picture.refused !== null) continue
    const { rendition } = picture
    const priority = priorities[cell.slots[slot]!.priority]
    claims.push(list.loader.claim({ rendition, cell: null, slot, index, row, priority, refused: null }, false))
  }
  return claims
}

/** Looks ahead of the rows that are attached now, in the direction in which the list moves. */
export function followAhead(list: ListState): void {
  if (list.hidden || list.layout.rowCount === 0) return
  list.ahead.follow(list.layout, list, list.recycler.attached)
}
