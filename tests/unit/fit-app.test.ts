import { describe, expect, it } from 'vitest'
import { fitDevice } from '../../src/core/evidence/fit-device.ts'
import { fitLoading } from '../../src/core/evidence/fit-loading.ts'
import type { Observation } from '../../src/core/log/observed.ts'
import type { ClaimFact, Facts, RequestFact, TransferFact } from '../../src/core/profile/facts/facts.ts'
import { items, projectOf } from '../support/projects.ts'

const { device, loading } = projectOf({ items: items(1) })
const us = (ms: number) => 1000 * ms
const observing = (observed: Observation[], more: object = {}) => ({ head: { refreshHz: 60, observed }, ...more })

/** A made-up run: each request waits, runs and ends as it is given, in ms; a claim is let go at `leftMs`. */
interface Ran {
  wantedMs: number
  startMs: number
  endMs: number
  end?: RequestFact['end']
  leftMs?: number
  ahead?: boolean
}

function factsOf(ran: readonly Ran[], observed: Observation[] = ['wants', 'binds']): Facts {
  const transfers = ran.map(({ startMs, endMs }) => ({ startT: us(startMs), endT: us(endMs) }) as TransferFact)
  const requests = ran.map(
    ({ wantedMs, endMs, end = 'ready', ahead = false }, id) =>
      ({
        id,
        queueT: us(wantedMs),
        endT: us(endMs),
        end,
        transfers: [id],
        claims: ahead ? [] : [id],
        retries: 0,
      }) as unknown as RequestFact,
  )
  const claims = ran.map(
    ({ endMs, end = 'ready', leftMs }, request) =>
      ({
        request,
        why: '',
        releaseT: leftMs === undefined ? null : us(leftMs),
        deliverT: end === 'ready' && (leftMs === undefined || endMs < leftMs) ? us(endMs) : null,
      }) as ClaimFact,
  )
  return { transfers, requests, claims, peakPerHost: 4, log: observing(observed) } as unknown as Facts
}
const whyOf = (fit: { kept: { path: string; why: string }[] }, path: string) =>
  fit.kept.find((each) => each.path === path)?.why
/** So many requests, four at once, wanted in an order of their own. */
const inFours = (wanted: (i: number) => number, more: (i: number) => Partial<Ran> = () => ({})): Ran[] =>
  Array.from({ length: 20 }, (_, i) => {
    const startMs = 1000 + 100 * Math.floor(i / 4)
    return { wantedMs: wanted(i), startMs, endMs: startMs + 100, ...more(i) }
  })

describe('the rules of an app’s loader', () => {
  it('are found by how many run at once for longer than one end and the next begin take', () => {
    const ran = inFours((i) => i)
    expect(fitLoading(factsOf(ran), loading).loading.fetchSlots).toBe(4)
    // A fifth that appears for a moment, while the end of another is not reported yet, is not a slot.
    ran.push({ wantedMs: 0, startMs: 1095, endMs: 1100 })
    expect(fitLoading(factsOf(ran), loading).loading).toMatchObject({ fetchSlots: 4, fetchSlotsPerHost: 4 })
    ran.push({ wantedMs: 0, startMs: 1150, endMs: 1195 })
    expect(fitLoading(factsOf(ran), loading).loading.fetchSlots).toBe(5)
  })

  it('are found by the order in which requests start', () => {
    const order = (wanted: (i: number) => number) => fitLoading(factsOf(inFours(wanted)), loading)
    expect(order((i) => 10 * i).loading.order).toBe('first-come')
    expect(order((i) => 900 - 10 * i).loading.order).toBe('last-come')
    const mixed = order((i) => 10 * ((7 * i) % 20))
    expect(mixed.loading.order).toBe(loading.order)
    expect(whyOf(mixed, '/loading/order')).toBe('requests start in no order that is known here')
    const unseen = fitLoading(
      factsOf(
        inFours((i) => i),
        ['binds'],
      ),
      loading,
    )
    expect(whyOf(unseen, '/loading/order')).toContain('requests waited in line')
  })

  it('are found by what becomes of a request whose cell has left', () => {
    const left = (end: RequestFact['end'], afterMs: number) =>
      fitLoading(
        factsOf(
          inFours(
            () => 0,
            (i) => (i < 10 ? { end, leftMs: 900, startMs: 800, endMs: 900 + afterMs } : {}),
          ),
        ),
        loading,
      )
    expect(left('ready', 500).loading.cancel.when).toBe('never')
    expect(left('cancelled', 40).loading.cancel.when).toBe('recycle')
    expect(left('cancelled', 900).loading.cancel.when).toBe('zone')
    const none = fitLoading(factsOf(inFours(() => 0)), loading)
    expect(none.loading.cancel.when).toBe(loading.cancel.when)
    expect(whyOf(none, '/loading/cancel/when')).toContain('3 are needed')
  })

  it('are found by what is asked for that no cell is bound to', () => {
    expect(fitLoading(factsOf(inFours((i) => i)), loading).loading.ahead.amount).toBe(0)
    const ahead = fitLoading(
      factsOf(
        inFours(
          (i) => i,
          (i) => ({ ahead: i % 4 === 0 }),
        ),
      ),
      loading,
    )
    expect(ahead.loading.ahead.amount).toBe(loading.ahead.amount)
    expect(whyOf(ahead, '/loading/ahead/amount')).toBe('5 requests were for no cell that was bound')
  })

  it('stay as they were where too little was recorded', () => {
    const fit = fitLoading(factsOf(inFours((i) => i).slice(0, 3)), loading)
    expect([fit.loading, fit.fitted]).toEqual([loading, []])
    expect(whyOf(fit, '/loading/fetchSlots')).toBe('3 transfers were recorded; 5 are needed')
  })
})

