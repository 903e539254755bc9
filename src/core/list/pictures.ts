import { addressOf, classify, sameAs, smallAddressOf, type Address } from '../feed/address.ts'
import type { FeedList } from '../feed/feed-list.ts'
import { numberAt } from '../feed/json-pointer.ts'
import { isMadeUp } from '../feed/made-up.ts'
import { archiveBase } from '../feed/tiles.ts'
import type { ListLayout } from '../layout/list-layout.ts'
import type { AssetTable } from '../loading/asset-table.ts'
import type { Box } from '../layout/cell-geometry.ts'
import type { Item, Project, Screen, Slot } from '../project/types.ts'
import type { Making, Target } from '../loading/rendition.ts'
import type { FailReason, Hints } from '../worlds/ports.ts'

/** The claim of a slot when it is bound to an item; null: the item has no address for it. */
export interface SlotPicture {
  asset: number
  rendition: number
  refused: FailReason | null
  /** What is requested and shown before it; null: nothing is. */
  small: SlotPicture | null
}

/**
 * From an item to the assets and renditions of its slots. Results are kept by the item's index until the feed changes.
 */
export class Pictures {
  private readonly screen: Screen
  private readonly feed: FeedList
  private readonly table: AssetTable
  private readonly density: number
  private layout: ListLayout
  private readonly base: string | null
  /** Bytes of packaged pictures, by address. */
  private readonly packaged = new Map<string, number>()
  private readonly targets = new Map<Slot, Map<number, Target>>()
  private known = new Map<number, (SlotPicture | null)[]>()

  constructor(
    screen: Screen,
    feed: FeedList,
    layout: ListLayout,
    table: AssetTable,
    { device, assets }: Pick<Project, 'device' | 'assets'>,
  ) {
    for (const { name, base64 } of assets) this.packaged.set(`packaged:${name}`, Math.floor((base64.length * 3) / 4))
    this.screen = screen
    this.feed = feed
    this.layout = layout
    this.table = table
    this.density = device.density
    this.base = baseOf(screen)
  }

  of(index: number): (SlotPicture | null)[] {
    let pictures = this.known.get(index)
    if (!pictures) this.known.set(index, (pictures = this.workOut(index)))
    return pictures
  }

  /** The n-th fallback of a slot whose picture fails; null: there is none. */
  fallback(index: number, slotNumber: number, n: number): SlotPicture | null {
    const slot = this.screen.cells[this.layout.kindOf(index)]!.slots[slotNumber]!
    const text = slot.stages.failed.fallbacks[n]
    if (text === undefined) return null
    return this.pictureAt(classify(text, this.base), slot, this.layout.asked(index).slots[slotNumber]!, {})
  }

  /** The feed or the layout has changed. */
  forget(layout: ListLayout): void {
    this.layout = layout
    this.known = new Map()
  }

  private workOut(index: number): (SlotPicture | null)[] {
    const cell = this.screen.cells[this.layout.kindOf(index)]!
    const item = this.feed.item(index)
    const { slots } = this.layout.asked(index)
    return cell.slots.map((slot, number) => {
      const box = slots[number]!
      const widthPx = Math.max(1, Math.round(box.width * this.density))
      const heightPx = Math.max(1, Math.round(box.height * this.density))
      const px = { widthPx, heightPx, density: this.density }
      const address = addressOf(item, slot, px, this.base)
      if (address.class === 'absent' || address.class === 'empty') return null
      const picture = this.pictureAt(this.distinct(address, index), slot, box, item)
      const small = smallAddressOf(item, slot, px, this.base)
      return small ? { ...picture, small: this.pictureAt(this.distinct(small, index), slot, box, item) } : picture
    })
  }

