import type { Project } from '../project/types.ts'
import { isMetricId, type Metrics } from '../profile/figures/metric-definitions.ts'
import { percentile } from '../profile/figures/numbers.ts'

export type Budget = Project['budgets'][number]

export interface BudgetResult {
  budget: Budget
  value: number | null
  limit: string
  ok: boolean
  message: string
}

/**
 * Holds a budget against the metric's median over runs. A metric that is null in all of them (nothing of the
 * kind happened) keeps its budget. Relative budgets are the difference to the baseline's value.
 */
export function judgeBudget(budget: Budget, runs: readonly Metrics[], baseline: Metrics | null): BudgetResult {
  const { metric } = budget
  const known = runs
    .map((metrics) => (isMetricId(metric) ? metrics[metric] : null))
    .filter((value): value is number => typeof value === 'number')
  const median = percentile(
    [...known].sort((a, b) => a - b),
    0.5,
  )
  const base = budget.relativeTo === 'baseline' ? baselineOf(metric, baseline) : 0
  const value = median === null || base === null ? null : median - base
  const limit = [budget.min === undefined ? '' : `≥ ${budget.min}`, budget.max === undefined ? '' : `≤ ${budget.max}`]
    .filter(Boolean)
    .join(' and ')
  const ok = value === null || (value >= (budget.min ?? -Infinity) && value <= (budget.max ?? Infinity))
  const against = budget.relativeTo === 'baseline' ? ' against the baseline' : ''
  return {
    budget,
    value,
    limit,
    ok,
    message: `${budget.metric} is ${value === null ? 'null' : round(value)}${against} on the ${budget.visit} visit; the budget is ${limit}`,
  }
}

const round = (value: number) => Math.round(value * 10_000) / 10_000

function baselineOf(metric: string, baseline: Metrics | null): number | null {
  return baseline && isMetricId(metric) ? baseline[metric] : null
}

/** Whether a budget is kept by medians over seeds; a relative one is not judged so. */
export function keepsBudget(
  { metric, min = -Infinity, max = Infinity, relativeTo }: Budget,
  metrics: Readonly<Record<string, { median: number } | null>>,
): boolean {
  const value = metrics[metric]?.median
  return relativeTo !== undefined || value === undefined || (value >= min && value <= max)
}
