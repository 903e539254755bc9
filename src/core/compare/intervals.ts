import { draw } from '../numbers/draw.ts'

/** The median of paired differences with its 95 % bootstrap interval. */
export interface Interval {
  median: number
  low: number
  high: number
}

const resamples = 10_000

/** Which two of so many sorted values are in the middle of a resample, and in how many resamples. */
interface Middles {
  lower: number
  upper: number
  times: number
}

const known = new Map<string, readonly Middles[]>()
const mostKnown = 32

/**
 * Resamples the differences 10,000 times, seeded, and takes the middle 95 % of their medians (percentile bootstrap,
 * Efron 1979). Null for no differences. Ranks are drawn, not values: which values are in the middle of a resample
 * depends on their order alone, so that one drawing serves every metric of the same runs.
 */
export function intervalOf(differences: readonly number[], seed: number): Interval | null {
  if (differences.length === 0) return null
  const sorted = Float64Array.from(differences).sort()
  const medians = middlesOf(sorted.length, seed)
    .map(({ lower, upper, times }) => ({ value: (sorted[lower]! + sorted[upper]!) / 2, times }))
    .sort((one, other) => one.value - other.value)
  const at = (place: number) => {
    let passed = 0
    return medians.find(({ times }) => (passed += times) > place)!.value
  }
  return {
    median: medianOf(sorted),
    low: at(Math.floor(0.025 * resamples)),
    high: at(Math.ceil(0.975 * resamples) - 1),
  }
}

function middlesOf(count: number, seed: number): readonly Middles[] {
  const name = `${count} ${seed}`
  const before = known.get(name)
  if (before) return before
  const found = new Map<number, Middles>()
  const sample = new Uint32Array(count)
  const [below, above] = [(count - 1) >> 1, count >> 1]
  let n = 0
  for (let round = 0; round < resamples; round++) {
    for (let i = 0; i < count; i++) sample[i] = Math.floor(draw(seed, 'resample', n++) * count)
    sample.sort()
    const [lower, upper] = [sample[below]!, sample[above]!]
    const middles = found.get(lower * count + upper)
    if (middles) middles.times++
    else found.set(lower * count + upper, { lower, upper, times: 1 })
  }
  const all = [...found.values()]
  if (known.size >= mostKnown) known.clear()
  known.set(name, all)
  return all
}

/** The median of some numbers, in any order; of an even count the mean of the middle two. */
export function medianOf(values: Float64Array): number {
  const sorted = values.slice().sort()
  const middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
