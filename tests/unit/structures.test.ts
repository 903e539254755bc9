import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MemoryTier } from '../../src/core/loading/memory-tier.ts'
import { RowIndex } from '../../src/core/layout/row-index.ts'
import { Recycler, type RecycledCell } from '../../src/core/list/recycler.ts'
import { EventHeap } from '../../src/core/worlds/virtual/event-heap.ts'

const height = fc.integer({ min: 1, max: 500 })

describe('the row index', () => {
  it('finds, sums and changes like a plain list does', () => {
    const change = fc.oneof(
      fc.record({ op: fc.constant('set' as const), at: fc.nat(300), height }),
      fc.record({ op: fc.constant('append' as const), height }),
    )
    fc.assert(
      fc.property(
        fc.array(height, { minLength: 1, maxLength: 200 }),
        fc.boolean(),
        fc.array(change, { maxLength: 60 }),
        fc.nat(60_000),
        (heights, uniform, changes, position) => {
          const plain = uniform ? heights.map(() => heights[0]!) : [...heights]
          const index = new RowIndex()
          if (uniform) index.fillUniform(plain.length, plain[0]!)
          else index.fill(Float64Array.from(plain))
          for (const each of changes) {
            if (each.op === 'append') plain.push(each.height)
            else plain[each.at % plain.length] = each.height
            if (each.op === 'append') index.append(each.height)
            else index.setHeight(each.at % plain.length, each.height)
          }
          const tops = plain.map((_, i) => plain.slice(0, i).reduce((sum, one) => sum + one, 0))
          expect(index.count).toBe(plain.length)
          expect(plain.map((_, i) => index.topOf(i))).toEqual(tops)
          expect(index.total).toBe(tops.at(-1)! + plain.at(-1)!)
          const covering = tops.findLastIndex((top) => top <= position)
          expect(index.rowAt(position)).toBe(covering)
        },
      ),
      { numRuns: 300 },
    )
  })

  it('holds a million rows of varying height', () => {
    const heights = Float64Array.from({ length: 1_000_000 }, (_, i) => 50 + (i % 97))
    const index = new RowIndex()
    index.fill(heights)
    index.setHeight(500_000, 1000)
    const before = heights.slice(0, 750_000).reduce((sum, one) => sum + one, 0) - heights[500_000]! + 1000
    expect(index.topOf(750_000)).toBe(before)
    expect(index.rowAt(before)).toBe(750_000)
    expect(index.rowAt(before - 1)).toBe(749_999)
  })
})

describe('the event heap', () => {
  it('gives events by instant, first come first among equals, without the cancelled ones', () => {
    fc.assert(
      fc.property(fc.array(fc.record({ time: fc.nat(50), cancel: fc.boolean() }), { maxLength: 300 }), (events) => {
        const heap = new EventHeap()
        const seen: number[] = []
        const handles = events.map(({ time }, i) => heap.push(time, () => seen.push(i)))
        for (const [i, { cancel }] of events.entries()) if (cancel) heap.cancel(handles[i]!)
        while (heap.nextTime() < Infinity) heap.pop()()
        const expected = events
          .map((event, i) => ({ ...event, i }))
          .filter(({ cancel }) => !cancel)
          .sort((a, b) => a.time - b.time || a.i - b.i)
        expect(seen).toEqual(expected.map(({ i }) => i))
      }),
    )
  })

  it('keeps the order when its sequence is numbered anew, and lets a stale handle pass', () => {
    const heap = new EventHeap()
    const seen: string[] = []
    heap.push(10, () => seen.push('first'))
    const old = heap.push(1, () => undefined)
    heap.pop()()
    for (let i = 0; i < 2 ** 20 + 5; i++) heap.cancel(heap.push(5, () => seen.push('never')))
    heap.push(10, () => seen.push('second'))
    heap.cancel(old)
    while (heap.nextTime() < Infinity) heap.pop()()
    expect(seen).toEqual(['first', 'second'])
  })
})

describe('the memory tier', () => {
  it('is never over its budget, and never drops what a cell holds', () => {
    const act = fc.record({ op: fc.constantFrom('hold', 'letGo', 'keep', 'clear'), rendition: fc.nat(12) })
    fc.assert(
      fc.property(fc.array(act, { maxLength: 200 }), fc.nat(3000), (acts, budget) => {
        const held = new Map<number, number>()
        const size = (rendition: number) => 100 + rendition * 70
        const tier = new MemoryTier(budget, (rendition) => expect(held.get(rendition) ?? 0).toBe(0))
        for (const { op, rendition } of acts) {
          const count = held.get(rendition) ?? 0
          if (op === 'hold') {
            held.set(rendition, count + 1)
            tier.hold(rendition, size(rendition))
          } else if (op === 'letGo' && count > 0) {
            held.set(rendition, count - 1)
            tier.letGo(rendition)
          } else if (op === 'keep') tier.keep(rendition, size(rendition))
          else if (op === 'clear') tier.clear()
          expect(tier.tierBytes).toBeLessThanOrEqual(budget)
          for (const [each, claims] of held) if (claims > 0) expect(tier.has(each)).toBe(true)
          const bound = [...held].filter(([, claims]) => claims > 0).reduce((sum, [each]) => sum + size(each), 0)
          expect(tier.boundBytes).toBe(bound)
        }
      }),
    )
  })
})

describe('the recycler', () => {
  it('gives a held cell back as it was, then a pooled one, then a new one', () => {
    const unbound: number[] = []
    const recycler = new Recycler<RecycledCell>(
      1,
      (id, kind) => ({ id, kind, index: -1, row: -1, column: 0, state: 'pooled' }),
      (cell) => unbound.push(cell.id),
    )
    const first = recycler.attach(0, 0, 0, 0)
    const second = recycler.attach(1, 0, 1, 0)
    expect([first.from, second.from]).toEqual(['new', 'new'])
    expect(recycler.detach(first.cell, true)).toBe('held')
    expect(recycler.attach(0, 0, 0, 0)).toEqual({ cell: first.cell, from: 'held' })
    recycler.detach(first.cell, true)
    recycler.detach(second.cell, true)
    expect(unbound).toEqual([0])
    expect(recycler.attach(7, 0, 7, 0)).toEqual({ cell: first.cell, from: 'pool' })
    expect(recycler.attach(8, 1, 8, 0).from).toBe('new')
  })
})
