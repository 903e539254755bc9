import { readFeed } from '../core/feed/read-feed.ts'
import type { Item, Screen } from '../core/project/types.ts'
import type { Pages } from '../core/worlds/ports.ts'
import type { FeedState } from './live-run.ts'
import type { OriginClient } from './origin-client.ts'

interface LivePage {
  items: readonly Item[]
  more: boolean
}

/** The pages of a feed as a live run asks for them: from the origin, through the relay, or already at hand. */
export function livePages(
  origin: OriginClient,
  screen: Screen,
  given: readonly Item[] | null,
  { signal, timeoutMs }: { signal: AbortSignal; timeoutMs: number },
  told: (state: FeedState) => void,
): Pages {
  const { source } = screen.feed
  /** Addresses of the pages of a remote feed, as far as they are known. */
  const addresses = source.type === 'url' ? [source.url] : []
  const load = async (page: number): Promise<LivePage> => {
    const limit = AbortSignal.timeout(timeoutMs)
    try {
      return await loadWithin(page, AbortSignal.any([signal, limit]))
    } catch (error) {
      throw limit.aborted && !signal.aborted ? new Error(`no answer within ${timeoutMs / 1000} s`) : error
    }
  }
  const loadWithin = async (page: number, signal: AbortSignal): Promise<LivePage> => {
    if (source.type === 'url') {
      const address = addresses[page - 1]!
      const reply = await readRemote(origin, address, source, signal)
      if (reply.next !== null) addresses[page] = new URL(reply.next, address).href
      return { items: reply.items, more: reply.next !== null }
    }
    if (source.type === 'origin' && given === null) return origin.page(source.feed, page, signal)
    throw new Error('this feed has no items in this browser; open it again in Feed')
  }
  let shown = 0
  return {
    ask(page, done) {
      const items = source.type === 'url' ? null : (given ?? (source.type === 'inline' ? source.items : null))
      const arrived = (reply: LivePage) => {
        shown += reply.items.length
        done({ items: [...reply.items], more: reply.more }, 'ok')
        told({ is: shown === 0 && !reply.more ? 'empty' : 'shown' })
      }
      if (items) {
        arrived({ items, more: false })
        return
      }
      if (shown === 0) told({ is: 'waiting' })
      load(page).then(arrived, (error: unknown) => {
        if (signal.aborted) return
        const message = error instanceof Error ? error.message : 'failed'
        done(null, message)
        told({ is: 'failed', page, message })
      })
    },
  }
}

/** One page of a feed at a real address. */
async function readRemote(
  origin: OriginClient,
  address: string,
  source: { itemsAt: string; nextAt: string | null },
  signal: AbortSignal,
): Promise<{ items: Item[]; next: string | null }> {
  const body = await origin.text(address, signal)
  const read = readFeed(new URL(address).pathname, await body.text(), {
    itemsAt: source.itemsAt,
    key: null,
    nextAt: source.nextAt,
  })
  if (!read.ok) throw new Error(`${address}: ${read.message}`)
  return { items: read.feed.items, next: read.feed.next }
}
