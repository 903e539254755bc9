import { describe, expect, it } from 'vitest'
import type { Facts } from '../../src/core/profile/facts/facts.ts'
import { PlaceWatch } from '../../src/core/profile/facts/place-watch.ts'
import { Playback } from '../../src/core/profile/views/playback.ts'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { ScriptPlayer } from '../../src/core/scrolling/script-player.ts'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const freeFlick = projectOf({}).device.flick

/** Faults that random cases met once in some thousand: each as a case of its own, so that it is met in every run. */
describe('a held cell whose request was let go while its screen was away', () => {
  it.each([
    ['background', 'foreground', 'whenPaused'],
    ['open', 'back', 'whenLeft'],
  ] as const)('asks again when it comes back: %s', (away, back, policy) => {
    const { log } = simulate(
      projectOf({
        items: items(30, 60_000),
        device: freeDevice,
        network: { ...plainLink, downKbps: 400 },
        screen: { layout: { columns: 1, gapDp: 0, paddingDp: 0, heldCells: 12 } },
        loading: { memoryMb: 0, diskMb: 0, ahead: { amount: 0 }, cancel: { when: 'never', [policy]: 'let-go' } },
        steps: [
          { do: 'wait', ms: 300 },
          { do: 'jump', row: 8 },
          { do: 'wait', ms: 200 },
          away === 'open' ? { do: 'open', screen: 'item', item: 20 } : { do: away },
          { do: 'wait', ms: 300 },
          { do: back },
          { do: 'wait', ms: 100 },
          { do: 'jump', row: 0 },
          { do: 'wait', ms: 9000 },
        ],
      }),
    )
    const { facts, metrics } = profileRun(log)
    expect(metrics['cells.heldHits']).toBeGreaterThan(0)
    const last = facts.exposures
      .filter((each) => each.leaveT === facts.endT)
      .sort((one, other) => one.index - other.index)
    expect(last.map(({ index, outcome }) => [index, outcome])).toEqual([0, 1, 2, 3, 4].map((index) => [index, 'shown']))
  })
})

it('a stand-in whose own picture fails before it was presented makes room for the failed visual, in playback too', () => {
  const slot = { size: { type: 'fixed', widthDp: 100, heightDp: 100 }, transition: { type: 'none' } }
  const { log } = simulate(
    projectOf({
      items: items(60),
      device: freeDevice,
      network: plainLink,
      screen: {
        cells: [
          {
            height: { type: 'fixed', dp: 100 },
            slots: [
              { ...slot, id: 'large' },
              { ...slot, id: 'small', size: { type: 'fixed', widthDp: 40, heightDp: 40 } },
            ],
          },
        ],
      },
      // Each slot has a request of its own, and only one runs at a time: the first row's large picture is there, its
      // small one is not.
      loading: {
        share: false,
        fetchSlots: 1,
        fetchSlotsPerHost: 1,
        order: 'first-come',
        diskMb: 0,
        ahead: { amount: 0 },
      },
      steps: [
        { do: 'wait', ms: 180 },
        { do: 'jump', row: 40 },
        { do: 'wait', ms: 100 },
        { do: 'offline' },
        { do: 'jump', row: 0 },
        { do: 'wait', ms: 400 },
      ],
    }),
  )
  const end = new Playback(log).screenAt(log.endTime / 1000)
  const [large, small] = end.cells.find(({ index }) => index === 0)!.slots
  expect(large!.stage).toBe('settled')
  expect([small!.stage, small!.rendition]).toEqual(['failed', null])
})

it('what waited for the network waits again once it is back, though no slot is free', () => {
  const { log } = simulate(
    projectOf({
      items: items(60, 40_000),
      device: freeDevice,
      network: { ...plainLink, downKbps: 400, offline: [{ fromMs: 150, toMs: 600 }] },
      loading: { fetchSlots: 1, fetchSlotsPerHost: 1, diskMb: 0, ahead: { amount: 0 } },
      steps: [{ do: 'wait', ms: 6000 }],
    }),
  )
  const playback = new Playback(log)
  const stages = (ms: number) => playback.screenAt(ms).cells.map(({ slots }) => slots[0]!.stage)
  expect(stages(400)).toEqual(['failed', 'failed', 'failed', 'failed', 'failed'])
  // One of them has the slot; the others wait, and fail no more.
  expect(stages(650)).toEqual(['waiting', 'waiting', 'waiting', 'waiting', 'waiting'])
  expect(profileRun(log).metrics['pictures.failed']).toBe(0)
})

describe('the check of place', () => {
  /** Row 5 is at 1000 under a window at 990; a row above it jumps, and an edit is held by row 5. */
  const edited = (topAfter: number, rowAfter: number) => {
    const facts = { placeBreaches: [] as number[] } as Facts
    const watch = new PlaceWatch(facts)
    watch.placed(5, 1000)
    watch.scrolled(990, 0, false)
    watch.presented(10, false, () => null)
    watch.jumped(3, -100)
    watch.edited(7, 1, 5)
    watch.presented(20, false, () => 5)
    watch.placed(5, rowAfter)
    watch.scrolled(topAfter, topAfter - 990, false)
    watch.presented(30, true, () => 5)
    return facts.placeBreaches
  }

  it('holds where a jump was taken back above the window, and where it was not', () => {
    expect(edited(1090, 1100)).toEqual([])
    expect(edited(1090, 1000)).toEqual([])
  })

  it('is broken when what was on screen has moved by anything else', () => {
    expect(edited(1090, 1101)).toEqual([30])
    expect(edited(990, 1100)).toEqual([30])
  })
})

