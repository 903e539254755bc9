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
 * Checks a budget against the metric's median over runs. A metric that is null in all of them (nothing of the kind
 * happened) keeps its budget. Relative budgets are about the difference from the baseline's value.
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

/** Medians over seeds, by metric; null: nothing of the kind happened. */
type Medians = Readonly<Record<string, { median: number } | null>>

/** The budgets that are about a screen and a visit; one that names no screen is about the first. */
export function budgetsAt({ budgets, screens }: Project, screen: string, visit: Budget['visit']): Budget[] {
  return budgets.filter((budget) => budget.visit === visit && (budget.screen ?? screens[0]!.id) === screen)
}

/** The value that a budget limits: the median, or its difference from the baseline's value. Null: it is not known. */
export function budgetValue({ metric, relativeTo }: Budget, medians: Medians, baseline: Metrics | null): number | null {
  const median = medians[metric]?.median
  const base = relativeTo === 'baseline' ? baselineOf(metric, baseline) : 0
  return median === undefined || base === null ? null : median - base
}

/**
 * Whether a budget is met by medians over seeds, where a metric of which nothing happened meets it; null: it is
 * relative, and the baseline has no such value.
 */
export function isHeld(budget: Budget, medians: Medians, baseline: Metrics | null): boolean | null {
  const value = budgetValue(budget, medians, baseline)
  if (value === null) return medians[budget.metric] ? null : true
  const { min = -Infinity, max = Infinity } = budget
  return value >= min && value <= max
}

/** The same, where an unknown value breaks no budget. */
export const keepsBudget = (budget: Budget, medians: Medians, baseline: Metrics | null): boolean =>
  isHeld(budget, medians, baseline) !== false

/**
 * How much of its limit a budget has left, as a share, of the nearer of two limits; below 0: it is missed by that much.
 * Null: it is not known.
 */
export function marginOf(budget: Budget, medians: Medians, baseline: Metrics | null): number | null {
  const value = budgetValue(budget, medians, baseline)
  if (value === null) return null
  const { min, max } = budget
  const margins = [
    ...(max === undefined ? [] : [(max - value) / (Math.abs(max) || 1)]),
    ...(min === undefined ? [] : [(value - min) / (Math.abs(min) || 1)]),
  ]
  return Math.min(...margins)
}

/** A budget with absolute limits instead of those relative to the baseline; null: the baseline has no such value. */
export function absoluteBudget(budget: Budget, baseline: Metrics | null): Budget | null {
  if (budget.relativeTo === undefined) return budget
  const base = baselineOf(budget.metric, baseline)
  if (base === null) return null
  const { metric, visit, screen, min, max } = budget
  return {
    metric,
    visit,
    ...(screen !== undefined && { screen }),
    ...(min !== undefined && { min: min + base }),
    ...(max !== undefined && { max: max + base }),
  }
}
