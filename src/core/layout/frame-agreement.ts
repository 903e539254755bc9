import type { Cell, Item, StageName } from '../project/types.ts'
import { layOutCell } from './cell-geometry.ts'

const stages: readonly StageName[] = ['absent', 'waiting', 'arriving', 'settled', 'failed']

/** How a cell in one stage of one slot differs from its settled layout. */
export interface Disagreement {
  slot: number
  stage: StageName
  /**
   * Height of the cell in this stage less its settled height, dp: what is below jumps by as much when the picture
   * arrives.
   */
  heightDp: number
  /** Text lines that are moved, and by how many dp at most. */
  textsMoved: number
  textDp: number
}

/** Every stage in which a cell's layout differs from the settled one (C6). Empty: the stages agree. */
export function disagreements(cell: Cell, widthDp: number, item: Item): Disagreement[] {
  const unknown = () => null
  const settled = layOutCell(cell, widthDp, item, unknown)
  return cell.slots.flatMap((_, slot) =>
    stages.flatMap((stage): Disagreement[] => {
      const other = layOutCell(cell, widthDp, item, unknown, (number) => (number === slot ? stage : 'settled'))
      const shifts = other.texts.map((box, i) =>
        Math.max(Math.abs(box.x - settled.texts[i]!.x), Math.abs(box.y - settled.texts[i]!.y)),
      )
      const moved = shifts.filter((dp) => dp > 0)
      const heightDp = other.heightDp - settled.heightDp
      return heightDp === 0 && moved.length === 0
        ? []
        : [{ slot, stage, heightDp, textsMoved: moved.length, textDp: Math.max(0, ...moved) }]
    }),
  )
}
