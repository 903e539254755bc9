/** The nearest-rank percentile of numbers sorted ascending; null of none. */
export function percentile(sorted: readonly number[], share: number): number | null {
  if (sorted.length === 0) return null
  return sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)]!
}

export const ascending = (values: number[]) => values.sort((a, b) => a - b)

/** A share or ratio; null when the total is 0. */
export const ratio = (part: number, whole: number): number | null => (whole === 0 ? null : part / whole)

export const sum = (values: Iterable<number>) => {
  let total = 0
  for (const value of values) total += value
  return total
}
