import { describe, expect, it } from 'vitest'
import { isShown } from '../../src/core/profile/facts/facts.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { Simulation } from '../../src/core/simulate/simulate.ts'
import { whyBlank } from '../../src/core/watch/blank-screen.ts'
import { ReadoutReader } from '../../src/core/watch/readout.ts'
import { whyFailed } from '../../src/core/watch/why-failed.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'
import { beginRun, runTo } from '../support/run-until.ts'

type Parts = Parameters<typeof projectOf>[0]
const wait = (ms: number) => ({ do: 'wait', ms })

const runUntil = (ms: number, parts: Parts) => runTo(beginRun(parts), ms)

describe('what is read off a run while it goes on', () => {
  it('is what its log has so far, and at its end what its profile says', () => {
    const simulation = new Simulation(
      projectOf({
        items: items(120, 60_000),
        network: { ...plainLink, downKbps: 3000, faults: [{ match: '*/1?.jpg', kind: 'status', status: 500 }] },
        steps: [wait(300), { do: 'flick', dpPerS: 6000 }, wait(900), { do: 'flick', dpPerS: -6000 }, wait(900)],
      }),
    )
    const { log } = simulation
    const reader = new ReadoutReader(log)
    const peaks: number[] = []
    let before = reader.now()
    while (!simulation.advance(40)) {
      const now = reader.now()
      for (const what of ['created', 'bound', 'frames', 'late'] as const)
        expect([what, now[what] >= before[what]]).toEqual([what, true])
      peaks.push(now.inFlight)
      before = now
    }
    const { facts, metrics } = profileRun(log)
    const last = reader.now()
    expect(last).toMatchObject({
      created: metrics['cells.created'],
      bound: metrics['cells.bound'],
      frames: metrics['frames.count'],
      late: metrics['frames.late'],
      inFlight: 0,
    })
    expect(Math.max(...peaks)).toBe(facts.peakActive)
    // Each cell that shows a picture reports the tier that it came from.
    const shown = facts.exposures.filter(isShown).filter(({ left }) => !left)
    expect(shown.length).toBeGreaterThan(3)
    for (const { cell, claim } of shown) expect(last.tiers.get(cell)).toBe(facts.claims[claim]!.tier)
  })
})

describe('a screen without pictures', () => {
  const failing = (kind: string, more = {}): Parts => ({
    network: { ...plainLink, faults: [{ match: '*', kind, ...more }] },
  })
  it.each<[string, number, Parts]>([
    ['everything is still on its way', 60, {}],
    [
      'no item has an address where the slot looks for it: bind the picture in Feed',
      60,
      { slot: { address: { type: 'pointer', at: '/elsewhere' } } },
    ],
    [
      'none of the addresses can be loaded: Feed says what is wrong with each',
      60,
      { items: [{ id: 1, photo: 'http://[broken' }] },
    ],
    [
      'all addresses are cleartext http, and none of their hosts is allowed: Feed allows them',
      60,
      { items: [{ id: 1, photo: 'http://a.example.test/1.jpg' }] },
    ],
    [
      'the app may not use the network, or the hosts are not among those that the relay was started for',
      60,
      { device: { ...freeDevice, granted: { network: false } } },
    ],
    ['there is no network', 400, { network: { ...plainLink, offline: [{ fromMs: 0, toMs: 4000 }] } }],
    ['the host answers every request with an error', 2000, failing('status', { status: 503 })],
    ['the host wants a header that it does not get', 2000, failing('status', { status: 401 })],
    ['the host redirects in a circle', 2000, failing('redirect-loop')],
    ['every transfer breaks off', 2000, failing('truncate', { afterBytes: 100 })],
    ['what comes is not pictures', 2000, failing('wrong-type')],
    ['the host does not answer in time', 4000, { ...failing('timeout'), loading: { timeoutMs: 1000 } }],
  ])('says so: %s', (sentence, ms, parts) => {
    expect(whyBlank(runUntil(ms, parts).run)).toBe(`Nothing is shown: ${sentence}.`)
  })

  it('is none as soon as one picture is there', () => {
    const { run, log } = runUntil(2000, {})
    expect(profileRun(log).metrics['pictures.exposures']).toBeGreaterThan(0)
    expect(whyBlank(run)).toBe(null)
  })

  it('in fast movement says that nothing may start', () => {
    const { run } = runUntil(60, {
      items: items(900),
      loading: { startBelowDpPerS: 100 },
      steps: [{ do: 'flick', dpPerS: 20_000 }, wait(2000)],
    })
    expect(whyBlank(run)).toBe('Nothing is shown: nothing may start while the list moves this fast.')
  })
})

it('a slot that has failed says why: by the status, the reason, or the network that is gone', () => {
  const { run } = runUntil(3000, {
    items: [
      { id: 0, photo: 'https://a.example.test/fine.jpg', bytes: 4000 },
      { id: 1, photo: 'https://a.example.test/missing.jpg' },
      { id: 2, photo: 'https://a.example.test/broken.jpg' },
      { id: 3, photo: 'http://[broken' },
    ],
    network: {
      ...plainLink,
      faults: [
        { match: '*missing*', kind: 'status', status: 410 },
        { match: '*broken*', kind: 'broken' },
      ],
    },
  })
  const cellOf = (index: number) => run.attachedCells.get(index)!.id
  expect(whyFailed(run, cellOf(1), 0)).toBe('Picture unavailable: 410')
  expect(whyFailed(run, cellOf(2), 0)).toBe('Picture unavailable: the picture cannot be decoded')
  expect(whyFailed(run, cellOf(3), 0)).toBe('Picture unavailable: the address is malformed')
  expect(whyFailed(run, 99, 0)).toBe(null)
  const away = runUntil(400, { network: { ...plainLink, offline: [{ fromMs: 0, toMs: 4000 }] } }).run
  expect(whyFailed(away, away.attachedCells.get(0)!.id, 0)).toBe('Picture unavailable: there was no network')
})
