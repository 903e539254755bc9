import { expect, it } from 'vitest'
import { grid } from '../../bench/simulation.ts'

it('the lists that are measured are lists that the product takes: of a million rows too', () => {
  for (const [rows, columns] of [
    [800, 3],
    [2000, 1],
    [1_000_000, 1],
  ] as const) {
    const { feed, layout } = grid(rows, 20, false, columns).screens[0]!
    const { length } = (feed.source as { items: unknown[] }).items
    expect((length * feed.repeat.times) / layout.columns).toBe(rows)
  }
})
