import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lineOrder } from '../../src/core/loading/line-order.ts'
import {
  classOf,
  isBefore,
  liftedClass,
  rankOf,
  type Rank,
  type RankedClaim,
  type RankedRequest,
} from '../../src/core/loading/rank.ts'

const second = 1_000_000
const claim = (more: Partial<RankedClaim> = {}): RankedClaim => ({
  row: 10,
  priority: 1,
  state: 'open',
  onScreen: false,
  leftAt: null,
  held: false,
  ...more,
})
const request = (claims: RankedClaim[], more: Partial<RankedRequest> = {}): RankedRequest => ({
  id: 1,
  queuedAt: 0,
  claims,
  ...more,
})
/** Rows of 100; the middle of the screen is that of row 10. */
const view = (direction: 1 | -1 = 1) => ({ centre: 1050, direction, centreOfRow: (row: number) => row * 100 + 50 })
const policy = { order: 'nearest', agingMs: 2000 } as const

describe('the class of a request', () => {
  it('is that of its best claim: on screen, coming up, held or just left, all else', () => {
    expect(classOf(request([claim({ onScreen: true })]), 0)).toBe(0)
    expect(classOf(request([claim()]), 0)).toBe(1)
    expect(classOf(request([claim({ held: true })]), 0)).toBe(2)
    expect(classOf(request([claim({ leftAt: 0 })]), second - 1)).toBe(2)
    expect(classOf(request([claim({ leftAt: 0 })]), second)).toBe(3)
    expect(classOf(request([claim({ later: true })]), 0)).toBe(3)
    expect(classOf(request([claim({ onScreen: true, state: 'released' })]), 0)).toBe(3)
    expect(classOf(request([]), 0)).toBe(3)
    expect(classOf(request([claim({ held: true }), claim({ onScreen: true }), claim()]), 0)).toBe(0)
  })

  it('goes up by one for each while of aging in the queue, never above what is on screen', () => {
    const old = request([claim({ held: true })])
    expect([0, 1.9, 2, 4, 60].map((s) => liftedClass(old, s * second, policy))).toEqual([2, 2, 1, 0, 0])
    expect([0, 1.9, 2, 4, 60].map((s) => rankOf(old, s * second, view(), policy).class)).toEqual([2, 2, 1, 0, 0])
  })
})

describe('ranks within a class', () => {
  const best = (requests: RankedRequest[], order: 'nearest' | 'first-come' | 'last-come', direction: 1 | -1 = 1) =>
    [...requests]
      .sort((one, other) =>
        isBefore(
          rankOf(one, second, view(direction), { order, agingMs: 1e6 }),
          rankOf(other, second, view(direction), { order, agingMs: 1e6 }),
        )
          ? -1
          : 1,
      )
      .map(({ id }) => id)
  const at = (id: number, row: number, more: Partial<RankedClaim> = {}) =>
    request([claim({ row, ...more })], { id, queuedAt: id })

  it('go by the slot’s priority before anything else', () => {
    expect(best([at(1, 10, { priority: 2 }), at(2, 30, { priority: 0 }), at(3, 20)], 'nearest')).toEqual([2, 3, 1])
  })

  it('go by the distance from the middle, behind the motion counted twice', () => {
    expect(best([at(1, 13), at(2, 12), at(3, 9), at(4, 8)], 'nearest')).toEqual([2, 3, 1, 4])
    expect(best([at(1, 13), at(2, 12), at(3, 9), at(4, 8)], 'nearest', -1)).toEqual([3, 4, 2, 1])
  })

  it('go by who came first or last, and by number where all else is equal', () => {
    const three = [at(2, 3), at(1, 40), at(3, 10)]
    expect(best(three, 'first-come')).toEqual([1, 2, 3])
    expect(best(three, 'last-come')).toEqual([3, 2, 1])
    expect(best([at(7, 10), at(5, 10), at(6, 10)], 'nearest')).toEqual([5, 6, 7])
  })

  it('of a request are those of its best claim, whatever order its claims stand in', () => {
    const anyClaim = fc.record({
      row: fc.integer({ min: 0, max: 20 }),
      priority: fc.constantFrom(0, 1, 2),
      state: fc.constantFrom('open', 'released'),
      onScreen: fc.boolean(),
      held: fc.boolean(),
      leftAt: fc.constantFrom(null, 0, second),
    }) as unknown as fc.Arbitrary<RankedClaim>
    fc.assert(
      fc.property(
        fc.array(anyClaim, { maxLength: 5 }),
        fc.constantFrom('nearest', 'first-come', 'last-come'),
        fc.integer({ min: 0, max: 10 }),
        (claims, order, s) => {
          const rank = (own: RankedClaim[]) => rankOf(request(own), s * second, view(), { order, agingMs: 2000 })
          const all = rank(claims)
          expect(rank([...claims].reverse())).toEqual(all)
          // Nobody's claim alone ranks before all of them together, and one of them, or none, ranks the same.
          const alone: Rank[] = [rank([]), ...claims.map((each) => rank([each]))]
          for (const each of alone) expect(isBefore(each, all)).toBe(false)
          expect(alone).toContainEqual(all)
          expect(all.class).toBe(liftedClass(request(claims), s * second, { agingMs: 2000 }))
        },
      ),
      { seed: 20261123 },
    )
  })
})

describe('the order in which tiles wait', () => {
  it('numbers each tile once, those on screen before those coming up', () => {
    const tiles = lineOrder({ order: 'nearest', agingMs: 1000 }, 3, 4, 2)
    expect(tiles.map(({ place }) => place).sort((a, b) => a - b)).toEqual(Array.from({ length: 18 }, (_, i) => i + 1))
    const places = (rows: number[]) => tiles.filter(({ row }) => rows.includes(row)).map(({ place }) => place)
    expect(Math.max(...places([0, 1, 2, 3]))).toBe(12)
    expect(Math.min(...places([4, 5]))).toBe(13)
    // Downward, the row just below the middle is nearest.
    expect(places([2]).sort((a, b) => a - b)).toEqual([1, 2, 3])
  })

  it('is row by row when who came first goes first, and the other way round when the last does', () => {
    const rows = (order: 'first-come' | 'last-come') =>
      lineOrder({ order, agingMs: 1000 }, 2, 2, 0)
        .sort((a, b) => a.place - b.place)
        .map(({ row, column }) => `${row}${column}`)
    expect(rows('first-come')).toEqual(['00', '01', '10', '11'])
    expect(rows('last-come')).toEqual(['11', '10', '01', '00'])
  })
})
