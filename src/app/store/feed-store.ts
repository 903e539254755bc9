import { dequal } from 'dequal'
import type { Item, Screen } from '../../core/project/types.ts'
import { database } from './database.ts'
import { createStore } from './external-store.ts'
import { keep } from './storage.ts'

/** Recently loaded items, by feed; opened feeds replace them. */
const loaded = new Map<string, Promise<readonly Item[]>>()

/** Increased when items are kept: a name may stand for others now. */
const itemsKept = createStore(0)
export const useItemsKept = itemsKept.use

const nameOf = (screen: Screen): string => {
  const { source } = screen.feed
  switch (source.type) {
    case 'file':
      return source.name
    case 'url':
      return source.url
    case 'origin':
      return `origin ${source.feed}`
    case 'inline':
      return 'inline'
  }
}

/** Identifies a feed whose items come from outside the project. */
export const feedId = (project: string, screen: Screen) => `${project} ${nameOf(screen)}`

/**
 * The items of a screen's feed: from the core, this browser, or the origin. Throws with what to do when they are
 * nowhere.
 */
export async function itemsOf(project: string, screen: Screen): Promise<readonly Item[]> {
  const { knownItems } = await import('../../core/feed/known-items.ts')
  const known = knownItems(screen.feed)
  if (known) return known
  const id = feedId(project, screen)
  let promise = loaded.get(id)
  if (!promise) {
    promise = load(id, screen)
    loaded.set(id, promise)
    promise.catch(() => loaded.delete(id))
  }
  return promise
}

/** The items that a simulation has to be given; null where the core has them itself. */
export async function itemsToGive(project: string, screen: Screen): Promise<readonly Item[] | null> {
  const { noItems } = await import('../../core/feed/known-items.ts')
  return noItems(screen.feed) === null ? null : itemsOf(project, screen)
}

/**
 * The name under which a file's items are kept: its own, or with a number where the name is taken by others, which an
 * undo would need.
 */
export async function nameToKeep(project: string, name: string, items: readonly Item[]): Promise<string> {
  for (let number = 1; ; number++) {
    const free = number === 1 ? name : `${name} (${number})`
    const id = `${project} ${free}`
    // Items that cannot be loaded, or read from a storage that fails, cannot be lost either.
    const kept = await (loaded.get(id) ?? database.feeds.get(id).then((stored) => stored?.items)).catch(() => undefined)
    if (!kept || dequal(kept, items)) return free
  }
}

/** Keeps the items of a feed that was opened from a file or an address. */
export async function keepItems(project: string, name: string, items: readonly Item[]): Promise<void> {
  const id = `${project} ${name}`
  loaded.set(id, Promise.resolve(items))
  itemsKept.set(itemsKept.get() + 1)
  await keep(`feed ${id}`, `the items of ${name}`, async () => {
    await database.feeds.put({ id, project, name, items })
  })
}

async function load(id: string, screen: Screen): Promise<readonly Item[]> {
  const { source } = screen.feed
  if (source.type !== 'origin') {
    const stored = await database.feeds.get(id)
    if (stored) return stored.items
    throw new Error(`The items of ${nameOf(screen)} are not in this browser. Open the feed again in Feed.`)
  }
  const { byHand, OriginClient } = await import('../../live/origin-client.ts')
  const origin = await OriginClient.unpaced()
  try {
    const items: Item[] = []
    for (let page = 1, more = true; more; page++) {
      const reply = await origin.page(source.feed, page, byHand(new AbortController().signal))
      items.push(...reply.items)
      more = reply.more
    }
    return items
  } finally {
    void origin.close()
  }
}
