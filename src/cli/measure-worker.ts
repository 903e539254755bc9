import { workerData } from 'piscina'
import { measureOnce, type Bench } from '../core/sweep/measure.ts'
import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import type { MeasureTask } from './simulation-pool.ts'

/** The settings that every task of this worker varies; sent once, when it starts. */
const benches = workerData as readonly Bench[]

export default function measure({ bench, settings, seeds }: MeasureTask): Metrics[][] {
  return seeds.map((seed) => measureOnce(benches[bench]!, settings, seed))
}
