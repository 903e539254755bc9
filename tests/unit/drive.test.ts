import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { EventReader } from '../../src/core/log/event-reader.ts'
import { movePoint } from '../../src/app/drive/move-point.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { devicePresets, networkPresets, policyPresets, scriptPresets } from '../../src/core/project/presets.ts'
import type { Step } from '../../src/core/project/types.ts'
import { SteppedRun } from '../../src/core/watch/stepped-run.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { insertSteps, moveStep, removeStep } from '../../src/core/scrolling/edit-script.ts'
import { scriptOfHand, scriptOfRecording, type Sample } from '../../src/core/scrolling/recording.ts'
import { ScriptPlayer } from '../../src/core/scrolling/script-player.ts'
import { timelineOf } from '../../src/core/scrolling/timeline.ts'
import { VirtualClock } from '../../src/core/worlds/virtual/virtual-clock.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const flick = { curve: 'exponential' as const, timeMs: 325, stopDpPerS: 20 }
const max = 20_000
const pitch = 100

/** Plays a script at 1 kHz on a list of a fixed extent: where it is at each whole ms. */
function played(steps: readonly Step[], ms: number): number[] {
  const clock = new VirtualClock()
  const player = new ScriptPlayer(
    steps,
    flick,
    clock,
    {
      max: () => max * 1024,
      topOfRow: (row) => Math.min(max, row * pitch) * 1024,
      topOf: () => null,
      growing: () => false,
    },
    () => undefined,
    () => undefined,
  )
  const tops: number[] = []
  for (let t = 0; t <= ms; t++) {
    clock.leap(t * 1000)
    tops.push(player.advance(t * 1000).top / 1024)
  }
  return tops
}

const step = fc.oneof(
  fc.record({ do: fc.constant('wait' as const), ms: fc.integer({ min: 0, max: 900 }) }),
  fc.record({ do: fc.constant('flick' as const), dpPerS: fc.integer({ min: -12_000, max: 12_000 }) }),
  fc.record({
    do: fc.constant('drag' as const),
    dp: fc.integer({ min: -1500, max: 2500 }),
    ms: fc.integer({ min: 1, max: 700 }),
  }),
  fc.record({ do: fc.constant('jump' as const), row: fc.integer({ min: 0, max: 200 }) }),
  fc.record({
    do: fc.constant('to' as const),
    where: fc.constantFrom<'start' | 'end' | number>('start', 'end', 30),
    dpPerS: fc.integer({ min: 4000, max: 40_000 }),
  }),
  fc.constantFrom<Step>({ do: 'rotate' }, { do: 'pressure' }),
)

