import type { Loading } from '../project/types.ts'
import { isBefore, rankOf, type RankedClaim } from './rank.ts'

/** A queued tile, by its row from the top of the screen (rows of one height). */
interface WaitingTile {
  row: number
  column: number
  /** 1: first in line. */
  place: number
}

/**
 * The order in which the tiles of a screen and of the rows coming up are queued, when all are requested at once, row by
 * row, while the list moves downward: by the same rank as in the loader.
 */
export function lineOrder(
  policy: Pick<Loading, 'order' | 'agingMs'>,
  columns: number,
  screenRows: number,
  aheadRows: number,
): WaitingTile[] {
  const tiles = Array.from({ length: (screenRows + aheadRows) * columns }, (_, i) => ({
    row: Math.floor(i / columns),
    column: i % columns,
  }))
  const view = { centre: screenRows / 2, direction: 1 as const, centreOfRow: (row: number) => row + 0.5 }
  const ranked = tiles.map((tile, id) => {
    const claim: RankedClaim = {
      row: tile.row,
      priority: 1,
      state: 'open',
      onScreen: tile.row < screenRows,
      leftAt: null,
      held: false,
    }
    return { tile, rank: rankOf({ id, queuedAt: id, claims: [claim] }, tiles.length, view, policy) }
  })
  ranked.sort((one, other) => (isBefore(one.rank, other.rank) ? -1 : 1))
  return ranked.map(({ tile }, i) => ({ ...tile, place: i + 1 }))
}
