import { textAt } from '../../core/feed/json-pointer.ts'
import type { Item, Screen } from '../../core/project/types.ts'

/** The number of the cell that an item is shown in. */
export function kindOf(screen: Screen, item: Item): number {
  const { kind } = screen.feed
  if (kind === null) return 0
  const itemKind = textAt(item, kind)
  const found = screen.cells.findIndex((cell) => cell.kind === itemKind)
  return found >= 0
    ? found
    : Math.max(
        0,
        screen.cells.findIndex((cell) => cell.kind === '*'),
      )
}
