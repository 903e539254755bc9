import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { database } from '../../src/app/store/database.ts'
import type { Item, Screen } from '../../src/core/project/types.ts'
import { items, projectOf } from '../support/projects.ts'

/** Pages that a made-up origin has; what is asked of it is noted. */
const pages: Item[][] = []
const asked: number[] = []
/** Pages that had been asked for when a session was given back. */
const closed: number[] = []
let trouble: Error | null = null
vi.mock('../../src/live/origin-client.ts', () => ({
  byHand: (signal: AbortSignal) => signal,
  OriginClient: {
    unpaced: () =>
      Promise.resolve({
        page: (_feed: string, page: number) => {
          asked.push(page)
          return trouble
            ? Promise.reject(trouble)
            : Promise.resolve({ items: pages[page - 1]!, more: page < pages.length })
        },
        close: () => Promise.resolve(void closed.push(asked.length)),
      }),
  },
}))

/** The store as a page that has just been opened has it: it remembers nothing. */
const opened = async () => {
  vi.resetModules()
  return import('../../src/app/store/feed-store.ts')
}
const screenOf = (source: object): Screen => ({
  ...projectOf({ items: items(1) }).screens[0]!,
  feed: { ...projectOf({ items: items(1) }).screens[0]!.feed, source: source as Screen['feed']['source'] },
})
const file = screenOf({ type: 'file', name: 'kilns.json' })
const three = items(3)

beforeEach(async () => {
  await database.feeds.clear()
  asked.length = pages.length = closed.length = 0
  trouble = null
})

describe('items that came from outside the project', () => {
  it('are kept in the browser, and are there again for the next page, for their own project alone', async () => {
    const { keepItems, itemsOf } = await opened()
    await keepItems('p1', 'kilns.json', three)
    expect(await itemsOf('p1', file)).toBe(three)
    const later = await opened()
    expect(await later.itemsOf('p1', file)).toEqual(three)
    await expect(later.itemsOf('p2', file)).rejects.toThrow(
      'The items of kilns.json are not in this browser. Open the feed again in Feed.',
    )
  })

  it('that were missing are found once the feed was opened again', async () => {
    const { keepItems, itemsOf } = await opened()
    await expect(itemsOf('p1', file)).rejects.toThrow('not in this browser')
    await keepItems('p1', 'kilns.json', three)
    expect(await itemsOf('p1', file)).toBe(three)
  })

  it('take no name from others of the same file, but from the same', async () => {
    const { keepItems, nameToKeep } = await opened()
    expect(await nameToKeep('p1', 'kilns.json', three)).toBe('kilns.json')
    await keepItems('p1', 'kilns.json', three)
    expect(await nameToKeep('p1', 'kilns.json', structuredClone(three))).toBe('kilns.json')
    const two = three.slice(1)
    // A page that was opened later finds the names in the browser.
    const later = await opened()
    expect(await later.nameToKeep('p1', 'kilns.json', two)).toBe('kilns.json (2)')
    await later.keepItems('p1', 'kilns.json (2)', two)
    expect(await later.nameToKeep('p1', 'kilns.json', three.slice(2))).toBe('kilns.json (3)')
    expect(await later.nameToKeep('p2', 'kilns.json', two)).toBe('kilns.json')
  })

  it('take the name of what cannot be loaded: it is opened again for that', async () => {
    const { itemsOf, nameToKeep } = await opened()
    const missing = itemsOf('p1', file)
    missing.catch(() => undefined)
    expect(await nameToKeep('p1', 'kilns.json', three)).toBe('kilns.json')
    await expect(missing).rejects.toThrow('not in this browser')
    const get = vi.spyOn(database.feeds, 'get').mockImplementation(() => Promise.reject(new Error('broken')) as never)
    expect(await nameToKeep('p1', 'other.json', three)).toBe('other.json')
    get.mockRestore()
  })

  it('are told apart by where they are from', async () => {
    const { feedId } = await opened()
    const all = [
      file,
      screenOf({ type: 'url', url: 'https://kilns.example.test/feed' }),
      screenOf({ type: 'origin', feed: 'wall' }),
      screenOf({ type: 'inline', items: [] }),
    ].map((screen) => feedId('p1', screen))
    expect(new Set(all).size).toBe(4)
    expect(all.every((id) => id.startsWith('p1 '))).toBe(true)
  })
})

describe('items that the project or the core has', () => {
  it('are given without asking anybody, and a simulation is not given them', async () => {
    const { itemsOf, itemsToGive } = await opened()
    const inline = screenOf({ type: 'inline', items: three })
    expect(await itemsOf('p1', inline)).toEqual(three)
    expect(await itemsToGive('p1', inline)).toBeNull()
    const wall = screenOf({ type: 'origin', feed: 'wall' })
    expect((await itemsOf('p1', wall)).length).toBeGreaterThan(1000)
    expect(await itemsToGive('p1', wall)).toBeNull()
    expect(asked).toEqual([])
  })
})

describe('items of a feed of the origin that only it has', () => {
  const folder = screenOf({ type: 'origin', feed: 'folder' })

  it('are asked for page by page, once for all who want them', async () => {
    pages.push(items(2), items(2), items(1))
    const { itemsOf, itemsToGive } = await opened()
    const both = await Promise.all([itemsOf('p1', folder), itemsToGive('p1', folder)])
    expect(both[0]).toHaveLength(5)
    expect(both[1]).toBe(both[0])
    expect(asked).toEqual([1, 2, 3])
    // The session is given back behind the last page.
    expect(closed).toEqual([3])
  })

  it('are asked for again after a failure, which is told to whoever asked', async () => {
    pages.push(items(2))
    trouble = new Error('the server is away')
    const { itemsOf } = await opened()
    await expect(itemsOf('p1', folder)).rejects.toThrow('the server is away')
    expect(closed).toEqual([1])
    trouble = null
    expect(await itemsOf('p1', folder)).toHaveLength(2)
  })
})
