import { describe, expect, it } from 'vitest'
import { profileRun } from '../../src/core/profile/profile.ts'
import type { Facts } from '../../src/core/profile/facts/facts.ts'
import { decay } from '../../src/core/numbers/decay.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { glide } from '../../src/core/scrolling/flick.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const noAhead = { ahead: { amount: 0 }, memoryMb: 32, diskMb: 0 }

/** Simulates and reads what happened; times in ms from the start of the first transfer. */
function drive(parts: Parameters<typeof projectOf>[0]): Facts {
  return profileRun(simulate(projectOf({ device: freeDevice, loading: noAhead, ...parts })).log).facts
}

const lasted = ({ transfers }: Facts) => transfers.map(({ startT, endT }) => (endT - startT) / 1000)

describe('one transfer', () => {
  const one = items(1, 100_000)

  it('takes a round trip, the think time and its bytes over the rate', () => {
    const [ms] = lasted(drive({ items: one, network: { ...plainLink, thinkMs: 30 } }))
    expect(ms).toBeCloseTo(100 + 30 + 100_000 / 1000, 2)
  })

  it('pays set-up round trips on a new connection', () => {
    const [ms] = lasted(drive({ items: one, network: { ...plainLink, setupRtts: 3 } }))
    expect(ms).toBeCloseTo(3 * 100 + 100 + 100, 2)
  })

  it('starts slowly: 14,600 bytes in the first round trip, twice as many in each next one', () => {
    const [ms] = lasted(drive({ items: one, network: { ...plainLink, slowStart: true } }))
    // Three whole windows carry 14.6 + 29.2 kB, then 56.2 kB go at 58.4 kB a round trip; the link (100 kB) never binds.
    const rest = 100_000 - 14_600 - 29_200
    expect(ms).toBeCloseTo(100 + 100 + 100 + (rest / 58_400) * 100, 2)
  })

  it('is held back by the link once the window is wider than it', () => {
    const [ms] = lasted(drive({ items: one, network: { ...plainLink, slowStart: true, downKbps: 2000 } }))
    // The link carries 25 kB a round trip: 14.6 kB in the first, then at the link's rate.
    expect(ms).toBeCloseTo(100 + 100 + ((100_000 - 14_600) / 25_000) * 100, 2)
  })
})

describe('several transfers', () => {
  const rows = (count: number) => ({ items: items(count, 50_000), device: { ...freeDevice, heightDp: count * 100 } })

  it('share one link equally: n equal ones take n times as long', () => {
    for (const n of [2, 3, 5]) {
      const ends = lasted(drive({ ...rows(n), network: plainLink }))
      expect(ends).toHaveLength(n)
      for (const ms of ends) expect(ms).toBeCloseTo(100 + n * 50, 1)
    }
  })

  it('wait in line for k slots: 6 over 2 slots end in three pairs', () => {
    const facts = drive({ ...rows(6), network: plainLink, loading: { ...noAhead, fetchSlots: 2 } })
    const first = facts.transfers[0]!.startT
    const ends = facts.transfers.map((each) => (each.endT - first) / 1000)
    for (const [i, ms] of ends.entries()) expect(ms).toBeCloseTo((Math.floor(i / 2) + 1) * 200, 1)
    expect(facts.peakActive).toBe(2)
  })

  it('need a connection each with h1: a third waits for one of two', () => {
    const facts = drive({ ...rows(3), network: { ...plainLink, protocol: 'h1', connectionsPerHost: 2, setupRtts: 1 } })
    // Two pay set-up and share the link; the third reuses a connection.
    expect(lasted(facts).map(Math.round)).toEqual([300, 300, 450])
  })

  it('a jump cancels those on their way: what had been received, and what was still in flight', () => {
    const facts = drive({
      items: items(100, 400_000),
      device: { ...freeDevice, heightDp: 100 },
      network: plainLink,
      steps: [
        { do: 'wait', ms: 300 },
        { do: 'jump', row: 50 },
        { do: 'wait', ms: 2000 },
      ],
    })
    const cut = facts.transfers.filter((each) => each.end === 'cut')
    const [first] = cut
    expect(cut).toHaveLength(1)
    const received = (first!.endT - first!.startT) / 1000 - 100
    expect(first!.bytes).toBe(Math.floor(received * 1000 + 1e-6))
    expect(first!.inFlight).toBe(50_000)
  })
})

