import { keepsBudget, marginOf, type Budget } from '../compare/budgets.ts'
import { metricDefinitions, type MetricId, type Metrics } from '../profile/figures/metric-definitions.ts'
import type { SweepRow } from './sweep-row.ts'

/** Budgets, and the figures that relative ones are compared with. */
interface Held {
  budgets: readonly Budget[]
  baseline: Metrics | null
}

/**
 * The margin of a row: the least of its budgets, as a share of the limit; below 0: one is broken. Null: none is known.
 */
function roomOf({ metrics }: Pick<SweepRow, 'metrics'>, { budgets, baseline }: Held): number | null {
  const margins = budgets.map((budget) => marginOf(budget, metrics, baseline)).filter((margin) => margin !== null)
  return margins.length === 0 ? null : Math.min(...margins)
}

/**
 * Rows by a figure, the better first, or by the margin within budgets, the largest first. Those without a value come
 * last; equal ones stay in their order.
 */
export function sortedRows<Row extends Pick<SweepRow, 'metrics'>>(rows: readonly Row[], by: MetricId | Held): Row[] {
  const keyOf = (row: Row): number | null => {
    if (typeof by !== 'string') {
      const room = roomOf(row, by)
      return room === null ? null : -room
    }
    const median = row.metrics[by]?.median ?? null
    return median !== null && metricDefinitions[by].effect?.better === 'more' ? -median : median
  }
  return rows
    .map((row) => ({ row, key: keyOf(row) ?? Infinity }))
    .sort((one, other) => (one.key === other.key ? 0 : one.key - other.key))
    .map(({ row }) => row)
}

/**
 * Things with a row, with the number of budgets that it breaks, the worst first: most budgets broken, then most holes.
 * Equal ones stay in their order.
 */
export function worstFirst<Placed extends { row: Pick<SweepRow, 'metrics'> }>(
  placed: readonly Placed[],
  { budgets, baseline }: Held,
): (Placed & { broken: number })[] {
  const holes = ({ row }: Placed) => row.metrics['pictures.holeShare']?.median ?? 0
  return placed
    .map((each) => ({
      ...each,
      broken: budgets.filter((budget) => !keepsBudget(budget, each.row.metrics, baseline)).length,
    }))
    .sort((one, other) => other.broken - one.broken || holes(other) - holes(one))
}
