/** The most points of a curve; the rest is interpolated. */
const mostPoints = 400

/** A while of a run, ms. */
export interface While {
  fromMs: number
  toMs: number
}

export const isWithin = (ms: number, within: While | null) =>
  within === null || (ms >= within.fromMs && ms <= within.toMs)

/** The part of a curve within a time span, with the values at its start and end. */
export function curveWithin<P extends { ms: number }>(points: readonly P[], within: While | null): readonly P[] {
  if (!within) return points
  const before = points.findLast(({ ms }) => ms < within.fromMs)
  const inside = points.filter(({ ms }) => isWithin(ms, within))
  const last = inside.at(-1) ?? before
  const toMs = Math.min(within.toMs, points.at(-1)?.ms ?? 0)
  return [
    ...(before ? [{ ...before, ms: within.fromMs }] : []),
    ...inside,
    ...(last && last.ms < toMs ? [{ ...last, ms: toMs }] : []),
  ]
}

/** Evenly chosen points of a curve, its ends among them. */
export function thinned<P>(points: readonly P[]): P[] {
  if (points.length <= mostPoints) return [...points]
  return Array.from({ length: mostPoints }, (_, i) => points[Math.round((i * (points.length - 1)) / (mostPoints - 1))]!)
}
