import { rowOfLine, type MapData } from '../profile/views/map-data.ts'

/**
 * Which lines of two maps are of the same request for the same item, and which the other run does not have: 1 or 0 by
 * line.
 */
export interface Overlap {
  both: { a: Uint8Array; b: Uint8Array }
  only: { a: Uint8Array; b: Uint8Array }
}

/** Pairs requests of two runs on one drive: the n-th for a place in the list is the n-th for it in the other. */
export function overlapOf(a: MapData, b: MapData): Overlap {
  const [countsA, countsB] = [countsOf(a), countsOf(b)]
  const both = { a: shared(a, countsB), b: shared(b, countsA) }
  return { both, only: { a: both.a.map((one) => 1 - one), b: both.b.map((one) => 1 - one) } }
}

/** Requests from outside the list share one place: they are drawn where the list was. */
const placeOf = (map: MapData, at: number) => (rowOfLine(map, at) === null ? -Infinity : map.lines.y[at]!)

function countsOf(map: MapData): Map<number, number> {
  const counts = new Map<number, number>()
  for (const at of map.lines.y.keys()) counts.set(placeOf(map, at), (counts.get(placeOf(map, at)) ?? 0) + 1)
  return counts
}

function shared(map: MapData, others: ReadonlyMap<number, number>): Uint8Array {
  const seen = new Map<number, number>()
  return Uint8Array.from(map.lines.y, (_, at) => {
    const place = placeOf(map, at)
    const nth = (seen.get(place) ?? 0) + 1
    seen.set(place, nth)
    return nth <= (others.get(place) ?? 0) ? 1 : 0
  })
}
