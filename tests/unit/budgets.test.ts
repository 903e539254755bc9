import { describe, expect, it } from 'vitest'
import {
  absoluteBudget,
  budgetsAt,
  isHeld,
  judgeBudget,
  keepsBudget,
  marginOf,
  type Budget,
} from '../../src/core/compare/budgets.ts'
import type { Metrics } from '../../src/core/profile/figures/metric-definitions.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { sortedRows, worstFirst } from '../../src/core/sweep/sorted-rows.ts'
import type { SweepRow } from '../../src/core/sweep/sweep-row.ts'

const waste = (limits: Partial<Budget>): Budget => ({ metric: 'bytes.wastedShare', visit: 'first', ...limits })
const rowOf = (medians: Record<string, number>) => ({
  metrics: Object.fromEntries(
    Object.entries(medians).map(([id, median]) => [id, { median, low: median, high: median }]),
  ) as SweepRow['metrics'],
})
const figures = (values: Record<string, number>) => values as Metrics

describe('a budget', () => {
  it('has the nearer of its limits as its margin, and none for what did not happen', () => {
    const { metrics } = rowOf({ 'bytes.wastedShare': 0.15 })
    expect(marginOf(waste({ max: 0.2 }), metrics, null)).toBeCloseTo(0.25)
    expect(marginOf(waste({ max: 0.1 }), metrics, null)).toBeCloseTo(-0.5)
    expect(marginOf(waste({ min: 0.1, max: 0.6 }), metrics, null)).toBeCloseTo(0.5)
    expect(marginOf(waste({ max: 0.2 }), rowOf({}).metrics, null)).toBeNull()
  })

  it('over the baseline is the difference to it, and comes to a limit of its own', () => {
    const { metrics } = rowOf({ 'bytes.wastedShare': 0.15 })
    const relative = waste({ max: 0.02, min: -0.5, relativeTo: 'baseline' })
    for (const [base, kept] of [
      [0.14, true],
      [0.12, false],
    ] as const) {
      const baseline = figures({ 'bytes.wastedShare': base })
      expect(keepsBudget(relative, metrics, baseline)).toBe(kept)
      const absolute = absoluteBudget(relative, baseline)!
      expect(absolute).toEqual(waste({ max: 0.02 + base, min: -0.5 + base }))
      expect(keepsBudget(absolute, metrics, null)).toBe(kept)
    }
    // Without a baseline nothing is known, and nothing is broken by it.
    expect([isHeld, keepsBudget, marginOf].map((of) => of(relative, metrics, null))).toEqual([null, true, null])
    expect(isHeld(relative, rowOf({}).metrics, null)).toBe(true)
    expect(absoluteBudget(relative, null)).toBeNull()
  })

  it('of its own limits stays what it is where a baseline is there, and a limit of 0 has a margin too', () => {
    const absolute = waste({ max: 0.2 })
    expect(absoluteBudget(absolute, figures({ 'bytes.wastedShare': 0.1 }))).toBe(absolute)
    const { metrics } = rowOf({ 'bytes.wastedShare': 0.15 })
    const none = waste({ max: 0 })
    expect([marginOf(none, metrics, null), isHeld(none, metrics, null)]).toEqual([-0.15, false])
    const { metrics: nothing } = rowOf({ 'bytes.wastedShare': 0 })
    expect([marginOf(none, nothing, null), isHeld(none, nothing, null)]).toEqual([0, true])
  })

  it('is about one screen, the first where it names none, and one visit', () => {
    const parsed = parseProject({
      format: 'tile-tug/project',
      version: 1,
      name: 'two',
      screens: ['a', 'b'].map((id) => ({
        id,
        feed: { source: { type: 'inline', items: [] } },
        cells: [{ height: { type: 'fixed', dp: 9 }, slots: [{ size: { type: 'fixed', widthDp: 9, heightDp: 9 } }] }],
      })),
      budgets: [waste({ max: 1 }), waste({ max: 2, screen: 'b' }), waste({ max: 3, visit: 'again' })],
    })
    if (!parsed.ok) throw new Error(parsed.message)
    const limits = (screen: string, visit: Budget['visit']) =>
      budgetsAt(parsed.project, screen, visit).map(({ max }) => max)
    expect([limits('a', 'first'), limits('b', 'first'), limits('a', 'again')]).toEqual([[1], [2], [3]])
  })
})

describe('rows in order', () => {
  const [some, few, none] = [
    rowOf({ 'bytes.wastedShare': 0.3, 'pictures.holeShare': 0.1 }),
    rowOf({ 'bytes.wastedShare': 0.1, 'pictures.holeShare': 0.6 }),
    rowOf({ 'pictures.holeShare': 0.2 }),
  ]
  const budgets = [waste({ max: 0.2 }), { metric: 'pictures.holeShare', max: 0.5, visit: 'first' } as Budget]

  it('have the better figure first, the most room within budgets first, and what has neither last', () => {
    expect(sortedRows([none, some, few], 'bytes.wastedShare')).toEqual([few, some, none])
    // Room: some −0.5 (waste), few −0.2 (holes), none 0.6 (holes; its waste is not known).
    expect(sortedRows([some, few, none], { budgets, baseline: null })).toEqual([none, few, some])
    expect(sortedRows([some, none], { budgets: budgets.slice(0, 1), baseline: null })).toEqual([some, none])
  })

  it('have the one that breaks most budgets first, then the one with most holes', () => {
    const placed = [none, some, few].map((row, i) => ({ row, name: ['none', 'some', 'few'][i]! }))
    expect(worstFirst(placed, { budgets, baseline: null }).map(({ name, broken }) => [name, broken])).toEqual([
      ['few', 1],
      ['some', 1],
      ['none', 0],
    ])
  })
})

describe('a budget that is judged', () => {
  const late = (value: number | null) => ({ 'frames.late': value }) as Metrics
  const judge = (budget: object, values: (number | null)[], base: number | null = null) =>
    judgeBudget(
      { metric: 'frames.late', visit: 'first', ...budget } as never,
      values.map(late),
      base === null ? null : late(base),
    ).ok

  it('holds the median of the seeds, and a difference to the baseline', () => {
    expect(judge({ max: 5 }, [1, 4, 100])).toBe(true)
    expect(judge({ max: 5 }, [1, 6, 100])).toBe(false)
    expect(judge({ min: 2, max: 5 }, [1])).toBe(false)
    expect(judge({ max: 5 }, [null])).toBe(true)
    expect(judge({ max: 1, relativeTo: 'baseline' }, [10], 9)).toBe(true)
    expect(judge({ max: 0.5, relativeTo: 'baseline' }, [10], 9)).toBe(false)
  })
})
