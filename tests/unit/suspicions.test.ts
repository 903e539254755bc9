import { describe, expect, it } from 'vitest'
import type { Operation } from 'fast-json-patch'
import type { MetricId } from '../../src/core/profile/figures/metric-definitions.ts'
import { suspicionsOf } from '../../src/core/profile/findings/findings.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import type { Project, Visit } from '../../src/core/project/types.ts'
import { items, plainLink, projectOf } from '../support/projects.ts'

type Parts = Parameters<typeof projectOf>[0]
const wait = (ms: number) => ({ do: 'wait', ms })
const there = [wait(600), { do: 'flick', dpPerS: 5000 }, wait(1500)]
const grid = { layout: { columns: 3, gapDp: 0, paddingDp: 0 } }
const wide = { widthDp: 300, heightDp: 600, density: 2 }

function look(project: Project, visit: Visit) {
  const profile = profileRun(simulateVisits(project, [visit])[0]!.log)
  return { metrics: profile.metrics, suspicions: suspicionsOf(profile, project) }
}

function fixed(project: Project, patch: Operation[]): Project {
  const patched = applyPatch(project as never, patch)
  if (!patched.ok) throw new Error(patched.message)
  const parsed = parseProject(patched.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed.project
}

/** What is set badly, the suspicion that it raises, and whether its own figure gets better at once on this one seed. */
const cases: [id: string, parts: Parts, better: MetricId | null, visit?: Visit][] = [
  [
    'decode-oversize',
    {
      items: items(90, 40_000, 900),
      screen: grid,
      slot: { decodeAt: { type: 'original' } },
      device: wide,
      steps: there,
    },
    'memory.peakMb',
  ],
  [
    'soft',
    { items: items(60), slot: { decodeAt: { type: 'fixed', px: 40 } }, device: wide, steps: there },
    'pictures.soft',
  ],
  [
    'jumps',
    {
      items: items(40, 30_000).map((item) => ({ ...item, height: 500 })),
      height: { type: 'content' },
      slot: { size: { type: 'from-picture' } },
      network: { ...plainLink, downKbps: 2000 },
      device: { widthDp: 300, heightDp: 600 },
      steps: [wait(400), { do: 'jump', row: 20 }, wait(3000)],
    },
    'pictures.jumps',
  ],
  [
    'starts-while-flicking',
    {
      items: items(900, 60_000),
      screen: grid,
      device: wide,
      network: { ...plainLink, downKbps: 6000 },
      loading: { startBelowDpPerS: null, cancel: { when: 'recycle', keepAbove: 1 } },
      steps: [wait(600), { do: 'flick', dpPerS: 9000 }, wait(3000), { do: 'flick', dpPerS: 9000 }, wait(3000)],
    },
    'bytes.wastedShare',
  ],
  [
    'many-slots',
    {
      items: items(300, 60_000),
      screen: grid,
      device: wide,
      loading: { fetchSlots: 20, fetchSlotsPerHost: 20, ahead: { by: 'rows', amount: 8 } },
      steps: there,
    },
    null,
  ],
  [
    'no-sharing',
    {
      items: items(60, 40_000).map((item, i) => ({ ...item, photo: `https://a.example.test/${i >> 1}.jpg` })),
      loading: { share: false, memoryMb: 0, diskMb: 0 },
      steps: there,
    },
    'bytes.received',
  ],
  [
    'cut-nearly-finished',
    {
      items: items(600, 50_000),
      screen: grid,
      device: wide,
      network: { ...plainLink, downKbps: 6000 },
      loading: { cancel: { when: 'recycle', keepAbove: 1 } },
      steps: [wait(600), { do: 'flick', dpPerS: 9000 }, wait(3000), { do: 'flick', dpPerS: 9000 }, wait(3000)],
    },
    null,
  ],
  [
    'inversion',
    {
      items: items(600, 50_000),
      screen: grid,
      device: wide,
      network: { ...plainLink, downKbps: 4000 },
      loading: { order: 'first-come', cancel: { when: 'never' }, fetchSlots: 2, agingMs: 10_000 },
      steps: there,
    },
    null,
  ],
  [
    'all-high',
    {
      items: items(60),
      screen: {
        cells: [
          {
            height: { type: 'fixed', dp: 100 },
            slots: [
              { id: 'one', priority: 'high', size: { type: 'fixed', widthDp: 80, heightDp: 80 } },
              { id: 'two', priority: 'high', size: { type: 'fixed', widthDp: 20, heightDp: 20 } },
            ],
          },
        ],
      },
    },
    null,
  ],
  [
    'useless-retries',
    {
      items: items(30),
      network: { ...plainLink, faults: [{ match: '*', kind: 'status', status: 503, rate: 1 }] },
      loading: { retry: { attempts: 3, firstMs: 50 } },
      steps: [wait(4000)],
    },
    'requests.retries',
  ],
  ['no-disk', { items: items(30), loading: { diskMb: 0 }, steps: there }, 'bytes.received', 'restarted'],
  [
    'memory-large',
    {
      items: items(400, 40_000, 400),
      network: { ...plainLink, downKbps: 80_000 },
      loading: { memoryMb: 200 },
      slot: { decodeAt: { type: 'fixed', px: 400 } },
      steps: [wait(600), { do: 'to', where: 'end', dpPerS: 4000 }, wait(1500)],
    },
    'memory.peakMb',
  ],
  [
    'late-creations',
    {
      items: items(300),
      screen: grid,
      device: { ...wide, costs: { createMs: 25 } },
      steps: [wait(800), { do: 'drag', dp: 150, ms: 400 }, wait(800)],
    },
    null,
  ],
  [
    'ahead-too-near',
    {
      items: items(120, 8000),
      network: { ...plainLink, rttMs: 200, downKbps: 50_000 },
      loading: { ahead: { amount: 0 } },
      steps: [wait(1000), { do: 'drag', dp: 3000, ms: 6000 }, wait(500)],
    },
    'pictures.holeShare',
  ],
  [
    'ahead-delays-screen',
    {
      items: items(120, 40_000),
      network: { ...plainLink, downKbps: 3000 },
      loading: { ahead: { by: 'rows', amount: 6, onlyWhenIdle: false } },
      steps: there,
    },
    null,
  ],
]

describe('what is set badly is suspected', () => {
  it.each(cases)('%s, with evidence and a change that the project takes', (id, parts, better, visit = 'first') => {
    const project = projectOf({ network: plainLink, ...parts })
    const { suspicions, metrics } = look(project, visit)
    const found = suspicions.find((each) => each.id === id)!
    expect(
      suspicions.map((each) => each.id),
      id,
    ).toContain(id)
    expect(found.evidence).not.toMatch(/NaN|undefined|Infinity/)
    const after = look(fixed(project, found.patch), visit)
    expect(after.suspicions.map((each) => each.id)).not.toContain(id)
    if (better !== null) {
      expect(found.metric).toBe(better)
      expect(after.metrics[better]!).toBeLessThan(metrics[better]!)
    }
  })
})
