import type { Box } from '../layout/cell-geometry.ts'
import { toUnits } from '../numbers/units.ts'
import type { Claim } from '../loading/request.ts'
import type { SlotPicture } from './pictures.ts'
import type { Place, RecycledCell } from './recycler.ts'

/**
 * What one picture slot of a cell holds and shows, null where there is none; its box and geometry are set by each bind.
 */
export interface SlotState {
  claim: Claim | null
  /** The asset that its item asks for; once a fallback is asked for, that one's. */
  asset: number | null
  /** The asset of the item's own address. */
  own: number | null
  /** The asset of the small picture that comes before its own. */
  small: number | null
  /**
   * What is asked for as soon as the small picture is shown or has failed; null: it has been, or there is no small one.
   */
  larger: SlotPicture | null
  /** The rendition whose picture is in it. */
  shows: number | null
  /** Fallbacks that were asked for since it was bound. */
  fallbacks: number
  onScreen: boolean
  /** Its pictures are drawn through a mask. */
  readonly masked: boolean
  box: Box
  /** Where the box begins and ends below the top of its row, 1/1024 dp; one that is empty begins nowhere. */
  from: number
  to: number
  geometry: number
}

/** Gives a slot its place in the cell. */
export function setBox(slot: SlotState, box: Box): void {
  slot.box = box
  const from = toUnits(box.y)
  slot.to = toUnits(box.y + box.height)
  slot.from = box.width > 0 && slot.to > from ? from : Infinity
}

export interface ListCell extends RecycledCell {
  /** null: it is bound to nothing. */
  key: number | null
  slots: SlotState[]
  /** Where it was last placed, 1/1024 dp; null before. */
  top: number | null
}

/** `masked`: for each of its slots, whether its pictures are drawn through a mask. */
export function newCell(id: number, kind: number, place: Place, masked: readonly boolean[]): ListCell {
  const box = { x: 0, y: 0, width: 0, height: 0 }
  return {
    id,
    kind,
    ...place,
    state: 'pooled',
    key: null,
    top: null,
    slots: masked.map((isMasked) => ({
      claim: null,
      asset: null,
      own: null,
      small: null,
      larger: null,
      shows: null,
      fallbacks: 0,
      onScreen: false,
      masked: isMasked,
      box,
      from: 0,
      to: 0,
      geometry: 0,
    })),
  }
}
