import { readFile } from 'node:fs/promises'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { EvidenceError } from '../../src/core/evidence/evidence.ts'
import { profileOf, RunLogReader } from '../../src/core/evidence/run-log-reader.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import { anyVisit } from '../support/random-project.ts'

function read(text: string, length = 4093) {
  const reader = new RunLogReader()
  for (let at = 0; at < text.length; at += length) reader.push(text.slice(at, at + length))
  return reader.finish()
}

const demo = parseProject(JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')))
if (!demo.ok) throw new Error(demo.message)
const runs = simulateVisits(demo.project, ['first', 'again'])
const text = runs.flatMap(({ log }) => [...toNdjson(log)]).join('')
const lines = text.trimEnd().split('\n')

describe('the log of a run, in again', () => {
  it('is written again to the same bytes, and has the same figures and checks', () => {
    const logs = read(text)
    expect(logs.flatMap((log) => [...toNdjson(log)]).join('')).toBe(text)
    for (const [i, log] of logs.entries()) {
      const { metrics, checks } = profileRun(runs[i]!.log)
      expect(profileOf(log)).toMatchObject({ metrics, checks })
    }
  })

  it('of any project and policy is the same', () => {
    fc.assert(
      fc.property(anyVisit, ({ project, visit }) => {
        const { log } = simulate(project, { visit })
        const written = [...toNdjson(log)].join('')
        const [again] = read(written)
        expect([...toNdjson(again!)].join('')).toBe(written)
        expect(profileOf(again!).metrics).toEqual(profileRun(log).metrics)
        const [third] = read(written)
        expect(hashLog(third!)).toBe(hashLog(again!))
      }),
      { numRuns: 25, seed: 11 },
    )
  })

  it.each<[string, (all: string[]) => string[], RegExp]>([
    ['nothing', () => [], /it has no run/],
    ['no head', (all) => all.slice(1), /line 1: the head line of the run is missing/],
    ['a newer version', ([head, ...all]) => [head!.replace('"version":1', '"version":9'), ...all], /newer than this/],
    ['a cut line', (all) => [...all.slice(0, -1), all.at(-1)!.slice(0, 20)], /is not JSON; the file may have been cut/],
    ['an unknown event', (all) => [...all, '{"event":"dance","t":1e6}'], /found "dance", which is not an event/],
    ['time backwards', (all) => [...all, '{"event":"relief","t":0}'], /before the event above it/],
    ['a field too large', (all) => [...all, '{"event":"recycle","t":1e6,"cell":1e12}'], /\/cell: found 1000000000000/],
    ['a field missing', (all) => [...all, '{"event":"recycle","t":1e6}'], /\/cell: found nothing, allowed: a number/],
    ['a row out of place', ([head, , ...all]) => [head!, ...all], /\/id: found 1, allowed: 0, the next asset/],
    ['a list', (all) => [...all, '[]'], /allowed: an object/],
  ])('with %s says where it is wrong', (_, damage, message) => {
    expect(() => read(damage(lines).join('\n'))).toThrow(message)
  })

  it('damaged anywhere is a run or one clear error, never anything else', () => {
    fc.assert(
      fc.property(
        fc.nat(lines.length - 1),
        fc.nat(200),
        fc.constantFrom('drop', 'twice', 'digit', 'cut'),
        (n, at, how) => {
          const own = [...lines.slice(0, 400)]
          const i = n % own.length
          const line = own[i]!
          const place = at % line.length
          if (how === 'drop') own.splice(i, 1)
          else if (how === 'twice') own.splice(i, 0, line)
          else if (how === 'cut') own[i] = line.slice(0, place)
          else own[i] = line.slice(0, place) + '7' + line.slice(place + 1)
          try {
            for (const log of read(own.join('\n'))) profileOf(log)
          } catch (error) {
            expect(error).toBeInstanceOf(EvidenceError)
          }
        },
      ),
      { numRuns: 300, seed: 5 },
    )
  })
})
