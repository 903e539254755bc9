import { describe, expect, it } from 'vitest'
import { fitNetwork } from '../../src/core/evidence/fit-network.ts'
import type { Facts, TransferFact } from '../../src/core/profile/facts/facts.ts'
import { projectOf, items } from '../support/projects.ts'

const base = projectOf({ items: items(1) }).network

/** A transfer that was answered after its wait, and received so many bytes at an even rate; times in ms. */
function transfer(startMs: number, waitMs: number, receiveMs: number, bytes: number, more: Partial<TransferFact> = {}) {
  const firstByteT = 1000 * (startMs + waitMs)
  const startT = 1000 * startMs
  const made = { startT, connectedT: startT, firstByteT, endT: firstByteT + 1000 * receiveMs, bytes, end: 'complete' }
  return { ...made, ...more } as TransferFact
}
const fit = (transfers: TransferFact[], more: Partial<Facts> = {}) =>
  fitNetwork({ transfers, peakPerHost: 1, ...more } as Facts, base)
const waiting = (ms: number, n: number) => Array.from({ length: n }, (_, i) => transfer(3000 * i, ms, 500, 100_000))
const why = (fitted: ReturnType<typeof fit>, path: string) => fitted.kept.find((each) => each.path === path)?.why

describe('the rate of a link', () => {
  it('is what it carries while three share it, whatever one alone was held back to', () => {
    // Three at a time, 250,000 bytes a second in all; then one alone, whose window lets it have a tenth of that.
    const shared = Array.from({ length: 4 }, (_, round) =>
      [0, 1, 2].map((lane) => transfer(2000 * round + lane, 60 - lane, 1000, 83_333)),
    ).flat()
    const alone = Array.from({ length: 6 }, (_, i) => transfer(10_000 + 500 * i, 60, 400, 10_000))
    const { network, fitted } = fit([...shared, ...alone])
    expect(network.downKbps).toBeGreaterThan(1990)
    expect(network.downKbps).toBeLessThan(2010)
    expect(fitted.find(({ path }) => path === '/network/downKbps')).toMatchObject({ samples: 18, confidence: 'fair' })
  })

  it('is a mean: where the bytes of a transfer lie within its time is not told', () => {
    // A long one beside short ones that follow each other: its even rate is above the link's now, below it then.
    const long = transfer(0, 50, 4000, 500_000)
    const short = Array.from({ length: 8 }, (_, i) => transfer(500 * i, 50, 500, i % 2 === 0 ? 90_000 : 30_000))
    const beside = Array.from({ length: 8 }, (_, i) => transfer(500 * i, 50, 500, i % 2 === 0 ? 30_000 : 30_000))
    const { network } = fit([long, ...short, ...beside])
    const bytes = 500_000 + 8 * 60_000 + 8 * 30_000
    expect(network.downKbps / ((8 * bytes) / 4000)).toBeCloseTo(1, 1)
  })

  it('is found from two where never three were under way, and from one alone where there were never two', () => {
    const pairs = Array.from({ length: 6 }, (_, i) => [
      transfer(1000 * i, 60, 800, 40_000),
      transfer(1000 * i, 60, 800, 60_000),
    ]).flat()
    expect(fit(pairs).network.downKbps).toBe(1000)
    expect(fit(waiting(60, 8)).network.downKbps).toBe(1600)
  })

  it('stays what it was where too little was recorded, and says so', () => {
    const fitted = fit([transfer(0, 60, 100, 5000), transfer(400, 60, 100, 5000)])
    expect(fitted.network.downKbps).toBe(base.downKbps)
    expect(why(fitted, '/network/downKbps')).toBe('2 stretches show how fast bytes arrived; 5 are needed')
  })
})

describe('the way to a host and back', () => {
  it('is the wait for a first byte, less what the server takes', () => {
    const { network, fitted } = fit(waiting(base.thinkMs + 80, 12))
    expect(network.rttMs).toBeCloseTo(80, 1)
    expect(fitted.find(({ path }) => path === '/network/rttMs')!.samples).toBe(12)
  })

  it('counts those that were given up before an answer: left out, it would come out too short', () => {
    const waits = [100, 120, 140, 160, 180, 200, 220, 240, 260, 280]
    const whole = waits.map((ms, i) => transfer(3000 * i, ms, 500, 100_000))
    // Who waited for longest was let go after 150 ms, as an app does that scrolls on.
    const letGo = whole.map((each, i) =>
      i < 6 ? each : { ...each, firstByteT: null, endT: each.startT + 150_000, bytes: 0, end: 'cut' as const },
    )
    const [long, short] = [fit(letGo).network.rttMs, fit(whole.slice(0, 6)).network.rttMs]
    expect(long).toBeGreaterThan(short)
    expect(long).toBeLessThanOrEqual(fit(whole).network.rttMs)
  })

  it('is counted from the connection on, and what that took is given in round trips', () => {
    const { network } = fit(
      Array.from({ length: 6 }, (_, i) =>
        transfer(3000 * i, 300 + base.thinkMs, 500, 90_000, { connectedT: 1000 * (3000 * i + 200) }),
      ),
    )
    expect([network.rttMs, network.setupRtts]).toEqual([100, 2])
  })

  it('leaves connections as they were where more were never seen at once', () => {
    const { kept, network } = fit(waiting(90, 6))
    expect(network.connectionsPerHost).toBe(base.connectionsPerHost)
    expect(kept.map(({ path }) => path)).toContain('/network/protocol')
    const more = fit(waiting(90, 6), { peakPerHost: base.connectionsPerHost + 3 })
    if (base.protocol === 'h1') expect(more.network.connectionsPerHost).toBe(base.connectionsPerHost + 3)
    else expect(more.network.connectionsPerHost).toBe(base.connectionsPerHost)
  })
})
