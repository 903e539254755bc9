/** The next round step, upwards: 1, 2 or 5 times a power of ten. */
export function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1e-9, rough)))
  const share = rough / power
  return [1, 2, 5, 10].find((nice) => share <= nice)! * power
}

/**
 * Round ticks in even steps around some values: the first is not above the least, the last not below the most. About so
 * many.
 */
export function niceTicks(values: readonly number[], about: number): number[] {
  const low = Math.min(...values)
  const high = Math.max(...values)
  if (values.length === 0) return [0, 1]
  const step = niceStep((high - low || Math.abs(high) || 1) / (about - 1))
  const first = Math.floor(low / step)
  const last = Math.max(first + 1, Math.ceil(high / step))
  // A multiple of the step, not a sum of steps: 0.3 and not 0.30000000000000004.
  return Array.from({ length: last - first + 1 }, (_, n) => Number(((first + n) * step).toPrecision(12)))
}