describe('the time axis', () => {
  it('draws the curve that the script player plays', () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 7 }), (steps) => {
        const timeline = timelineOf(steps, flick, { max, topOfRow: (row) => row * pitch })
        fc.pre(timeline.endMs < 20_000)
        const tops = played(steps, Math.ceil(timeline.endMs))
        const fastest = 40_000 / 1000
        // A way at a speed ends at the frame behind its target: that much later all that follows may be.
        const ways = steps.filter((each) => each.do === 'to').length
        for (let t = 0; t < tops.length; t += 7) {
          const near = [-2 * ways - 1, 0, 2 * ways + 1].map((late) => timeline.topAt(Math.max(0, t + late)))
          expect(
            tops[t]! >= Math.min(...near) - fastest && tops[t]! <= Math.max(...near) + fastest,
            `at ${t} ms: ${tops[t]} against ${near.join()}`,
          ).toBe(true)
        }
      }),
      { numRuns: 150, seed: 20261123 },
    )
  })

  it('moves a step without moving what follows, as far as the waits beside it allow', () => {
    const steps: Step[] = [
      { do: 'wait', ms: 500 },
      { do: 'flick', dpPerS: 1000 },
      { do: 'wait', ms: 800 },
      { do: 'jump', row: 3 },
    ]
    expect(moveStep(steps, 1, 200)).toEqual([
      { do: 'wait', ms: 700 },
      { do: 'flick', dpPerS: 1000 },
      { do: 'wait', ms: 600 },
      { do: 'jump', row: 3 },
    ])
    expect(moveStep(steps, 1, -9000)[0]).toEqual({ do: 'wait', ms: 0 })
    expect(moveStep([{ do: 'flick', dpPerS: 1 }], 0, 100)).toEqual([
      { do: 'wait', ms: 100 },
      { do: 'flick', dpPerS: 1 },
    ])
    expect(moveStep([{ do: 'flick', dpPerS: 1 }], 0, -100)).toEqual([{ do: 'flick', dpPerS: 1 }])
    expect(removeStep(steps, 1)).toEqual([
      { do: 'wait', ms: 1300 },
      { do: 'jump', row: 3 },
    ])
    expect(insertSteps(steps, 1, [{ do: 'rotate' }])[2]).toEqual({ do: 'rotate' })
    // Dragged further down, each gesture goes further by that much.
    const far = movePoint([{ do: 'flick', dpPerS: 3000 }], 0, 0, 100, { flickMs: 325, pitchDp: 50 })
    const rest = (steps: readonly Step[]) =>
      timelineOf(steps, flick, { max, topOfRow: (row) => row * 50 }).topAt(60_000)
    expect(rest(far) - rest([{ do: 'flick', dpPerS: 3000 }])).toBeCloseTo(100, 0)
    expect(movePoint([{ do: 'jump', row: 4 }], 0, 0, 100, { flickMs: 325, pitchDp: 50 })).toEqual([
      { do: 'jump', row: 6 },
    ])
  })
})

describe('a recorded hand', () => {
  it('replays within 1 dp of every recorded frame, with far fewer steps', () => {
    // A drag, a flick that runs out, rest, and a drag back: as a hand's list moves at 60 Hz.
    const source: Step[] = [
      { do: 'wait', ms: 200 },
      { do: 'drag', dp: 700, ms: 400 },
      { do: 'flick', dpPerS: 5200 },
      { do: 'wait', ms: 2500 },
      { do: 'drag', dp: -900, ms: 700 },
      { do: 'wait', ms: 300 },
    ]
    const tops = played(source, 4000)
    const samples: Sample[] = Array.from({ length: 240 }, (_, k) => ({
      ms: (k * 1000) / 60,
      top: tops[Math.round((k * 1000) / 60)]!,
    }))
    const steps = scriptOfRecording(samples)
    expect(steps.length).toBeLessThan(120)
    const clock = new VirtualClock()
    const player = new ScriptPlayer(
      steps,
      flick,
      clock,
      { max: () => max * 1024, topOfRow: () => 0, topOf: () => null, growing: () => false },
      () => undefined,
      () => undefined,
    )
    for (const { ms, top } of samples) {
      clock.leap(Math.round(ms * 1000))
      expect(Math.abs(player.advance(Math.round(ms * 1000)).top / 1024 - top), `at ${ms} ms`).toBeLessThan(1)
    }
  })
})

describe('the script of a hand', () => {
  const frameMs = 1000 / 60
  /** It drags from 40 dp in two frames, rests half a second, and drags back in one. */
  const steps = scriptOfHand(
    40,
    [
      { ms: 300, top: 90 },
      { ms: 300 + frameMs, top: 140 },
      { ms: 800, top: 100 },
    ],
    frameMs,
  )

  it('rests where the hand rested, from the instant at which it did', () => {
    const { topAt } = timelineOf(steps, flick, { max, topOfRow: () => 0 })
    const at = (ms: number) => topAt(1500 + ms)
    expect([0, 280, 300, 320, 780, 800].map((ms) => Math.round(at(ms)))).toEqual([40, 40, 90, 140, 140, 100])
  })

  it('waits for a feed that is late: nothing of the gesture is lost on an empty list', () => {
    const parsed = parseProject({
      format: 'tile-tug/project',
      version: 1,
      name: 'late',
      screens: [{ id: 'wall', feed: { source: { type: 'origin', feed: 'wall' } } }],
      scripts: [{ name: 'My hand', steps }],
      script: 'My hand',
    })
    if (!parsed.ok) throw new Error(parsed.message)
    const scrolls = [20, 1500].map((rttMs) => {
      const { log } = simulate({ ...parsed.project, network: { ...parsed.project.network, rttMs } })
      const seen: { t: number; top: number }[] = []
      new EventReader(log, { scroll: ({ t, top }) => seen.push({ t, top: top / 1024 }) }).readAll()
      return seen
    })
    for (const seen of scrolls) expect([...new Set(seen.map(({ top }) => Math.round(top)))]).toEqual([40, 90, 140, 100])
    // The later feed did come after the wait.
    expect(scrolls[0]![0]!.t).toBeLessThan(1_550_000)
    expect(scrolls[1]![0]!.t).toBeGreaterThan(2_000_000)
  })
})

