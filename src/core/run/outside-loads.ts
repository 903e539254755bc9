import { classify, sameAs } from '../feed/address.ts'
import { K } from '../log/event-kinds.ts'
import type { Claim } from '../loading/request.ts'
import type { Step } from '../project/types.ts'
import type { ListState } from './list-state.ts'
import { baseOf } from './pictures.ts'

/** The slot of a claim that no cell and no look-ahead made. */
const outsideSlot = -1

/** Pictures that are loaded for another use than the list: at a fixed size, without being shown. */
export class OutsideLoads {
  private readonly list: ListState

  constructor(list: ListState) {
    this.list = list
  }

  /** Asks for a picture whose longer side has at most so many px. */
  load({ address: text, px }: Extract<Step, { do: 'load' }>): void {
    const { loader, layout, top, height, parts } = this.list
    const { screen, table } = parts
    const address = classify(text, baseOf(screen))
    const asset = table.asset(sameAs(address.href, screen.feed.sameIgnoring), address.href, address.host, { bytes: null, widthPx: null, heightPx: null })
    const rendition = table.rendition(asset, { width: px, height: px, fit: 'contain', decodeAt: { type: 'fixed', px }, made: '' })
    const refused = address.class === 'good' || address.class === 'cleartext' ? null : 'bad-address'
    const row = Math.max(0, layout.rowAt(top + height / 2))
    loader.claim({ rendition, cell: -1, slot: outsideSlot, index: -1, row, priority: 1, refused }, false)
  }

  /** The picture is there: it is used, and nobody in the list holds it. */
  delivered(claim: Claim): void {
    this.list.log.write(K.use, this.list.world.clock.now(), claim.id, claim.rendition)
    this.list.loader.release(claim, 'used')
  }
}