describe('the costs of a device', () => {
  /** Frames of 1 ms, with 2 ms for each bind and 5 ms for each cell that is made. */
  const framesOf = (parts: readonly (readonly [binds: number, creates: number])[]) => {
    const begins = parts.map((_, i) => us(16.667 * i))
    return {
      frames: parts.map(([binds, creates], i) => ({
        begin: begins[i]!,
        presented: begins[i]! + us(16),
        work: us(1 + 2 * binds + 5 * creates),
      })),
      bindTimes: parts.flatMap(([binds], i) => Array.from({ length: binds }, () => begins[i]! + 10)),
      cells: parts.flatMap(([, creates], i) => Array.from({ length: creates }, () => ({ createT: begins[i]! + 5 }))),
      decodes: [] as object[],
    }
  }
  const all: Observation[] = ['frames', 'work', 'binds', 'creates']
  const parts = Array.from({ length: 30 }, (_, i) => [i % 3, i % 6 === 5 ? 1 : 0] as const)

  it('come apart: what a frame takes by itself, a bind, and a cell that is made', () => {
    const { device: fit } = fitDevice({ ...framesOf(parts), log: observing(all) } as unknown as Facts, device)
    expect(fit.costs).toMatchObject({ frameMs: 1, bindMs: 2, createMs: 5 })
    expect(fit).toMatchObject({ refreshHz: 60, speed: 1 })
  })

  it('stay where nothing shows them, with what would have to be recorded', () => {
    const fit = fitDevice({ ...framesOf(parts), log: observing([]) } as unknown as Facts, device)
    expect(fit.device.costs).toEqual(device.costs)
    expect(fit.fitted).toEqual([])
    expect(whyOf(fit, '/device/refreshHz')).toBe('no frames were recorded')
    expect(whyOf(fit, '/device/costs/bindMs')).toBe('no work of frames was recorded')
    expect(whyOf(fit, '/device/costs/decodeMs')).toBe('0 decodes have a size and a time; 5 are needed')
  })

  it('of a decode are its own and that of each px', () => {
    const sizes = [100, 200, 300, 400, 500, 600].map((width) => ({ width, height: 100 }))
    const decodes = sizes.map(({ width }, rendition) => ({ rendition, us: us(3) + 0.02 * width * 100 }))
    const facts = { ...framesOf(parts), decodes, log: observing(all, { renditions: sizes }) }
    const { costs } = fitDevice(facts as unknown as Facts, device).device
    expect(costs.decodeMs).toBeCloseTo(3, 3)
    expect(costs.decodeNsPerPx.webp).toBeCloseTo(20, 3)
  })
})