  private pictureAt(address: Address, slot: Slot, box: Box, item: Item): SlotPicture {
    const widthPx = Math.max(1, Math.round(box.width * this.density))
    const heightPx = Math.max(1, Math.round(box.height * this.density))
    const carried =
      this.packaged.get(address.href) ??
      (address.href.startsWith('data:') ? Math.floor((address.href.length * 3) / 4) : null)
    const missing = address.href.startsWith('packaged:') && carried === null
    const loadable = (address.class === 'good' && !missing) || address.class === 'cleartext'
    const asset = this.table.asset(sameAs(address.href, this.screen.feed.sameIgnoring), address.href, address.host, {
      ...hintsOf(item, slot, address),
      ...(carried !== null && { bytes: carried }),
    })
    return {
      asset,
      rendition: this.table.rendition(asset, this.targetFor(slot, widthPx, heightPx)),
      refused: loadable ? null : 'bad-address',
      small: null,
    }
  }

  /** The same target for each slot and size: most items of a list have the same. */
  private targetFor(slot: Slot, width: number, height: number): Target {
    let bySize = this.targets.get(slot)
    if (!bySize) this.targets.set(slot, (bySize = new Map()))
    const size = width * 65_536 + height
    let target = bySize.get(size)
    if (!target) bySize.set(size, (target = targetOf(slot, { width, height }, this.density)))
    return target
  }

  /** The address of an item that a feed repeats: a different one for each repeat, where that is set. */
  private distinct(address: Address, index: number): Address {
    if (this.screen.feed.repeat.addresses === 'same') return address
    const repeat = this.feed.repeat(index)
    if (repeat === 0) return address
    const { href } = address
    return { ...address, href: `${href}${href.includes('?') ? '&' : '?'}copy=${repeat}` }
  }
}

/** An item's data about its picture: bytes and px of the one at its widest; of others only their width. */
export function hintsOf(item: Item, { bytesAt, widthAt, heightAt }: Slot, { widthPx }: Address): Hints {
  const said = {
    bytes: whole(numberAt(item, bytesAt)),
    widthPx: whole(numberAt(item, widthAt)),
    heightPx: whole(numberAt(item, heightAt)),
  }
  if (widthPx === undefined || widthPx >= (said.widthPx ?? Infinity)) return said
  const tall = said.widthPx !== null && said.heightPx !== null ? (said.heightPx * widthPx) / said.widthPx : null
  return { bytes: null, widthPx: Math.round(widthPx), heightPx: tall === null ? null : Math.max(1, Math.round(tall)) }
}

/** The base of relative addresses. */
export function baseOf(screen: Screen): string | null {
  const { base, source } = screen.feed
  if (base !== null) return base
  if (source.type === 'origin' && (isMadeUp(source.feed) || source.feed === 'folder')) return archiveBase
  return source.type === 'url' ? source.url : null
}

/** The rendition that a slot of so many px wants. */
export function targetOf(slot: Slot, px: { width: number; height: number }, density: number): Target {
  const { fit, decodeAt, media } = slot
  const target: Target = { ...px, fit, decodeAt, making: makingOf(slot, density) }
  switch (media.type) {
    case 'still':
      return target
    case 'animated':
      return { ...target, moments: media.play === 'first-frame' ? 'first' : 'all' }
    case 'poster':
      return { ...target, moments: { ms: media.offsetMs } }
  }
}

/** Treatments at decode in their order, then the shape. */
function makingOf(slot: Slot, density: number): Making[] {
  const making = slot.treatments.map((each): Making => {
    switch (each.type) {
      case 'grayscale':
        return { type: 'grayscale', amount: each.amount }
      case 'blur':
        return { type: 'blur', radiusPx: each.radiusDp * density }
      case 'tint':
        return { type: 'tint', colour: each.colour, amount: each.amount }
    }
  })
  const { circle, cornersDp, position } = slot
  if (slot.shapeAt === 'decode' && hasShape(slot))
    making.push({
      type: 'shape',
      circle,
      cornersPx: circle ? [] : cornersDp.map((dp) => dp * density),
      position: [position[0], position[1]],
    })
  return making
}

export const hasShape = (slot: Slot) => slot.circle || slot.cornersDp.some((corner) => corner > 0)

const whole = (value: number | null) => (value === null ? null : Math.round(value))
