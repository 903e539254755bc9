import { K } from '../log/event-kinds.ts'
import type { ListState } from './list-state.ts'

/** The pages of the feed, asked for ahead of the end. */
export class FeedPages {
  private readonly list: ListState
  private page = 0
  pageState: 'idle' | 'asked' | 'failed' | 'complete' = 'idle'

  constructor(list: ListState) {
    this.list = list
  }

  askPage(): void {
    this.pageState = 'asked'
    const { log, world } = this.list
    world.pages.ask(this.page + 1, (reply, reason) => {
      if (this.list.ended !== null) return
      if (reply === null) {
        this.pageState = 'failed'
        log.write(K.page, world.clock.now(), this.page + 1, log.text(reason), 0)
        return
      }
      this.page++
      log.write(K.page, world.clock.now(), this.page, log.text('ok'), reply.items.length)
      this.list.feed.append(reply.items)
      this.pageState = reply.more ? 'idle' : 'complete'
      if (!reply.more) this.list.feed.complete()
      this.list.layout.grow()
      this.list.wake()
    })
  }

  /** Asks for the page that failed once more. */
  askPageAgain(): void {
    if (this.pageState === 'failed') this.askPage()
  }

  /** Asks for the next page when its rows come near: to be on screen, or to be looked ahead for. */
  maybeAskPage(): void {
    if (this.pageState !== 'idle') return
    const { layout, top, height, ahead, direction, parts } = this.list
    const last = layout.rowAt(top + height)
    const near = Math.max(parts.screen.feed.pageAheadRows, ahead.rowsBelow(layout, { top, height, direction }))
    if (last + near >= layout.rowCount - 1) this.askPage()
  }
}
