import { draw } from '../numbers/draw.ts'

/** The median of paired differences with its 95 % bootstrap interval. */
export interface Interval {
  median: number
  low: number
  high: number
}

const resamples = 10_000

/**
 * Resamples the differences 10,000 times, seeded, and takes the middle 95 % of their medians (percentile bootstrap,
 * Efron 1979). Null of none.
 */
export function intervalOf(differences: readonly number[], seed: number): Interval | null {
  const count = differences.length
  if (count === 0) return null
  const medians = new Float64Array(resamples)
  const sample = new Float64Array(count)
  let n = 0
  for (let round = 0; round < resamples; round++) {
    for (let i = 0; i < count; i++) sample[i] = differences[Math.floor(draw(seed, 'resample', n++) * count)]!
    medians[round] = medianOf(sample)
  }
  medians.sort()
  return {
    median: medianOf(Float64Array.from(differences)),
    low: medians[Math.floor(0.025 * resamples)]!,
    high: medians[Math.ceil(0.975 * resamples) - 1]!,
  }
}

/** The middle of some numbers, in any order; of an even count the mean of the two. */
export function medianOf(values: Float64Array): number {
  const sorted = values.slice().sort()
  const middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
