import { metricIds, type Metrics } from '../../src/core/profile/figures/metric-definitions.ts'
import { readFile } from 'node:fs/promises'
import type { Operation } from 'fast-json-patch'
import { describe, expect, it } from 'vitest'
import { intervalOf } from '../../src/core/compare/intervals.ts'
import { changeOf, proveAll } from '../../src/core/compare/prove.ts'
import { suspicionsOf } from '../../src/core/profile/findings/findings.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Raw
const put = (path: string, value: unknown): Operation => ({ op: 'replace', path, value })
/** A link and a policy without any fault: the planted one stands out. */
const well = [
  put('/loading/startBelowDpPerS', 1500),
  put('/loading/cancel/keepAbove', 0.6),
  put('/network/downKbps', 30_000),
  put('/network/rttMs', 25),
]

function patched(raw: Raw, patch: Operation[]): Raw {
  const outcome = applyPatch(raw, patch)
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.raw
}

async function findingsOf(raw: Raw, screen: string) {
  const parsed = parseProject(raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const profile = profileRun(simulate(parsed.project, { screen }).log)
  const order = {
    raw,
    screen,
    script: parsed.project.script!,
    seed: 7,
    visit: 'first' as const,
    items: null,
    seen: new Map(),
  }
  const found = await proveAll(order, suspicionsOf(profile, parsed.project), {
    rest: () => Promise.resolve(),
    cancelled: () => false,
    progress: () => undefined,
  })
  return { found: found!.findings, untried: found!.untried, metrics: profile.metrics }
}

/** Three projects, three planted faults each, and the finding that has to come first. */
const planted: [string, string, Operation[]][] = [
  ['wall', 'decode-on-main', [put('/loading/decodeOn', 'main')]],
  ['wall', 'wrong-pictures', [put('/loading/guard', false), put('/loading/resetOnBind', false)]],
  ['wall', 'setup-repeated', [put('/loading/setup', 'per-bind')]],
  ['makers', 'memory-small', [put('/loading/memoryMb', 0), put('/loading/diskMb', 0)]],
  ['makers', 'ask-smaller', [put('/screens/1/cells/0/slots/0/address', { type: 'pointer', at: '/portrait' })]],
  ['makers', 'few-slots', [put('/loading/fetchSlots', 1), put('/network/rttMs', 150)]],
  ['shelves', 'no-cancelling', [put('/loading/cancel/when', 'never'), put('/network/downKbps', 6000)]],
  ['shelves', 'ahead-too-far', [put('/loading/ahead/amount', 30), put('/loading/ahead/direction', 'both')]],
  ['shelves', 'decode-on-main', [put('/loading/decodeOn', 'main')]],
]

describe('findings', () => {
  for (const [screen, id, patch] of planted)
    it(`${screen}: the planted fault stands first, ${id}, and its fix removes it`, async () => {
      const raw = patched(demo, [...well, ...patch])
      const { found } = await findingsOf(raw, screen)
      expect(found.map((each) => each.id)[0]).toBe(id)
      const [top] = found
      expect(top!.evidence).toMatch(/\d/)
      const fixed = await findingsOf(patched(raw, top!.patch), screen)
      expect(fixed.found.map((each) => each.id)).not.toContain(id)
      // What the proof found on this seed's run is true of the run itself.
      expect(fixed.metrics[top!.proof.metric]!).toBeLessThan(
        (await findingsOf(raw, screen)).metrics[top!.proof.metric]!,
      )
    }, 30_000)

  it('what is let go too late, flickers, or is faded in from memory on the main thread is found too, and proven', async () => {
    const back = {
      name: 'back',
      steps: [
        { do: 'wait', ms: 1500 },
        { do: 'flick', dpPerS: 5000 },
        { do: 'wait', ms: 1500 },
        { do: 'flick', dpPerS: -5000 },
        { do: 'wait', ms: 1500 },
        { do: 'edit', op: 'update', at: 0, count: 60 },
        { do: 'wait', ms: 1500 },
      ],
    }
    const cases: [string, Operation[]][] = [
      ['cancel-too-late', [put('/loading/cancel', { when: 'zone', zoneRows: 40 }), put('/network/downKbps', 5000)]],
      [
        'transition-on-hit',
        [
          put('/screens/0/cells/0/slots/0/transition', { type: 'fade', ms: 900, on: 'main', skip: [] }),
          put('/device/costs', { transitionMs: 1.5 }),
          put('/scripts', [back]),
          put('/script', 'back'),
        ],
      ],
    ]
    for (const [id, patch] of cases)
      expect(
        (await findingsOf(patched(demo, [...well, ...patch]), 'wall')).found.map((each) => each.id),
        id,
      ).toContain(id)
  }, 170_000)

  it('a first visit that is slow, with all there after a restart, is reported as such: last, with nothing to change', async () => {
    const slow = patched(demo, [...well, put('/network/downKbps', 5000), put('/network/rttMs', 90)])
    const { found } = await findingsOf(slow, 'shelves')
    const last = found.at(-1)!
    expect(last).toMatchObject({ id: 'first-visit-only', patch: [], other: { visit: 'restarted' } })
    expect(last.proof.before).toBeGreaterThan(0.3)
    expect(last.proof.after).toBeLessThan(0.15)
    // Where nothing is kept, the next visit is as slow.
    expect(
      (await findingsOf(patched(slow, [put('/loading/diskMb', 0)]), 'shelves')).found.map(({ id }) => id),
    ).not.toContain('first-visit-only')
  }, 170_000)

  it('of three well-set projects none claims a gain', async () => {
    for (const screen of ['wall', 'makers', 'shelves'])
      expect(
        (await findingsOf(patched(demo, well), screen)).found.map((each) => each.id),
        screen,
      ).toEqual([])
  }, 30_000)
})

it('a change that the project does not take is reported, and not counted as without gain', async () => {
  const parsed = parseProject(demo)
  if (!parsed.ok) throw new Error(parsed.message)
  const order = {
    raw: demo,
    screen: 'makers',
    script: parsed.project.script!,
    seed: 7,
    visit: 'first' as const,
    items: null,
    seen: new Map(),
  }
  const suspicion = {
    id: 'x',
    what: 'It is wrong.',
    evidence: '',
    metric: 'bytes.received' as const,
    change: '',
    patch: [{ op: 'remove' as const, path: '/loading/nothing' }],
    pinMs: null,
  }
  const proven = await proveAll(order, [suspicion], {
    rest: () => Promise.resolve(),
    cancelled: () => false,
    progress: () => undefined,
  })
  expect(proven).toMatchObject({
    findings: [],
    unproven: 0,
    untried: [{ what: 'It is wrong.', why: expect.stringContaining('/loading/nothing') as string }],
  })
  expect(
    await proveAll(order, [suspicion], {
      rest: () => Promise.resolve(),
      cancelled: () => true,
      progress: () => undefined,
    }),
  ).toBeNull()
})

describe('comparisons', () => {
  it('an interval holds the median, narrows with agreement, and is the same for the same seed', () => {
    const apart = Array.from({ length: 20 }, (_, i) => (i % 2 ? 5 : -5) + i / 10)
    const alike = Array.from({ length: 20 }, (_, i) => 3 + i / 100)
    const [wide, narrow] = [intervalOf(apart, 1)!, intervalOf(alike, 1)!]
    expect(wide.low).toBeLessThan(0)
    expect(wide.high).toBeGreaterThan(0)
    expect(narrow.low).toBeGreaterThan(2.9)
    expect(narrow.high).toBeLessThan(3.3)
    for (const each of [wide, narrow]) expect(each.low <= each.median && each.median <= each.high).toBe(true)
    expect(intervalOf(apart, 1)).toEqual(wide)
    expect(intervalOf([], 1)).toBeNull()
    // Of a single pair nothing is known beyond it.
    expect(intervalOf([4], 1)).toEqual({ median: 4, low: 4, high: 4 })
  })

  it('better or worse is said only beyond the least effect and with an interval on one side of 0', () => {
    const unknown = Object.fromEntries(metricIds.map((id) => [id, null])) as Metrics
    const runs = (values: number[]) =>
      values.map((value) => ({ ...unknown, 'pictures.holeShare': value, 'frames.lateMsPerS': value }))
    const change = (before: number[], after: number[]) =>
      changeOf('pictures.holeShare', runs(before), runs(after), 3)!.is
    expect(change(Array(10).fill(0.5) as number[], Array(10).fill(0.4) as number[])).toBe('better')
    expect(change(Array(10).fill(0.4) as number[], Array(10).fill(0.5) as number[])).toBe('worse')
    expect(change(Array(10).fill(0.5) as number[], Array(10).fill(0.49) as number[])).toBe('same')
    expect(
      change([0.1, 0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9], [0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9, 0.1, 0.9, 0.1]),
    ).toBe('same')
    expect(changeOf('pictures.holeShare', [unknown], [{ ...unknown, 'pictures.holeShare': 1 }], 3)).toBeNull()
  })
})
