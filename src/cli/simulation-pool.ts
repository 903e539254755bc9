import { Piscina } from 'piscina'
import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import { measureOnce, type Bench } from '../core/sweep/measure.ts'
import type { Setting } from '../core/sweep/setting.ts'

/** Settings that are simulated on some seeds of one of the pool's benches. */
export interface MeasureTask {
  bench: number
  settings: readonly Setting[]
  seeds: readonly number[]
}

/** Simulates on several cores. */
export interface SimulationPool {
  /** For each seed the figures of each of the bench's visits. */
  measure(task: MeasureTask): Promise<Metrics[][]>
  close(): Promise<void>
}

/** How often a task whose worker has died is given to another. */
const mostTries = 3
const workerFile = './measure-worker.cjs'

/** A simulation allocates much that lives for an event only: with more room, it is collected a third as often. */
export const workerLimits = { maxYoungGenerationSizeMb: 64 }

/**
 * A pool of so many workers; with one job the present thread does it, which starts at once. `worker`: the address of
 * the file that each of them runs.
 */
export function openPool(
  benches: readonly Bench[],
  jobs: number,
  worker = new URL(workerFile, import.meta.url).href,
): SimulationPool {
  if (jobs === 1)
    return {
      measure: ({ bench, settings, seeds }) =>
        Promise.resolve(seeds.map((seed) => measureOnce(benches[bench]!, settings, seed))),
      close: () => Promise.resolve(),
    }
  const pool = new Piscina({
    filename: worker,
    workerData: benches,
    minThreads: jobs,
    maxThreads: jobs,
    resourceLimits: workerLimits,
  })
  // Workers that cannot start take no task: whatever waits for one fails. Each of them reports it, and each report
  // needs a listener.
  const broken = new Promise<never>((_, reject) => pool.on('error', reject))
  broken.catch(() => undefined)
  return {
    async measure(task) {
      for (let tries = 1; ; tries++)
        try {
          return (await Promise.race([pool.run(task), broken])) as Metrics[][]
        } catch (error) {
          // An error of the simulation would be thrown again; a worker that has ended is not the task's fault.
          if (tries === mostTries || !/worker exited/i.test(String(error))) throw error
        }
    },
    close: () => pool.destroy(),
  }
}
