import type { Facts } from '../../facts/facts.ts'
import { ratio, sum } from '../../figures/numbers.ts'
import { isWithin, thinned, type While } from './while.ts'

export interface CellsLens {
  /** Cells made and binds done by then, since the start of the part. */
  points: { ms: number; created: number; bound: number }[]
  /** The same by position in the list: rows from the first to the last that was bound, in ranges of equal length. */
  places: { fromRow: number; toRow: number; created: number; bound: number }[]
  kinds: { kind: number; created: number; mostAtOnce: number }[]
  /** Cells that were made after the first screen was there. */
  late: { ms: number; row: number | null; kind: number }[]
  createMs: number | null
  bindMs: number | null
}

export function cellsLens(facts: Facts, within: While | null = null): CellsLens {
  const { cells, binds, exposures, frames, boundPeaks } = facts
  const firstFrame = exposures[0]?.enterT ?? Infinity
  const made = cells
    .map(({ createT }) => createT)
    .filter((t) => isWithin(t / 1000, within))
    .sort((a, b) => a - b)
  const bindTimes = facts.bindTimes.filter((t) => isWithin(t / 1000, within))
  const cost = (cause: string) => sum(frames.map((frame) => frame.causes.get(cause) ?? 0)) / 1000
  let created = 0
  const points = bindTimes.map((t, i) => {
    while (created < made.length && made[created]! <= t) created++
    return { ms: t / 1000, created, bound: i + 1 }
  })
  return {
    points: thinned(points),
    places: byPlace(
      cells.flatMap(({ createT, row }) => (row !== null && isWithin(createT / 1000, within) ? [row] : [])),
      facts.bindRows.filter((_, i) => isWithin(facts.bindTimes[i]! / 1000, within)),
    ),
    kinds: [...boundPeaks].map(([kind, mostAtOnce]) => ({
      kind,
      created: cells.filter((cell) => cell.kind === kind).length,
      mostAtOnce,
    })),
    late: cells
      .filter(({ createT }) => createT >= firstFrame && isWithin(createT / 1000, within))
      .map(({ createT, row, kind }) => ({ ms: createT / 1000, row, kind })),
    createMs: ratio(cost('create'), cells.length),
    bindMs: ratio(cost('bind'), binds),
  }
}

const mostPlaces = 8

function byPlace(created: readonly number[], bound: readonly number[]): CellsLens['places'] {
  const rows = [...created, ...bound]
  if (rows.length === 0) return []
  const first = rows.reduce((least, row) => Math.min(least, row))
  const last = rows.reduce((most, row) => Math.max(most, row))
  const length = Math.ceil((last - first + 1) / mostPlaces)
  const places = Array.from({ length: Math.ceil((last - first + 1) / length) }, (_, i) => ({
    fromRow: first + i * length,
    toRow: Math.min(last, first + (i + 1) * length - 1),
    created: 0,
    bound: 0,
  }))
  const placeOf = (row: number) => places[Math.floor((row - first) / length)]!
  for (const row of created) placeOf(row).created++
  for (const row of bound) placeOf(row).bound++
  return places
}
