import fc from 'fast-check'
import { expect, it } from 'vitest'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate } from '../../src/core/run/simulate.ts'
import { bruteForce } from '../support/brute-force.ts'
import { anyProject } from '../support/random-project.ts'

/** Edits, rotation and leaving bind a cell to its item again; modelling slips keep claims: those have tests of their own. */
const plain = anyProject.map((project) => {
  const steps = project.scripts[0]!.steps.filter((step) => !['edit', 'rotate', 'leave', 'return', 'background', 'foreground', 'offline', 'online'].includes(step.do)).slice(0, 4)
  return {
    ...project,
    loading: { ...project.loading, guard: true, resetOnBind: true },
    network: { ...project.network, offline: [] },
    screens: project.screens.map((screen) => ({
      ...screen, layout: { ...screen.layout, heldCells: 0 },
    })),
    scripts: [{ ...project.scripts[0]!, steps }],
  }
})

it('every figure equals what plain loops over the NDJSON log find', () => {
  fc.assert(
    fc.property(plain, (project) => {
      const { log } = simulate(project)
      fc.pre(log.count < 1500)
      const { metrics } = profileRun(log)
      const found = bruteForce([...toNdjson(log)].join('').trim().split('\n'))
      for (const [id, value] of Object.entries(found))
        if (value === null || metrics[id] === null) expect([id, metrics[id]]).toEqual([id, value])
        else expect(Math.abs(metrics[id]! - value), `${id}: ${metrics[id]} against ${value}`).toBeLessThanOrEqual(1e-6 * Math.max(1, Math.abs(value)))
    }),
    { numRuns: 200, seed: 20261123 },
  )
}, 120_000)
