import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FeedList } from '../../src/core/feed/feed-list.ts'
import { cellWidthOf, isUniform, layOutCell, lineHeight } from '../../src/core/layout/cell-geometry.ts'
import { ListLayout } from '../../src/core/layout/list-layout.ts'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import type { Cell, Screen } from '../../src/core/project/types.ts'

function screenOf(screen: object): Screen {
  const outcome = parseProject({
    format: 'tile-tug/project',
    version: 1,
    name: 'test',
    screens: [{ id: 'list', ...screen }],
  })
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project.screens[0]!
}
const cellOf = (cell: object): Cell => screenOf({ cells: [cell] }).cells[0]!
const unknown = () => null

describe('a cell', () => {
  it('with a picture on top is as tall as the picture by its ratio and its texts', () => {
    const cell = cellOf({
      arrangement: 'picture-top',
      height: { type: 'content' },
      slots: [{ size: { type: 'aspect', ratio: 2 } }],
      texts: [{ at: '/title', sizeDp: 10, lines: 1, spareDp: 0 }],
    })
    const { slots, texts, heightDp } = layOutCell(cell, 300, { title: 'short' }, unknown)
    expect(slots).toEqual([{ x: 0, y: 0, width: 300, height: 150 }])
    expect(texts[0]!.y).toBe(154)
    expect(texts[0]!.height).toBeCloseTo(10 * lineHeight, 9)
    expect(heightDp).toBeCloseTo(154 + 10 * lineHeight, 9)
  })

  it('takes as many lines as its text needs, up to as many as it may', () => {
    const cell = cellOf({
      arrangement: 'picture-top',
      height: { type: 'content' },
      slots: [{ size: { type: 'fixed', widthDp: 10, heightDp: 10 } }],
      texts: [{ at: '/title', sizeDp: 10, lines: 3, spareDp: 0 }],
    })
    const lines = (title: unknown) =>
      layOutCell(cell, 52, { title } as never, unknown).texts[0]!.height / (10 * lineHeight)
    // Ten letters of 5.2 dp to a line.
    expect([0, 10, 11, 20, 21, 500].map((count) => Math.round(lines('x'.repeat(count))))).toEqual([1, 1, 2, 2, 3, 3])
    expect(lines(undefined)).toBeCloseTo(1, 9)
  })

  it('with pictures beside the texts mirrors when they end the line, and centres the texts', () => {
    const beside = (arrangement: string) =>
      layOutCell(
        cellOf({
          arrangement,
          height: { type: 'fixed', dp: 80 },
          slots: [{ size: { type: 'aspect', ratio: 1 } }],
          texts: [{ at: '/title', sizeDp: 10, lines: 1, spareDp: 0 }],
        }),
        300,
        { title: 'x' },
        unknown,
      )
    const [start, end] = [beside('picture-start'), beside('picture-end')]
    expect(start.slots[0]).toEqual({ x: 0, y: 0, width: 80, height: 80 })
    expect(end.slots[0]).toEqual({ x: 220, y: 0, width: 80, height: 80 })
    expect([start.texts[0]!.x, start.texts[0]!.width, end.texts[0]!.x]).toEqual([88, 212, 0])
    expect(start.texts[0]!.y).toBeCloseTo((80 - 10 * lineHeight) / 2, 9)
  })

  it('sizes a slot by what the item says, by the picture once it is known, and inside its insets', () => {
    const sized = (size: object, more: object = {}) =>
      cellOf({ height: { type: 'content' }, slots: [{ size, ...more }] })
    const at = { type: 'aspect-at', width: '/w', height: '/h' }
    expect(layOutCell(sized(at), 200, { w: 400, h: 100 }, unknown).slots[0]!.height).toBe(50)
    expect(layOutCell(sized(at), 200, { w: 400 }, unknown).slots[0]!.height).toBe(200)
    const byPicture = sized({ type: 'from-picture' })
    expect([
      layOutCell(byPicture, 200, {}, unknown).heightDp,
      layOutCell(byPicture, 200, {}, () => 4).heightDp,
    ]).toEqual([200, 50])
    const inset = layOutCell(
      sized({ type: 'fixed', widthDp: 100, heightDp: 60 }, { insetDp: [1, 2, 3, 4] }),
      200,
      {},
      unknown,
    )
    expect(inset.slots[0]).toEqual({ x: 4, y: 1, width: 94, height: 56 })
    expect(inset.heightDp).toBe(60)
  })

  it('is the same for every item unless an item can change it', () => {
    expect(
      isUniform(
        cellOf({
          height: { type: 'fixed', dp: 80 },
          slots: [{ size: { type: 'fill' } }],
          texts: [{ at: '/t', lines: 3 }],
        }),
      ),
    ).toBe(true)
    expect(
      isUniform(
        cellOf({
          arrangement: 'picture-top',
          height: { type: 'content' },
          slots: [{ size: { type: 'aspect', ratio: 1 } }],
          texts: [{ at: '/t', lines: 3 }],
        }),
      ),
    ).toBe(false)
    expect(isUniform(cellOf({ height: { type: 'fixed', dp: 80 }, slots: [{ size: { type: 'from-picture' } }] }))).toBe(
      false,
    )
    expect(
      isUniform(
        cellOf({
          height: { type: 'fixed', dp: 80 },
          slots: [{ size: { type: 'fill' }, stages: { waiting: { frame: { widthDp: 5, heightDp: 5 } } } }],
        }),
      ),
    ).toBe(false)
  })
})

