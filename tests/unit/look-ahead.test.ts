import { describe, expect, it } from 'vitest'
import type { ListLayout } from '../../src/core/layout/list-layout.ts'
import type { Claim } from '../../src/core/loading/request.ts'
import { K } from '../../src/core/log/event-kinds.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { LookAhead } from '../../src/core/list/look-ahead.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, plainLink, projectOf } from '../support/projects.ts'

type Policy = ConstructorParameters<typeof LookAhead>[0]

/** Rows of two cells, 100 high, of a feed that may grow. */
function aheadOn(policy: Partial<Policy>, items = 40) {
  const feed = { items }
  const layout = {
    columns: 2,
    get cellCount() {
      return feed.items
    },
    get rowCount() {
      return Math.ceil(feed.items / 2)
    },
    itemAt: (row: number, column: number) => (row * 2 + column < feed.items ? row * 2 + column : null),
    rowAt: (position: number) => Math.max(0, Math.min(Math.ceil(feed.items / 2) - 1, Math.floor(position / 100))),
  } as unknown as ListLayout
  const claimed: number[] = []
  const released: [number, string][] = []
  const ahead = new LookAhead(
    { by: 'rows', amount: 2, direction: 'travel', onlyWhenIdle: false, ...policy } as Policy,
    (index) => {
      claimed.push(index)
      return [{ id: index } as Claim]
    },
    (claim, why) => released.push([claim.id, why]),
  )
  const follow = (firstRow: number, lastRow: number, direction: 1 | -1 = 1) =>
    ahead.follow(
      layout,
      { top: firstRow * 100, height: (lastRow - firstRow + 1) * 100, direction },
      new Map(
        Array.from({ length: 2 * (lastRow - firstRow + 1) }, (_, i) => [
          2 * firstRow + i,
          { row: firstRow + Math.floor(i / 2) },
        ]),
      ),
    )
  return { feed, ahead, follow, claimed, released }
}

describe('looking ahead', () => {
  it('claims each item of the rows that come up, once, and lets go of those that have a cell of their own', () => {
    const { follow, claimed, released } = aheadOn({})
    follow(0, 4)
    expect(claimed).toEqual([10, 11, 12, 13])
    follow(0, 4)
    follow(1, 5)
    expect(claimed).toEqual([10, 11, 12, 13, 14, 15])
    expect(released).toEqual([
      [10, 'ahead'],
      [11, 'ahead'],
    ])
  })

  it('turns with the motion, and looks both ways where the policy says so', () => {
    const travel = aheadOn({})
    travel.follow(5, 8)
    travel.follow(5, 8, -1)
    expect(travel.claimed).toEqual([18, 19, 20, 21, 8, 9, 6, 7])
    expect(travel.released.map(([index]) => index)).toEqual([18, 19, 20, 21])
    const both = aheadOn({ direction: 'both', amount: 1 })
    both.follow(5, 8)
    expect([...both.claimed].sort((a, b) => a - b)).toEqual([8, 9, 18, 19])
  })

  it('reaches by screens, to the ends of the list and not beyond, and not at all for nothing', () => {
    const screens = aheadOn({ by: 'screens', amount: 0.5 })
    screens.follow(0, 3)
    // Half a screen is two rows: the next one begins just where the reach ends.
    expect(screens.claimed).toEqual([8, 9, 10, 11])
    const end = aheadOn({ amount: 6 }, 13)
    end.follow(2, 5)
    expect(end.claimed).toEqual([12])
    const none = aheadOn({ amount: 0 })
    none.follow(0, 4)
    expect(none.claimed).toEqual([])
  })

  it('sees items that arrive while the window stands still, in a part-filled last row too', () => {
    const { feed, follow, claimed } = aheadOn({}, 13)
    follow(2, 5)
    expect(claimed).toEqual([12])
    feed.items = 14
    follow(2, 5)
    expect(claimed).toEqual([12, 13])
    feed.items = 30
    follow(2, 5)
    expect(claimed).toEqual([12, 13, 14, 15])
  })

  it('claims again after all was let go, though the window stands where it stood', () => {
    const { ahead, follow, claimed, released } = aheadOn({ amount: 1 })
    follow(0, 4)
    ahead.clear('left')
    expect(released).toEqual([
      [10, 'left'],
      [11, 'left'],
    ])
    follow(0, 4)
    expect(claimed).toEqual([10, 11, 10, 11])
  })
})

describe('pages that are looked ahead for', () => {
  /**
   * Stands still at the top of a feed of 40 rows a page: the pages that were asked for, and the farthest row of a
   * request.
   */
  const standing = (ahead: object, pageAheadRows = 0) => {
    const { log } = simulate(
      projectOf({
        device: freeDevice,
        network: plainLink,
        steps: [{ do: 'wait', ms: 8000 }],
        loading: { ahead: { onlyWhenIdle: false, ...ahead } },
        screen: {
          feed: { source: { type: 'origin', feed: 'kiln-log' }, base: 'https://archive.example.test/', pageAheadRows },
        },
      }),
    )
    let pages = 0
    log.each(({ kind }, row) => {
      if (kind[row] === K.page) pages++
    })
    return { pages, farthest: Math.max(...profileRun(log).facts.claims.map(({ index }) => index!)) }
  }

  it('come as far as it looks, and no farther', () => {
    expect(standing({ amount: 2 }).pages).toBe(1)
    expect(standing({ amount: 0 }, 60).pages).toBe(2)
    const across = standing({ amount: 50 })
    expect(across.pages).toBe(2)
    expect(across.farthest).toBeGreaterThan(45)
    expect(standing({ by: 'screens', amount: 20 }).pages).toBe(3)
  })
})
