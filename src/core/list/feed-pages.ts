import type { Feed } from '../project/types.ts'
import type { ListState } from './list-state.ts'

/** The pages of the feed, requested before the list reaches its end. */
export class FeedPages {
  private readonly list: ListState
  private page = 0
  pageState: 'idle' | 'asked' | 'failed' | 'complete' = 'idle'

  constructor(list: ListState) {
    this.list = list
  }

  askPage(): void {
    this.pageState = 'asked'
    const { world, parts } = this.list
    if (needsNetwork(parts.screen.feed) && !parts.project.device.granted.network) {
      this.failed('not-granted')
      return
    }
    world.pages.ask(this.page + 1, (reply, reason) => {
      if (this.list.ended !== null) return
      if (reply === null) {
        this.failed(reason)
        return
      }
      this.page++
      const { feed, layout, log } = this.list
      log.events.page(world.clock.now(), { n: this.page, outcome: 'ok', items: reply.items.length })
      feed.append(reply.items)
      this.pageState = reply.more && !feed.limited ? 'idle' : 'complete'
      if (this.pageState === 'complete') feed.complete()
      if (feed.limited)
        log.events.note(world.clock.now(), { text: 'a list has 1,000,000 items at most: those beyond are left out' })
      layout.grow()
      this.list.wake()
    })
  }

  /** Requests the failed page again. */
  askPageAgain(): void {
    if (this.pageState === 'failed') this.askPage()
  }

  /** Requests the next page when its rows come near: to be on screen, or to be looked ahead for. */
  maybeAskPage(): void {
    if (this.pageState !== 'idle') return
    const { layout, top, height, ahead, direction, parts } = this.list
    const last = layout.rowAt(top + height - 1) ?? 0
    const near = Math.max(parts.screen.feed.pageAheadRows, ahead.rowsBelow(layout, { top, height, direction }))
    if (last + near >= layout.rowCount - 1) this.askPage()
  }

  private failed(reason: string): void {
    const { log, world } = this.list
    this.pageState = 'failed'
    log.events.page(world.clock.now(), { n: this.page + 1, outcome: reason, items: 0 })
    world.pages.failed(this.page + 1, reason)
  }
}

/** Whether a feed's pages come over the network, like pictures. */
export const needsNetwork = ({ source }: Feed) => source.type === 'origin' || source.type === 'url'
