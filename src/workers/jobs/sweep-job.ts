import { mapOf } from '../../core/profile/views/map-data.ts'
import { tinyOf, type TinyMap } from '../../core/profile/views/tiny-map.ts'
import { measureRun } from '../../core/profile/profile.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { simulateVisits } from '../../core/simulate/visits.ts'
import { projectWith, type Setting } from '../../core/sweep/setting.ts'
import { rowOf, type SweepRow } from '../../core/sweep/sweep-row.ts'
import { stopIfCancelled, type JobHooks, type RawOrder } from './job.ts'

export interface MeasureOrder extends RawOrder {
  settings: readonly Setting[]
  seeds: readonly number[]
}

export interface Measured {
  /** By seed. */
  metrics: Metrics[]
  /** The same as medians and intervals, resampled by the order's own seed. */
  row: SweepRow
  /** The first seed's map, as small as a word. */
  tiny: TinyMap
  /** What one simulation took here, ms. */
  msEach: number
}

/** Some settings of a project on some seeds: a row of a sweep, or a candidate of a search. */
export async function measureJob(job: MeasureOrder, hooks: JobHooks): Promise<Measured> {
  const outcome = projectWith(job.raw, job.settings)
  if (!outcome.ok) throw new Error(outcome.message)
  const { screen, script, visit, items, seen } = job
  const metrics: Metrics[] = []
  let tiny: TinyMap | null = null
  const begun = hooks.now()
  for (const seed of job.seeds) {
    const [run] = simulateVisits(outcome.project, [visit], { screen, script, seed, items, seen: new Map(seen) })
    const measured = measureRun(run!.log)
    tiny ??= tinyOf(mapOf(measured.facts, measured.ledger))
    metrics.push(measured.metrics)
    hooks.progress(metrics.length / job.seeds.length)
    await hooks.rest()
    stopIfCancelled(hooks)
  }
  const msEach = (hooks.now() - begun) / job.seeds.length
  return { metrics, row: rowOf(0, job.settings, metrics, job.seed), tiny: tiny!, msEach }
}
