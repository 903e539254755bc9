import type { FeedList } from '../feed/feed-list.ts'
import type { Item, Step } from '../project/types.ts'

type Edit = Extract<Step, { do: 'edit' }>

/**
 * Applies one edit step to the list. New items have the data of the step, in turn, or are copies of present ones, so
 * that they have addresses.
 */
export function editFeed(feed: FeedList, edit: Edit): void {
  const at = Math.min(edit.at, feed.count)
  const count = Math.min(edit.count, feed.count)
  switch (edit.op) {
    case 'insert':
      feed.insert(
        at,
        Array.from({ length: edit.count }, (_, i) => ownOf(edit, i) ?? copyOf(feed, i)),
      )
      return
    case 'remove':
      feed.remove(at, count)
      return
    case 'move':
      feed.move(at, count, Math.min(edit.to, feed.count - count))
      return
    case 'update': {
      let updated = 0
      feed.update(at, count, (item) => ({
        ...item,
        ...(ownOf(edit, updated++) ?? { updated: Number(item.updated ?? 0) + 1 }),
      }))
      return
    }
    case 'refresh':
      feed.update(0, feed.count, (item) => ({ ...item }))
      return
  }
}

/** The data of the step for its n-th item, starting over when there are fewer. */
function ownOf({ items }: Edit, n: number): Item | null {
  return items ? { ...items[n % items.length] } : null
}

function copyOf(feed: FeedList, n: number): Item {
  return feed.count === 0 ? {} : { ...feed.item(n % feed.count) }
}