describe('presets', () => {
  it('are values that a project takes, with names of their own', () => {
    const base = { format: 'tile-tug/project', version: 1, name: 'p', screens: [{ id: 'a' }, { id: 'item' }] }
    for (const { values, name } of devicePresets)
      expect(parseProject({ ...base, device: { name, ...values } }).ok).toBe(true)
    for (const { values, name } of networkPresets)
      expect(parseProject({ ...base, network: { name, ...values } }).ok).toBe(true)
    for (const { values } of policyPresets) expect(parseProject({ ...base, loading: values }).ok).toBe(true)
    const scripts = parseProject({ ...base, scripts: scriptPresets })
    expect(scripts.ok ? [] : scripts.message).toEqual([])
    // One taken after another leaves nothing of it behind.
    for (const list of [devicePresets, networkPresets, policyPresets] as const)
      for (const { values } of list) expect(Object.keys(values).sort()).toEqual(Object.keys(list[0]!.values).sort())
    for (const list of [devicePresets, networkPresets, policyPresets, scriptPresets])
      expect(new Set(list.map(({ name }) => name)).size).toBe(list.length)
  })
})

describe('step mode', () => {
  const project = projectOf({
    items: items(60),
    device: freeDevice,
    network: plainLink,
    steps: [
      { do: 'wait', ms: 400 },
      { do: 'flick', dpPerS: 4000 },
      { do: 'wait', ms: 900 },
    ],
  })

  it('stops before each event that is waited for, in order, and its end is that of the run in one go', () => {
    const stepped = new SteppedRun(project, { screen: 'list', items: null })
    let binds = 0
    let last = 0
    for (let now = stepped.next(['bind']); !now.over; now = stepped.next(['bind'])) {
      if (now.at === null) break
      expect(now.at.event).toBe('bind')
      expect(now.ms).toBeGreaterThanOrEqual(last)
      last = now.ms
      binds++
      expect(now.cells.length).toBeLessThanOrEqual(7)
    }
    const { metrics, facts } = profileRun(simulate(project).log)
    expect(binds).toBe(metrics['cells.bound'])
    expect(stepped.next([]).ms).toBe(facts.endT / 1000)
  })

  it('reports the line in the order in which it starts', () => {
    const stepped = new SteppedRun(
      { ...project, loading: { ...project.loading, fetchSlots: 1 } },
      { screen: 'list', items: null },
    )
    let now = stepped.next(['request'])
    const waiting = () => now.queue.filter((each) => each.state === 'queued')
    expect(waiting().length).toBeGreaterThan(2)
    for (; waiting().length > 1 && now.ms < 300; now = stepped.next(['request'])) {
      // It is paused before the start that it names: that one is the first in line, and no slot is taken.
      expect(now.at).toMatchObject({ event: 'start', request: waiting()[0]!.request })
      expect(now.queue.filter(({ state }) => state === 'connecting' || state === 'receiving')).toEqual([])
    }
    // Once the list has moved, the middle of the screen comes first, whatever came first.
    while (!now.over && now.ms < 600) now = stepped.next(['request'])
    expect(waiting()[0]!.request).not.toBe(Math.min(...waiting().map(({ request }) => request)))
    expect(stepped.next(['arrival']).ms).toBeGreaterThan(now.ms)
  })
})
