import { readFeed } from '../core/feed/read-feed.ts'
import type { Item, Screen } from '../core/project/types.ts'
import type { Pages } from '../core/worlds/ports.ts'
import { PageFailure, type OriginClient } from './origin-client.ts'

/** State of the list as a whole: waiting for its first page, empty, shown, or stopped at a page that failed. */
export type FeedState = { is: 'waiting' | 'shown' | 'empty' } | { is: 'failed'; page: number; message: string }

/** A page that has arrived; `next`: address of the one after it, for a feed at an address. */
export interface LivePage {
  items: readonly Item[]
  more: boolean
  next?: string
}

export interface LivePagesParts {
  origin: OriginClient
  screen: Screen
  /** Items that are already there; null: they are requested. */
  given: readonly Item[] | null
  /** Pages that an earlier list has loaded, from the first on; those loaded now are added. */
  known: LivePage[]
  /** The run is over. */
  signal: AbortSignal
  /** A page that brings no byte for this long has failed, ms. */
  timeoutMs: number
  /** Aborted while the network is gone. */
  outage: () => AbortSignal
  /** The server cannot be reached: it is tried again. */
  unreachable: () => void
  report: (state: FeedState) => void
}

/**
 * The pages of a feed for a live run: from the origin, through the relay, or already there. They use the same network
 * as pictures.
 */
export function livePages(parts: LivePagesParts): Pages {
  const { origin, screen, given, known, signal, report } = parts
  const { source } = screen.feed
  /** Addresses of the pages of a remote feed, as far as they are known. */
  const addresses = source.type === 'url' ? [source.url] : []
  const load = async (page: number): Promise<LivePage> => {
    const limits = { signal, outage: parts.outage(), stallMs: parts.timeoutMs }
    if (source.type === 'url') {
      const address = addresses[page - 1]!
      const text = await (await origin.text(address, limits)).text()
      const options = { itemsAt: source.itemsAt, key: null, nextAt: source.nextAt }
      const read = readFeed(new URL(address).pathname, text, options)
      if (!read.ok) throw new PageFailure('not a feed', `${address}: ${read.message}`)
      const { items, next } = read.feed
      return { items, more: next !== null, ...(next !== null && { next: new URL(next, address).href }) }
    }
    if (source.type === 'origin' && given === null) return origin.page(source.feed, page, limits)
    throw new Error('this feed has no items in this browser; open it again in Feed')
  }
  let shown = 0
  /** The error of the page that failed last, in more words than its reason. */
  let message: string | null = null
  return {
    ask(page, done) {
      const items = source.type === 'url' ? null : (given ?? (source.type === 'inline' ? source.items : null))
      const arrived = (reply: LivePage) => {
        if (reply.next !== undefined) addresses[page] = reply.next
        shown += reply.items.length
        done({ items: reply.items, more: reply.more }, 'ok')
        report({ is: shown === 0 && !reply.more ? 'empty' : 'shown' })
      }
      if (items) {
        arrived({ items, more: false })
        return
      }
      if (known[page - 1]) {
        arrived(known[page - 1]!)
        return
      }
      if (shown === 0) report({ is: 'waiting' })
      const came = (reply: LivePage) => {
        known[page - 1] = reply
        arrived(reply)
      }
      load(page).then(came, (error: unknown) => {
        if (signal.aborted) return
        message = error instanceof Error ? error.message : 'failed'
        const reason = error instanceof PageFailure ? error.reason : message
        if (reason === 'offline' && !parts.outage().aborted) parts.unreachable()
        done(null, reason)
      })
    },
    failed(page, reason) {
      report({ is: 'failed', page, message: message ?? words[reason] ?? reason })
      message = null
    },
  }
}

/** Texts for reasons that have no other. */
const words: Record<string, string> = {
  'not-granted': 'the app has not been granted the network',
}
