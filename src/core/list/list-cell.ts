import type { Box } from '../layout/cell-geometry.ts'
import type { Claim } from '../loading/request.ts'
import type { SlotPicture } from './pictures.ts'
import type { RecycledCell } from './recycler.ts'

/** What one picture slot of a cell holds and shows. */
export interface SlotState {
  claim: Claim | null
  /** The asset that its item asks for, −1 for none; once a fallback is asked for, that one's. */
  asset: number
  /** The asset of the item's own address, −1 for none. */
  own: number
  /** The asset of the small picture that comes before its own, −1 for none. */
  small: number
  /** What is asked for as soon as the small picture is shown or has failed; null: it has been, or there is no small one. */
  larger: SlotPicture | null
  /** The rendition whose picture is in it, −1 for none. */
  shows: number
  /** Fallbacks that were asked for since it was bound. */
  fallbacks: number
  onScreen: boolean
  box: Box
  geometry: number
}

export interface ListCell extends RecycledCell {
  key: number
  slots: SlotState[]
  /** Where it was last placed, 1/1024 dp; −1 before. */
  top: number
}

export function newCell(id: number, kind: number, slots: number): ListCell {
  const box = { x: 0, y: 0, width: 0, height: 0 }
  return {
    id,
    kind,
    index: -1,
    row: -1,
    column: 0,
    state: 'pooled',
    key: -1,
    top: -1,
    slots: Array.from({ length: slots }, () => ({
      claim: null,
      asset: -1,
      own: -1,
      small: -1,
      larger: null,
      shows: -1,
      fallbacks: 0,
      onScreen: false,
      box,
      geometry: -1,
    })),
  }
}