describe('the main thread', () => {
  it('presents a frame at the first refresh after its work, and says by how much it was late', () => {
    // Each bind costs 45 ms: the first frame binds one row and is due after 16.7 ms, so it misses two refreshes.
    const facts = drive({
      items: items(1),
      device: { costs: { ...freeDevice.costs, bindMs: 45 } },
      network: plainLink,
    })
    const [frame] = facts.frames
    expect(frame!.work).toBe(45_000)
    expect(frame!.due - frame!.begin).toBe(16_667)
    expect(frame!.presented - frame!.begin).toBe(50_000)
    const { metrics } = profileRun(facts.log)
    expect(metrics['frames.late']).toBe(1)
    expect(metrics['frames.missed']).toBe(2)
  })

  it('spends what the device says on decoding, less when a picture is reduced to half', () => {
    const decodeMs = (px: number) => {
      const device = { costs: { ...freeDevice.costs, decodeMs: 1, decodeNsPerPx: { jpeg: 10 }, reducedFactor: 0.4 } }
      return drive({ items: items(1, 1000, px), device, network: plainLink }).decodes[0]!.us / 1000
    }
    expect(decodeMs(100)).toBeCloseTo(1 + 0.1, 3)
    expect(decodeMs(150)).toBeCloseTo(1 + 0.225, 3)
    expect(decodeMs(200)).toBeCloseTo(1 + 0.4 * 0.4, 3)
  })

  it('ends the app when its memory passes the heap', () => {
    const facts = drive({
      items: items(40, 5000, 2000),
      slot: { decodeAt: { type: 'original' } },
      device: { ...freeDevice, heapMb: 60 },
      network: plainLink,
    })
    expect(facts.endWhy).toBe('heap')
    expect(profileRun(facts.log).metrics['memory.ended']).toBe(1)
  })
})

describe('a flick', () => {
  const flick = { curve: 'exponential', timeMs: 325, stopDpPerS: 20 } as const

  it('goes v × τ × (1 − stop ÷ v) and is at rest after τ × ln(v ÷ stop)', () => {
    for (const v of [500, 3000, -9000]) {
      const distance = v * 0.325 * (1 - 20 / Math.abs(v))
      const time = 325 * Math.log(Math.abs(v) / 20)
      expect(glide(v, time + 0.01, flick)).toEqual({
        moved: expect.closeTo(distance, 6) as number,
        speed: 0,
        atRest: true,
      })
      expect(glide(v, time - 1, flick).atRest).toBe(false)
    }
    expect(glide(4000, 1e6, { ...flick, curve: 'steady' }).moved).toBe(1300)
  })

  it('brings so many rows on screen as its distance says, and runs on through a wait', () => {
    const facts = drive({
      items: items(400),
      network: plainLink,
      device: { ...freeDevice, heightDp: 500 },
      steps: [
        { do: 'flick', dpPerS: 6000 },
        { do: 'wait', ms: 50 },
      ],
    })
    const distance = 6000 * 0.325 * (1 - 20 / 6000)
    expect(facts.scrolls.at(-1)!.top / 1024).toBeCloseTo(distance, 2)
    expect(facts.exposures).toHaveLength(Math.floor((distance + 500) / 100) + 1)
  })

  it('is caught by any other step', () => {
    const facts = drive({
      items: items(400),
      network: plainLink,
      steps: [{ do: 'flick', dpPerS: 6000 }, { do: 'wait', ms: 100 }, { do: 'collect' }, { do: 'wait', ms: 500 }],
    })
    expect(facts.scrolls.at(-1)!.top / 1024).toBeCloseTo(6000 * 0.325 * (1 - Math.exp(-100 / 325)), 1)
  })
})

describe('decay', () => {
  it('is e^−x to 13 digits', () => {
    for (let x = 0; x < 30; x += 0.0371) expect(decay(x) / Math.exp(-x)).toBeCloseTo(1, 12)
    expect([decay(-1), decay(0), decay(1e9)]).toEqual([1, 1, 0])
  })
})