describe('a list', () => {
  const listOf = (screen: Screen, items: object[], widthDp = 320) => {
    const feed = new FeedList(screen.feed)
    feed.append(items as never)
    return { feed, layout: new ListLayout(screen, widthDp, feed) }
  }
  const byItem = (columns: number) =>
    screenOf({
      layout: { columns, gapDp: 4, paddingDp: 10 },
      cells: [{ height: { type: 'content' }, slots: [{ size: { type: 'aspect-at', width: '/w', height: '/h' } }] }],
    })

  it('stands where a plain sum of its rows says, whatever its items, and finds each row again', () => {
    const tall = fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 60 })
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 4 }), tall, fc.integer({ min: 0, max: 59 }), (columns, heights, more) => {
        const screen = byItem(columns)
        const whole = heights.map((h, i) => ({ id: `i${i}`, w: 10, h }))
        const cut = Math.min(more, whole.length)
        // Items that come later, into a part-filled row too, are laid out as if they had been there.
        const { feed, layout } = listOf(screen, whole.slice(0, cut))
        const before = layout.index.version
        feed.append(whole.slice(cut) as never)
        layout.grow()
        if (cut < whole.length) expect(layout.index.version).toBeGreaterThan(before)
        const width = cellWidthOf(screen.layout, 320)
        let top = 10
        for (let row = 0; row < Math.ceil(whole.length / columns); row++) {
          const height = Math.max(...heights.slice(row * columns, (row + 1) * columns).map((h) => (width * h) / 10))
          expect(Math.abs(layout.topOf(row) / unitsPerDp - top)).toBeLessThan(0.1)
          expect(Math.abs(layout.heightOf(row) / unitsPerDp - height)).toBeLessThan(0.01)
          expect(layout.rowAt(layout.topOf(row))).toBe(row)
          expect(layout.rowAt(layout.topOf(row) + layout.heightOf(row) - 1)).toBe(row)
          top += height + 4
        }
        expect(Math.abs(layout.total / unitsPerDp - (top - 4 + 10))).toBeLessThan(0.1)
        expect([layout.cellCount, layout.itemAt(layout.rowCount - 1, (whole.length - 1) % columns)]).toEqual([
          whole.length,
          whole.length - 1,
        ])
        expect(layout.itemAt(layout.rowCount, 0)).toBeNull()
      }),
      { seed: 20261123 },
    )
  })

  it('passes over items that no kind fits, and counts them', () => {
    const screen = screenOf({
      feed: { kind: '/kind' },
      layout: { columns: 2 },
      cells: [
        { kind: 'tall', height: { type: 'fixed', dp: 90 } },
        { kind: 'low', height: { type: 'fixed', dp: 30 } },
      ],
    })
    const { layout } = listOf(
      screen,
      ['tall', 'none', 'low', 'low', 'other', 'low'].map((kind, i) => ({ id: `${i}`, kind })),
    )
    expect([layout.itemAt(0, 0), layout.itemAt(0, 1), layout.itemAt(1, 0), layout.itemAt(1, 1)]).toEqual([0, 2, 3, 5])
    expect([layout.withoutKind, layout.cellCount, layout.rowCount]).toEqual([2, 4, 2])
    expect([0, 1, 2, 3, 4, 5].map((index) => [layout.rowOf(index), layout.columnOf(index)])).toEqual([
      [0, 0],
      [null, null],
      [0, 1],
      [1, 0],
      [null, null],
      [1, 1],
    ])
    expect([layout.heightOf(0), layout.heightOf(1)].map((units) => units / unitsPerDp)).toEqual([90, 30])
  })

  it('says by how much a row has changed when a picture’s ratio is known, once', () => {
    const screen = screenOf({
      layout: { columns: 1, gapDp: 0, paddingDp: 0 },
      cells: [{ height: { type: 'content' }, slots: [{ size: { type: 'from-picture' } }] }],
    })
    const { layout } = listOf(screen, [{ id: 'a' }, { id: 'b' }], 100)
    const { version } = layout.index
    expect(layout.learnRatio(0, 0, 0, 2)).toBe(-50 * unitsPerDp)
    expect(layout.index.version).toBeGreaterThan(version)
    const after = layout.index.version
    expect([layout.learnRatio(0, 0, 0, 2), layout.topOf(1)]).toEqual([0, 50 * unitsPerDp])
    expect(layout.index.version).toBe(after)
  })
})
