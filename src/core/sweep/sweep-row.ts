import { intervalOf, type Interval } from '../compare/intervals.ts'
import { metricIds, type MetricId, type Metrics } from '../profile/figures/metric-definitions.ts'
import type { Setting } from './setting.ts'

/** One combination of a sweep: every metric's median over the seeds with its 95 % interval; null: no seed has it. */
export interface SweepRow<Row = number> {
  row: Row
  settings: readonly Setting[]
  seeds: number
  metrics: Record<MetricId, Interval | null>
}

/** A row from its runs. `seed`: that of the resampling, so that the same runs give the same interval everywhere. */
export function rowOf(row: number, settings: readonly Setting[], runs: readonly Metrics[], seed: number): SweepRow {
  const metrics = Object.fromEntries(
    metricIds.map((id) => [id, intervalOf(knownOf(runs, id), seed)]),
  ) as SweepRow['metrics']
  return { row, settings, seeds: runs.length, metrics }
}

export const knownOf = (runs: readonly Metrics[], id: MetricId): number[] =>
  runs.map((metrics) => metrics[id]).filter((value): value is number => typeof value === 'number')

/** The metrics by which rows are compared: waste, holes, late time. Nothing of the kind is as good as 0. */
const frontMetrics = ['bytes.wastedShare', 'pictures.holeShare', 'frames.lateMsPerS'] as const

/** The rows that no other beats: as good in waste, holes and late time, and better in one of them. */
export const frontOf = (rows: readonly SweepRow[]): number[] => unbeatenIn(rows, frontMetrics)

/** The rows that no other beats in some metrics of which less is better. */
export function unbeatenIn<Row>(rows: readonly SweepRow<Row>[], held: readonly MetricId[]): Row[] {
  const figures = rows.map(({ metrics }) => held.map((id) => metrics[id]?.median ?? 0))
  const beats = (one: readonly number[], other: readonly number[]) =>
    one.every((value, i) => value <= other[i]!) && one.some((value, i) => value < other[i]!)
  return rows.filter((_, i) => !figures.some((each) => beats(each, figures[i]!))).map(({ row }) => row)
}
