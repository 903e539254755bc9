import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { K } from '../../src/core/log/event-kinds.ts'
import { decodeLog, encodeLog } from '../../src/core/log/log-encoding.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import { anyProject, anyVisit } from '../support/random-project.ts'

/** So many cases a run; the command in CONTRIBUTING.md runs a hundred thousand. A failure prints its seed. */
const numRuns = Number(process.env.TUG_CASES ?? 600)
/** Some 25 ms a case here; ten times that. */
const timeoutMs = Math.max(240_000, 250 * numRuns)
const seed = process.env.TUG_SEED === undefined ? 20261123 : Number(process.env.TUG_SEED)

describe('any policy, script, network, faults, feed and visit', () => {
  it(
    'keeps every invariant that its log can decide',
    () => {
      fc.assert(
        fc.property(anyVisit, ({ project, visit }) => {
          const [{ log }] = simulateVisits(project, [visit]) as [ReturnType<typeof simulate>]
          const { checks, metrics, facts } = profileRun(log)
          expect(checks.filter((check) => check.ok === false)).toEqual([])
          const classes = [
            'shown',
            'shownEarly',
            'cutOff',
            'neverSeen',
            'again',
            'failed',
            'revalidated',
            'open',
          ] as const
          expect(classes.reduce((sum, name) => sum + metrics[`bytes.${name}`]!, 0)).toBe(metrics['bytes.received'])
          // At rest every picture on screen is there, or has failed; without the guard another one may stand in its
          // place.
          const atRest = facts.exposures.filter(
            (each) => facts.endWhy === 'done' && project.loading.guard && !each.left,
          )
          expect(atRest.filter((each) => each.outcome === 'unseen')).toEqual([])
          let last = 0
          let back = 0
          const delivered = new Set<number>()
          let again = 0
          log.each(({ t, kind, a }, row) => {
            if (t[row]! < last) back++
            last = t[row]!
            if (kind[row] !== K.deliver) return
            if (delivered.has(a[row]!)) again++
            delivered.add(a[row]!)
          })
          expect({ back, again }).toEqual({ back: 0, again: 0 })
          expect(['done', 'drained', 'heap']).toContain(facts.endWhy)
          expect(
            Object.values(metrics).filter((value) => typeof value === 'number' && !Number.isFinite(value)),
          ).toEqual([])
        }),
        { numRuns, seed },
      )
    },
    timeoutMs,
  )

  it(
    'gives the same log again, with idle frames too, and from its encoding',
    () => {
      fc.assert(
        fc.property(anyProject, (project) => {
          const { log } = simulate(project)
          const hash = hashLog(log)
          expect(hashLog(simulate(project).log)).toBe(hash)
          expect(hashLog(simulate(project, { everyRefresh: true }).log)).toBe(hash)
          expect(hashLog(decodeLog(encodeLog(log)))).toBe(hash)
        }),
        { numRuns: Math.ceil(numRuns / 10), seed },
      )
    },
    timeoutMs,
  )
})
