import type { Box } from '../layout/cell-geometry.ts'
import { toUnits } from '../numbers/units.ts'
import type { Claim } from '../loading/request.ts'
import type { SlotPicture } from './pictures.ts'
import type { Place, RecycledCell } from './recycler.ts'

/** What one picture slot of a cell holds and shows, null for nothing; its box and geometry are set by each bind. */
export interface SlotState {
  claim: Claim | null
  /** The requested asset: that of its item, or of a fallback once one is requested. */
  asset: number | null
  /** The asset of the item's own address. */
  own: number | null
  /** The asset of the small picture that comes before its own. */
  small: number | null
  /**
   * The claim to make as soon as the small picture is shown or has failed; null: it was made, or there is no small one.
   */
  larger: SlotPicture | null
  /** The rendition whose picture is in it. */
  shows: number | null
  /** The number of fallbacks requested since it was bound. */
  fallbacks: number
  onScreen: boolean
  /** Its pictures are drawn through a mask. */
  readonly masked: boolean
  box: Box
  /** Top and bottom of the box below the top of its row, 1/1024 dp; an empty box is nowhere. */
  from: number
  to: number
  geometry: number
}

/** Sets the place of a slot in the cell. */
export function setBox(slot: SlotState, box: Box): void {
  slot.box = box
  const from = toUnits(box.y)
  slot.to = toUnits(box.y + box.height)
  slot.from = box.width > 0 && slot.to > from ? from : Infinity
}

export interface ListCell extends RecycledCell {
  /** null: not bound. */
  key: number | null
  slots: SlotState[]
  /** Its last position, 1/1024 dp; null before the first. */
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
