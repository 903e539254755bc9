import type { FeedList } from '../feed/feed-list.ts'
import type { Item, Step } from '../project/types.ts'

/** Applies one edit step to the list. New items are copies of ones there, so that they have addresses. */
export function editFeed(feed: FeedList, edit: Extract<Step, { do: 'edit' }>): void {
  const at = Math.min(edit.at, feed.count)
  const count = Math.min(edit.count, feed.count)
  switch (edit.op) {
    case 'insert':
      feed.insert(
        at,
        Array.from({ length: edit.count }, (_, i) => copyOf(feed, i)),
      )
      return
    case 'remove':
      feed.remove(at, count)
      return
    case 'move':
      feed.move(at, count, Math.min(edit.to, feed.count - count))
      return
    case 'update':
      feed.update(at, count, (item) => ({ ...item, updated: Number(item.updated ?? 0) + 1 }))
      return
    case 'refresh':
      feed.update(0, feed.count, (item) => ({ ...item }))
      return
  }
}

function copyOf(feed: FeedList, n: number): Item {
  return feed.count === 0 ? {} : { ...feed.item(n % feed.count) }
}
