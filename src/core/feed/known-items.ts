import type { Feed, Item } from '../project/types.ts'
import { isMadeUp, madeUpFeeds, madeUpPage } from './made-up.ts'

/** All items of a feed that the core holds itself; null for one whose items come from outside. */
export function knownItems(feed: Feed): readonly Item[] | null {
  const { source } = feed
  if (source.type === 'inline') return source.items
  if (source.type !== 'origin' || !isMadeUp(source.feed)) return null
  const name = source.feed
  const pages = Math.ceil(madeUpFeeds[name].items / madeUpFeeds[name].perPage)
  return Array.from({ length: pages }, (_, page) => madeUpPage(name, page + 1)!.items).flat()
}

/** Why a feed cannot be simulated without its items, or null when it can. */
export function noItems(feed: Feed): string | null {
  const { source } = feed
  switch (source.type) {
    case 'inline':
      return null
    case 'origin':
      return isMadeUp(source.feed)
        ? null
        : `the feed "${source.feed}" is none that a simulation knows by itself (${Object.keys(madeUpFeeds).join(' | ')}); load it live once, or keep its items inline`
    case 'url':
    case 'file':
      return `the items of a feed from a ${source.type === 'url' ? 'remote address' : 'file'} are not in the project; keep them inline to simulate without the app`
  }
}
