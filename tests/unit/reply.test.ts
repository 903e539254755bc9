import { describe, expect, it } from 'vitest'
import { archiveBase, tileBytes } from '../../src/core/feed/tiles.ts'
import type { Fault } from '../../src/core/project/types.ts'
import { FaultPlan, flowOf, plainReply, type Reply } from '../../src/core/network/reply.ts'

const noHints = { bytes: null, widthPx: null, heightPx: null }
const tile = (rest: string) => plainReply(`${archiveBase}tiles/${rest}`, noHints, null, null)
const fault = (more: Partial<Fault>): Fault =>
  ({
    match: '*',
    kind: 'status',
    status: 503,
    rate: 1,
    times: null,
    afterBytes: 0,
    retryAfterS: null,
    fromMs: 0,
    toMs: null,
    ...more,
  }) as Fault

describe('what a server answers', () => {
  it('for a made-up tile follows from its address: px, encoding, bytes, and a tag of its own', () => {
    expect(tile('7?width=300&height=200&as=jpeg')).toMatchObject({
      status: 200,
      type: 'image/jpeg',
      width: 300,
      height: 200,
      codec: 'jpeg',
      bytes: tileBytes(7, 300, 200, 'jpeg'),
    })
    expect(tile('7?width=300')).toMatchObject({ width: 300, height: 300, codec: 'webp' })
    expect(tile('7')).toMatchObject({ width: 1200, height: 1200 })
    expect(tile('7?width=300').headers.etag).not.toBe(tile('8?width=300').headers.etag)
    for (const wrong of ['x', '99999999', '7?width=0', '7?width=5000', '7?as=gif', '7?frames=2&as=jpeg'])
      expect([wrong, tile(wrong).status]).toEqual([wrong, 404])
  })

  it('is 304 without a byte when the tag is still right, and the whole again when it is not, over and over', () => {
    const address = `${archiveBase}tiles/9?width=64`
    const first = plainReply(address, noHints, null, null)
    for (let i = 0; i < 3; i++) {
      expect(plainReply(address, noHints, first.headers.etag!, null)).toMatchObject({
        status: 304,
        bytes: 0,
        type: '',
        headers: first.headers,
      })
      expect(plainReply(address, noHints, '"other"', null)).toEqual(first)
      expect(plainReply(address, noHints, null, null)).toEqual(first)
    }
  })

  it('says how long a tile is good: a day, or as its address asks', () => {
    expect(tile('1').headers['cache-control']).toBe('public, max-age=86400')
    expect(tile('1?fresh=5').headers['cache-control']).toBe('public, max-age=5')
    expect(tile('1?fresh=5&stale=60').headers['cache-control']).toBe('public, max-age=5, stale-while-revalidate=60')
  })

  it('for another host is what a live run has seen, else what the item says, else an estimate by its px', () => {
    const other = (hints: object, seen: { bytes: number; width: number; height: number } | null = null) =>
      plainReply('https://pictures.example.test/a.png', { ...noHints, ...hints }, null, seen)
    expect(other({})).toMatchObject({ width: 1200, height: 1200, bytes: 1200 * 1200 * 0.2, codec: 'png' })
    expect(other({ bytes: 5000, widthPx: 100, heightPx: 50 })).toMatchObject({ width: 100, height: 50, bytes: 5000 })
    expect(other({ bytes: 5000, widthPx: 100, heightPx: 50 }, { bytes: 77, width: 10, height: 20 })).toMatchObject({
      width: 10,
      height: 20,
      bytes: 77,
    })
  })

  it('for a picture of the user’s own that the origin resizes has bytes by the share of its px', () => {
    const own = (query: string) =>
      plainReply(`${archiveBase}pictures/a.jpg?${query}`, { bytes: 100_000, widthPx: 1000, heightPx: 500 }, null, null)
    expect(own('')).toMatchObject({ width: 1000, height: 500, bytes: 100_000 })
    expect(own('width=100')).toMatchObject({ width: 100, height: 50, bytes: 1000 })
    // Enough to cover what is asked for, and cut to it; never larger than it is.
    expect(own('width=100&height=100')).toMatchObject({ width: 100, height: 100 })
    expect(own('width=4000')).toMatchObject({ width: 1000, height: 500 })
  })
})

describe('faults', () => {
  const plain = (): Reply => tile('7?width=100')
  const address = `${archiveBase}tiles/7?width=100`

  it('strike by pattern, in their time, as often as they may', () => {
    const plan = new FaultPlan([fault({ match: '*/tiles/7?width=*', times: 2, fromMs: 100, toMs: 900 })], 1)
    const status = (at: string, ms: number) => plan.apply(at, plain(), ms).status
    expect(status(address, 99)).toBe(200)
    expect(status(`${archiveBase}tiles/17x`, 200)).toBe(200)
    expect([status(address, 100), status(address, 200), status(address, 300)]).toEqual([503, 503, 200])
    // Each address has its own count.
    expect(status(`${archiveBase}tiles/7?width=200`, 899)).toBe(503)
    expect(status(`${archiveBase}tiles/7?width=300`, 900)).toBe(200)
  })

  it('strike as often as their rate says, the same for the same seed', () => {
    const struck = (seed: number, rate: number) => {
      const plan = new FaultPlan([fault({ rate })], seed)
      return Array.from({ length: 4000 }, (_, i) =>
        plan.apply(`${address}${i}`, plain(), 0).status === 503 ? i : -1,
      ).filter((i) => i >= 0)
    }
    expect(struck(3, 0.25)).toEqual(struck(3, 0.25))
    expect(struck(3, 0.25)).not.toEqual(struck(4, 0.25))
    expect(Math.abs(struck(3, 0.25).length / 4000 - 0.25)).toBeLessThan(0.03)
    expect([struck(3, 0).length, struck(3, 1).length]).toEqual([0, 4000])
  })

  it('spoil a reply each in its way, and leave the plain one as it was', () => {
    const before = JSON.stringify(plain())
    const spoilt = (more: Partial<Fault>) => new FaultPlan([fault(more)], 1).apply(address, plain(), 0)
    expect(spoilt({ retryAfterS: 3 }).headers).toEqual({ 'retry-after': '3' })
    expect(spoilt({ kind: 'wrong-type' }).type).toBe('text/html')
    expect(spoilt({ kind: 'empty' }).bytes).toBe(0)
    expect(spoilt({ kind: 'huge' }).bytes).toBeGreaterThan(40e6)
    const { bytes } = plain()
    expect(flowOf(plain())).toEqual({ bytes, silent: false })
    expect(flowOf(spoilt({ kind: 'timeout' }))).toEqual({ bytes, silent: true })
    expect(flowOf(spoilt({ kind: 'stall', afterBytes: 500 }))).toEqual({ bytes, silent: false, stallAt: 500 })
    expect(flowOf(spoilt({ kind: 'stall', afterBytes: 1e9 })).stallAt).toBe(bytes - 1)
    expect(flowOf(spoilt({ kind: 'truncate', afterBytes: 0 })).bytes).toBe(Math.floor(bytes / 2))
    expect(flowOf(spoilt({ kind: 'truncate', afterBytes: 300 })).bytes).toBe(300)
    expect(flowOf(spoilt({ kind: 'redirect-loop' })).bytes).toBe(0)
    expect(flowOf(spoilt({ kind: 'drip' })).cap).toBeLessThan(0.01)
    expect(JSON.stringify(plain())).toBe(before)
  })
})
