import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DiskTier, type DiskEntry } from '../../src/core/loading/disk-tier.ts'
import type { Loading } from '../../src/core/project/types.ts'

const address = 'https://pictures.example.test/a.jpg'
const byHeaders: Loading['diskFreshness'] = { type: 'headers' }

function tierOf(budget: number, freshness: Loading['diskFreshness'] = byHeaders) {
  const clock = { ms: 0 }
  const evicted: number[] = []
  const tier = new DiskTier(
    budget,
    freshness,
    () => clock.ms,
    (asset) => evicted.push(asset),
  )
  const put = (
    asset: number,
    bytes: number,
    headers: Record<string, string> = { 'cache-control': 'max-age=60' },
    etag: string | null = '"1"',
  ) =>
    tier.put(asset, {
      identity: `${address}?${asset}`,
      host: 'pictures.example.test',
      bytes,
      etag,
      writtenMs: clock.ms,
      headers,
    })
  return { tier, clock, evicted, put }
}

describe('what may lie on disk', () => {
  it('is whole replies that their headers let be stored', () => {
    const { tier } = tierOf(1000)
    expect(tier.storable(address, 200, { 'cache-control': 'max-age=5' })).toBe(true)
    expect(tier.storable(address, 200, { 'cache-control': 'no-store' })).toBe(false)
    expect(tier.storable(address, 206, { 'cache-control': 'max-age=5' })).toBe(false)
    expect(tier.storable(address, 404, {})).toBe(false)
    // A private reply is the app's own: nobody else reads this tier.
    expect(tier.storable(address, 200, { 'cache-control': 'private, max-age=5' })).toBe(true)
  })

  it('is everything when the project counts age or uses, and nothing without a budget', () => {
    expect(tierOf(1000, { type: 'age', s: 5 }).tier.storable(address, 200, { 'cache-control': 'no-store' })).toBe(true)
    expect(tierOf(0).tier.storable(address, 200, { 'cache-control': 'max-age=5' })).toBe(false)
  })
})

describe('how long a copy is fresh', () => {
  it('is what its headers say, then it may be served while it is revalidated, then it may not', () => {
    const { tier, clock, put } = tierOf(1000)
    put(1, 100, { 'cache-control': 'max-age=10, stale-while-revalidate=20' })
    const at = (ms: number) => {
      clock.ms = ms
      return tier.look(1)
    }
    expect(at(9999)).toEqual({ fresh: true, bytes: 100 })
    expect(at(10_000)).toEqual({ fresh: false, etag: '"1"', bytes: 100, mayServeStale: true })
    expect(at(30_000)).toEqual({ fresh: false, etag: '"1"', bytes: 100, mayServeStale: false })
  })

  it('counts from the age that a reply had when it came', () => {
    const { tier, clock, put } = tierOf(1000)
    put(1, 100, { 'cache-control': 'max-age=10', age: '4' })
    clock.ms = 5999
    expect(tier.look(1)!.fresh).toBe(true)
    clock.ms = 6001
    expect(tier.look(1)!.fresh).toBe(false)
  })

  it('is an age or a count of uses where the project says so, whatever the headers', () => {
    const aged = tierOf(1000, { type: 'age', s: 2 })
    aged.put(1, 100, { 'cache-control': 'no-cache' })
    aged.clock.ms = 2000
    expect(aged.tier.look(1)!.fresh).toBe(true)
    aged.clock.ms = 2001
    expect(aged.tier.look(1)).toMatchObject({ fresh: false, mayServeStale: false })
    const counted = tierOf(1000, { type: 'count', n: 2 })
    counted.put(1, 100)
    expect([1, 2, 3].map(() => counted.tier.look(1)!.fresh)).toEqual([true, true, false])
    counted.tier.renew(1, {})
    expect([1, 2, 3].map(() => counted.tier.look(1)!.fresh)).toEqual([true, true, false])
  })

  it('begins anew with a 304, by the headers that it brings', () => {
    const { tier, clock, put } = tierOf(1000)
    put(1, 100, { 'cache-control': 'max-age=10', etag: '"1"' })
    clock.ms = 50_000
    expect(tier.look(1)!.fresh).toBe(false)
    tier.renew(1, { 'cache-control': 'max-age=100' })
    clock.ms = 149_999
    expect(tier.look(1)!.fresh).toBe(true)
    expect(tier.entry(1)).toMatchObject({ writtenMs: 50_000, headers: { 'cache-control': 'max-age=100', etag: '"1"' } })
    tier.renew(2, {})
    expect(tier.entry(2)).toBeUndefined()
  })
})

describe('the budget of the disk tier', () => {
  it('pushes the least recently used out, reports each, and takes nothing that is larger than all of it', () => {
    const { tier, evicted, put } = tierOf(300)
    put(1, 100)
    put(2, 100)
    put(3, 100)
    tier.look(1)
    put(4, 150)
    expect(evicted).toEqual([2, 3])
    expect(tier.list().map(({ bytes }) => bytes)).toEqual([100, 150])
    put(5, 301)
    expect(evicted).toEqual([2, 3])
    expect([tier.look(5), tier.bytes]).toEqual([null, 250])
    // A copy that is written again replaces the one before it, and that one is reported as gone.
    put(1, 120)
    expect([evicted, tier.bytes]).toEqual([[2, 3, 1], 270])
  })

  it('is never passed, and what it says it holds is what it holds', () => {
    const step = fc.record({
      asset: fc.integer({ min: 0, max: 9 }),
      bytes: fc.integer({ min: 1, max: 400 }),
      does: fc.constantFrom('put', 'look', 'drop'),
    })
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 900 }), fc.array(step, { maxLength: 60 }), (budget, steps) => {
        const { tier, evicted, put } = tierOf(budget)
        /** What is there, least recently used first: a plain list. */
        let held: { asset: number; bytes: number }[] = []
        let gone = 0
        for (const { asset, bytes, does } of steps) {
          const known = held.find((each) => each.asset === asset)
          const rest = held.filter((each) => each !== known)
          if (does === 'put') {
            put(asset, bytes)
            if (known) gone++
            held = bytes > budget ? rest : [...rest, { asset, bytes }]
            while (held.reduce((sum, each) => sum + each.bytes, 0) > budget) {
              held.shift()
              gone++
            }
          } else if (does === 'look') {
            expect(tier.look(asset)?.bytes ?? null).toBe(known?.bytes ?? null)
            if (known) held = [...rest, known]
          } else {
            tier.drop(asset)
            held = rest
          }
          expect(tier.list().map(({ bytes: size }: DiskEntry) => size)).toEqual(held.map((each) => each.bytes))
          expect(tier.bytes).toBe(held.reduce((sum, each) => sum + each.bytes, 0))
          expect(tier.bytes).toBeLessThanOrEqual(budget)
        }
        expect(evicted).toHaveLength(gone)
      }),
      { seed: 20261123 },
    )
  })
})
