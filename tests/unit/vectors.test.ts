import { readFile } from 'node:fs/promises'
import { describe, expect, it } from 'vitest'
import { runVectors } from '../../src/cli/vectors/run-vectors.ts'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'
import { policyPresets } from '../../src/core/project/presets.ts'
import { lanesOf, describeLanes } from '../../src/core/vectors/case-map.ts'
import { judgeStep } from '../../src/core/vectors/judge.ts'
import { makeVectors } from '../../src/core/vectors/make-vectors.ts'
import {
  clauses,
  vectorFile,
  type Clause,
  type VectorFile,
  type VectorOutput,
} from '../../src/core/vectors/protocol.ts'
import { ExampleLoader, type Policy } from '../../examples/loader/loader.ts'
import { slips } from '../support/slipping-loader.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Raw
const vectorsFor = (loading: object | null, cases = 60) => {
  const parsed = parseProject(loading ? { ...demo, loading } : demo)
  if (!parsed.ok) throw new Error(parsed.message)
  return makeVectors(parsed.project, cases, 1)
}
const vectors = vectorsFor(null)
const node = (...args: string[]): [string, ...string[]] => [process.execPath, '--import', 'tsx', ...args]
/** The clause that each slip is about, and those whose cases it touches too. */
const about: Record<string, { of: Clause; besides?: Clause[] }> = {
  'no guard': { of: 'guard', besides: ['share', 'cancel', 'memory', 'scope'] },
  'no cancel': { of: 'cancel', besides: ['keep', 'slots'] },
  'wrong order': { of: 'order', besides: ['slots'] },
  'double start': { of: 'share', besides: ['cancel'] },
  'slot leak after a failure': { of: 'slots' },
  'no sharing': { of: 'share', besides: ['cancel'] },
  'retries that cannot help': { of: 'retry' },
  'ignores Retry-After': { of: 'retry' },
  'delivers after close': { of: 'scope' },
  'starts while nothing may start': { of: 'scope' },
  'forgets aging': { of: 'order' },
  'keeps below the threshold': { of: 'keep' },
  'forgets what it has decoded': { of: 'memory', besides: ['share'] },
}

describe('conformance cases', () => {
  it('are one file that its own schema reads, the same for the same seed, smallest first, of every clause', () => {
    expect(vectorFile.parse(JSON.parse(JSON.stringify(vectors)))).toEqual(vectors)
    expect(vectorsFor(null)).toEqual(vectors)
    expect(new Set(vectors.cases.map(({ clause }) => clause))).toEqual(new Set(clauses))
    expect(vectors.cases.map(({ id }) => id).length).toBe(new Set(vectors.cases.map(({ id }) => id)).size)
    const scripted = vectors.cases.filter(({ id }) => !id.includes('random'))
    const lengths = scripted.map(({ steps }) => steps.length)
    expect(lengths).toEqual(lengths.toSorted((one, other) => one - other))
    for (const { steps, expect: answers, why } of vectors.cases)
      expect([answers.length, why.endsWith('.')]).toEqual([steps.length, true])
  })

  it('accept answers to one step in any order, and no others', () => {
    const [start, show] = [{ start: 'a' }, { show: 'a', cell: 1 }]
    expect(judgeStep(0, [start, show], [show, start])).toBeNull()
    expect(judgeStep(0, [start], [start, start])).toEqual({ step: 0, expected: null, got: start })
    expect(judgeStep(4, [start, show], [start])).toEqual({ step: 4, expected: show, got: null })
  })

  it.each(policyPresets.map(({ name, values }) => [name, values] as const))(
    'of %s are passed by the example, which shares no code with the engine that made them',
    (_name, values) => {
      expect(failedClauses(vectorsFor(values), ExampleLoader)).toEqual([])
    },
  )

  it('are passed by our engine and by the example as programs', async () => {
    for (const command of [node('src/cli/tug.ts', 'vectors', 'engine'), node('examples/loader/run.ts')])
      expect((await runVectors(vectors, vectors.cases, command)).filter(({ ok }) => !ok)).toEqual([])
  })

  it.each(Object.entries(about))('catch %s, and only where it is about', (slip, { of, besides = [] }) => {
    const failed = failedClauses(vectors, slips[slip]!)
    expect(failed).toContain(of)
    expect(failed.filter((clause) => clause !== of && !besides.includes(clause))).toEqual([])
  })

  it('are drawn as lanes: what starts, is cut off, fails and is shown, and in which step', () => {
    const lanes = Object.fromEntries(vectors.cases.map((each) => [each.id, lanesOf(each)]))
    const [kept] = lanes['keep/not-far-enough']!
    expect(kept).toMatchObject({ wanted: 0, shown: [], failed: [], transfers: [{ from: 0, to: 3, end: 'cut off' }] })
    for (const { id, expect: answers } of vectors.cases) {
      const count = (what: string) => answers.flat().filter((output) => what in output).length
      const all = lanes[id]!
      expect([id, all.flatMap(({ transfers }) => transfers).length]).toEqual([id, count('start')])
      expect([id, all.flatMap(({ shown }) => shown).length]).toEqual([id, count('show')])
      expect([id, all.flatMap(({ failed }) => failed).length]).toEqual([id, count('fail')])
    }
    expect(describeLanes(lanes['keep/not-far-enough']!)).toBe('1 picture: 1 started, 1 cut off')
  })

  it('go on after a loader that crashes or babbles: a case fails, not the run', async () => {
    for (const [slip, trouble] of [
      ['crashes', 'the loader has ended (code 3)'],
      ['babbles', 'a line that is not JSON: debug: here'],
    ] as const) {
      const cases = vectors.cases.slice(0, 9)
      const results = await runVectors(vectors, cases, node('tests/support/slipping-loader.ts', slip))
      expect(results.length).toBe(cases.length)
      const failed = results.filter(({ ok }) => !ok)
      expect(failed[0]!.trouble).toContain(trouble)
      expect(results.some(({ ok }) => ok)).toBe(true)
    }
    const [first] = await runVectors(vectors, vectors.cases.slice(0, 1), ['/nowhere/loader'])
    expect(first!.trouble).toContain('cannot be started')
  })
})

/** The clauses of which a loader fails a case. */
function failedClauses({ cases, policy }: VectorFile, Loader: new (policy: Policy) => ExampleLoader): Clause[] {
  const failed = cases.filter((each) => {
    const loader = new Loader({ ...policy, ...each.policy })
    return each.steps.some((step, i) => judgeStep(i, each.expect[i]!, loader.step(step) as VectorOutput[]) !== null)
  })
  return [...new Set(failed.map(({ clause }) => clause))]
}
