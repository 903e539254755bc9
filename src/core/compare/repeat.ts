import { metricIds, type MetricId, type Metrics } from '../profile/figures/metric-definitions.ts'
import { intervalOf, type Interval } from './intervals.ts'
import { onSeeds, parsed, type ProofHooks, type ProofOrder } from './prove.ts'

/**
 * One metric over runs that differ in their seed alone: its median with the 95 % interval, and the ends of its range.
 */
export interface Spread extends Interval {
  metric: MetricId
  least: number
  most: number
}

/** The same drive on so many seeds: how far chance alone moves each figure; null: cancelled. */
export async function repeatOnSeeds(order: ProofOrder, times: number, hooks: ProofHooks): Promise<Spread[] | null> {
  let done = 0
  const runs = await onSeeds(parsed(order.raw), order, hooks, () => hooks.progress(++done / times), times)
  return runs && metricIds.flatMap((metric) => spreadOf(metric, runs.metrics, order.seed) ?? [])
}

/** Null when some run does not know the metric. */
function spreadOf(metric: MetricId, runs: readonly Metrics[], seed: number): Spread | null {
  const values = runs.map((each) => each[metric])
  if (!values.every((value) => typeof value === 'number')) return null
  const known = values as number[]
  return { metric, ...intervalOf(known, seed)!, least: Math.min(...known), most: Math.max(...known) }
}
