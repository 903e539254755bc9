import { EvidenceError, longestMs, type Source } from './evidence.ts'

/** A source on the common clock: its instants plus this many ms. */
export interface Aligned {
  source: Source
  shiftMs: number
}

/** The first and last instant of a source, on its own clock; null: it has none. */
export function spanOf({ exchanges, events }: Source): { fromMs: number; toMs: number } | null {
  let fromMs = Infinity
  let toMs = -Infinity
  for (const { wantedMs, endMs, startMs } of exchanges) {
    fromMs = Math.min(fromMs, wantedMs)
    toMs = Math.max(toMs, endMs ?? startMs)
  }
  for (const event of events) {
    fromMs = Math.min(fromMs, event.t)
    toMs = Math.max(toMs, event.t)
  }
  return fromMs === Infinity ? null : { fromMs, toMs }
}

/**
 * When a source begins, leaving out instants farther from its middle than a run is long: a clock that has jumped. On
 * its own clock; null: it has none.
 */
function beginOf({ exchanges, events }: Source): number | null {
  const instants = [...exchanges.map(({ wantedMs }) => wantedMs), ...events.map(({ t }) => t)].sort((a, b) => a - b)
  const middle = instants[instants.length >> 1]
  return middle === undefined ? null : instants.find((ms) => ms >= middle - longestMs)!
}

/** How many instants of a source lie outside the clock of a run: they are left out. */
export function outsideOf({ source: { exchanges, events }, shiftMs }: Aligned): number {
  const isOutside = (ms: number) => !(ms + shiftMs >= 0 && ms + shiftMs <= longestMs)
  return exchanges.filter(({ startMs }) => isOutside(startMs)).length + events.filter(({ t }) => isOutside(t)).length
}

/**
 * Puts sources on one clock. Those with a calendar clock share it; the others begin at their own zero. `offsets`:
 * additional shift of each, ms, by its name or kind. The run begins at 0, or with the earliest event.
 */
export function align(sources: readonly Source[], offsets: ReadonlyMap<string, number>): Aligned[] {
  let wallZero = Infinity
  for (const source of sources)
    if (source.wallClock) wallZero = Math.min(wallZero, source.zeroMs ?? beginOf(source) ?? Infinity)
  const aligned = sources.map((source) => {
    const zero = source.wallClock ? wallZero : (source.zeroMs ?? 0)
    return { source, shiftMs: -zero + (offsets.get(source.name) ?? offsets.get(source.kind) ?? 0) }
  })
  let earliest = Infinity
  for (const { source, shiftMs } of aligned) earliest = Math.min(earliest, (beginOf(source) ?? Infinity) + shiftMs)
  if (earliest < 0) for (const each of aligned) each.shiftMs -= earliest
  if (earliest > longestMs && earliest < Infinity)
    throw new EvidenceError(
      `the run begins ${Math.round(earliest / 1000)} s after its clock; shift its sources with --offset`,
    )
  return aligned
}