it('a claim gets its picture once, though its request decodes the same again for somebody else and the guard is off', () => {
  const slot = (id: string, dp: number) => ({ id, size: { type: 'fixed', widthDp: dp, heightDp: dp } })
  for (let ms = 50; ms < 400; ms += 10) {
    const { log } = simulate(
      projectOf({
        items: items(60, 5000),
        device: { ...freeDevice, costs: { ...freeDevice.costs, decodeMs: 15 } },
        network: plainLink,
        screen: {
          layout: { columns: 1, gapDp: 0, paddingDp: 0 },
          cells: [{ slots: [slot('one', 60), slot('two', 30)] }],
        },
        loading: {
          guard: false,
          memoryMb: 0,
          diskMb: 0,
          decodeWorkers: 1,
          ahead: { amount: 6 },
          cancel: { when: 'never' },
        },
        steps: [
          { do: 'wait', ms },
          { do: 'jump', row: 4 },
          { do: 'wait', ms: 60 },
          { do: 'jump', row: 9 },
          { do: 'wait', ms: 3000 },
        ],
      }),
    )
    const delivered = [...toNdjson(log)]
      .join('')
      .split('\n')
      .filter((line) => line.includes('"event":"deliver"'))
    const claims = delivered.map((line) => (JSON.parse(line) as { claim: number }).claim)
    expect(claims.length).toBeGreaterThan(10)
    expect(new Set(claims).size).toBe(claims.length)
  }
})

it('a place that moves away as fast as one goes there is given up, and one that is far is reached all the same', () => {
  const playTo = (startDp: number, awayDpPerFrame: number) => {
    const player = new ScriptPlayer(
      [
        { do: 'jump', row: startDp },
        { do: 'to', where: 'start', dpPerS: 500 },
      ],
      freeFlick,
      { now: () => 0, at: () => undefined } as never,
      { max: () => 1e9, topOfRow: (row) => row * unitsPerDp, topOf: () => null, growing: () => false },
      () => undefined,
      () => undefined,
    )
    let us = 0
    for (; !player.ended && us < 600e6; us += 16_667) {
      player.advance(us)
      if (player.moving) player.shift(awayDpPerFrame * unitsPerDp)
    }
    return us / 1e6
  }
  expect(playTo(1000, 9)).toBeLessThan(15)
  expect(playTo(100_000, 0)).toBeCloseTo(200, 0)
  expect(playTo(1000, 4)).toBeCloseTo(3.8, 0)
})

it('a list that is left while a row above takes its frame binds nothing more until it is back', () => {
  // The way up binds row 0, which waits in a lower frame than it had: the correction ends the way, and the script
  // leaves at that instant.
  const slot = {
    id: 'main',
    size: { type: 'fixed', widthDp: 90, heightDp: 90 },
    transition: { type: 'none' },
    stages: { waiting: { visual: { type: 'skeleton' }, frame: { widthDp: 90, heightDp: 40 } } },
  }
  const { log } = simulate(
    projectOf({
      items: items(10),
      device: { ...freeDevice, widthDp: 400, heightDp: 700 },
      network: { ...plainLink, rttMs: 0, downKbps: 100_000 },
      screen: {
        layout: { columns: 1, gapDp: 3, paddingDp: 5, heldCells: 0 },
        cells: [{ height: { type: 'content' }, slots: [slot] }],
      },
      loading: { memoryMb: 0, diskMb: 0, ahead: { amount: 0 } },
      steps: [
        { do: 'flick', dpPerS: 341 },
        { do: 'wait', ms: 733 },
        { do: 'to', where: 'start', dpPerS: 2895 },
        { do: 'leave' },
        { do: 'wait', ms: 300 },
        { do: 'return' },
        { do: 'wait', ms: 700 },
      ],
    }),
  )
  const events = [...toNdjson(log)]
    .join('')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
  const at = (state: string) => events.findIndex((each) => each.event === 'scope' && each.state === state)
  const away = events.slice(at('closed'), at('active'))
  expect(away.filter(({ event }) => event === 'recycle')).not.toEqual([])
  expect(away.filter(({ event }) => event === 'bind')).toEqual([])
})

it('an edit holds the screen although rows that it brings in above become lower, and let more in above them', () => {
  const waiting = { visual: { type: 'skeleton' }, frame: { widthDp: 90, heightDp: 40 } }
  const { log } = simulate(
    projectOf({
      items: items(40),
      device: { ...freeDevice, heightDp: 700, widthDp: 400 },
      // Nothing comes: rows are as high as what they wait with or, while the network is away, as a failure, 390 dp.
      network: { ...plainLink, rttMs: 5000 },
      screen: { layout: { columns: 1, gapDp: 3, paddingDp: 5, beforeDp: 0, afterDp: 300, heldCells: 12 } },
      height: { type: 'content' },
      slot: { size: { type: 'from-picture' }, stages: { waiting } },
      steps: [
        { do: 'wait', ms: 100 },
        { do: 'offline' },
        { do: 'wait', ms: 100 },
        { do: 'jump', row: 9 },
        { do: 'wait', ms: 100 },
        { do: 'online' },
        { do: 'wait', ms: 100 },
        { do: 'edit', op: 'move', at: 8, count: 8, to: 0 },
        { do: 'wait', ms: 100 },
      ],
    }),
  )
  const place = profileRun(log).checks.find(({ id }) => id === 'place')
  expect(place).toMatchObject({ ok: true, evidence: '1 edits; 0 moved what was on screen' })
})
