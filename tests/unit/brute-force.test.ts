import fc from 'fast-check'
import { expect, it } from 'vitest'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import type { MetricId } from '../../src/core/profile/figures/metric-definitions.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import { bruteForce } from '../support/brute-force.ts'
import { bruteForceRest } from '../support/brute-force-rest.ts'
import { anyVisit } from '../support/random-project.ts'

/** So many cases a run; the command in CONTRIBUTING.md runs twenty thousand. */
const numRuns = Number(process.env.TUG_CASES ?? 300)
const seed = process.env.TUG_SEED === undefined ? 20261123 : Number(process.env.TUG_SEED)

it(
  'every figure equals what plain loops over the NDJSON log find, in any visit',
  () => {
    fc.assert(
      fc.property(anyVisit, ({ project, visit }) => {
        const [run] = simulateVisits(project, [visit])
        const { log } = run!
        fc.pre(log.count < 1500)
        const { metrics } = profileRun(log)
        const lines = [...toNdjson(log)].join('').trim().split('\n')
        const found = { ...bruteForce(lines), ...bruteForceRest(lines) }
        for (const [id, value] of Object.entries(found) as [MetricId, number | null][])
          if (value === null || metrics[id] === null) expect([id, metrics[id]]).toEqual([id, value])
          else
            expect(Math.abs(metrics[id]! - value), `${id}: ${metrics[id]} against ${value}`).toBeLessThanOrEqual(
              1e-6 * Math.max(1, Math.abs(value)),
            )
      }),
      { numRuns, seed },
    )
  },
  Math.max(240_000, 400 * numRuns),
)
