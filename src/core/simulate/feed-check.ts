import { addressOf, firstField, type Address, type SlotPx } from '../feed/address.ts'
import { checkAddresses, type AddressCheck } from '../feed/address-check.ts'
import { FeedList } from '../feed/feed-list.ts'
import { isArchive } from '../feed/tiles.ts'
import { hostMatches } from '../loading/hosts.ts'
import { isMadeUp, madeUpFeeds } from '../feed/made-up.ts'
import { ListLayout } from '../layout/list-layout.ts'
import { mostItems } from '../project/large-items.ts'
import { decodedSize } from '../loading/rendition.ts'
import type { Feed, Item, Project, Screen, Slot } from '../project/types.ts'
import { plainReply } from '../network/reply.ts'
import { baseOf, hintsOf } from '../list/pictures.ts'

export interface SlotCheck extends AddressCheck {
  /** The number of the cell's kind, and of the slot in it. */
  cell: number
  number: number
  kind: string
  /** Feed positions of the items that this cell is for; the check's own positions refer to them. */
  own: number[]
  px: { width: number; height: number }
  /** Addresses of the first items. */
  examples: { item: number; address: Address }[]
  saving: Saving | null
}

/** What requesting the slot's size saves against the picture as it is stored, on average a picture. */
export interface Saving {
  bytes: number
  decodeMs: number
  /** Over the whole list. */
  allBytes: number
  originalPx: number
}

export interface FeedCheck {
  items: number
  withoutKind: number
  slots: SlotCheck[]
}

const exampleCount = 3
/** Savings are computed over so many items, evenly spread. */
const sampleCount = 200

/**
 * Checks every address of a screen before anything loads. `relay`: patterns of the real hosts that can be reached from
 * here; null: not known.
 */
export function checkFeed(
  project: Project,
  screen: Screen,
  items: readonly Item[],
  relay: readonly string[] | null = null,
): FeedCheck {
  const reaches = relay && ((host: string) => isArchive(host) || relay.some((pattern) => hostMatches(pattern, host)))
  const { widthDp, density } = project.device
  const list = new FeedList(screen.feed)
  list.append(items)
  const layout = new ListLayout(screen, widthDp, list)
  const kinds = items.map((_, index) => layout.fittingKindOf(index))
  const slots = screen.cells.flatMap((cell, kind) =>
    cell.slots.map((slot, number): SlotCheck => {
      const own = items.map((_, index) => index).filter((index) => kinds[index] === kind)
      const box = own.length > 0 ? layout.geometry(own[0]!).slots[number]! : { width: 1, height: 1 }
      const px = {
        width: Math.max(1, Math.round(box.width * density)),
        height: Math.max(1, Math.round(box.height * density)),
      }
      const asked = { widthPx: px.width, heightPx: px.height, density }
      const ownItems = own.map((index) => items[index]!)
      return {
        ...checkAddresses(ownItems, screen, slot, asked, baseOf(screen), reaches),
        cell: kind,
        number,
        kind: cell.kind,
        own,
        px,
        examples: ownItems
          .slice(0, exampleCount)
          .map((item, at) => ({ item: own[at]!, address: addressOf(item, slot, asked, baseOf(screen)) })),
        saving: savingOf(project, screen, slot, ownItems, px),
      }
    }),
  )
  return { items: items.length, withoutKind: layout.withoutKind, slots }
}

function savingOf(
  project: Project,
  screen: Screen,
  slot: Slot,
  items: readonly Item[],
  px: { width: number; height: number },
): Saving | null {
  const { density, costs, speed } = project.device
  const asked = { widthPx: px.width, heightPx: px.height, density }
  const original = originalOf(slot, asked)
  if (original === null) return null
  const cost = (address: Address, item: Item) => {
    const reply = plainReply(address.href, hintsOf(item, slot, address), null, null)
    const target = decodedSize(reply, { ...px, fit: slot.fit, decodeAt: slot.decodeAt, making: [] })
    const reduced = target.width * 2 <= reply.width && target.height * 2 <= reply.height ? costs.reducedFactor : 1
    return {
      reply,
      ms: (costs.decodeMs + (reply.width * reply.height * costs.decodeNsPerPx[reply.codec] * reduced) / 1e6) / speed,
    }
  }
  let count = 0
  let bytes = 0
  let decodeMs = 0
  let originalPx = 0
  const step = Math.max(1, Math.floor(items.length / sampleCount))
  for (let i = 0; i < items.length; i += step) {
    const item = items[i]!
    const before = addressOf(item, original.slot, original.asked, baseOf(screen))
    const after = addressOf(item, slot, asked, baseOf(screen))
    if (before.class !== 'good' || after.class !== 'good') continue
    const [whole, small] = [cost(before, item), cost(after, item)]
    if (whole.reply.status !== 200 || small.reply.status !== 200) continue
    count++
    bytes += whole.reply.bytes - small.reply.bytes
    decodeMs += whole.ms - small.ms
    originalPx += whole.reply.width
  }
  if (count === 0) return null
  return {
    bytes: Math.round(bytes / count),
    decodeMs: decodeMs / count,
    allBytes: Math.round((bytes / count) * items.length),
    originalPx: Math.round(originalPx / count),
  }
}

/** The address of the original of a picture that is requested by its size; null: it is not requested so. */
function originalOf(slot: Slot, asked: SlotPx): { slot: Slot; asked: SlotPx } | null {
  switch (slot.address.type) {
    case 'template': {
      const { template } = slot.address
      const field = /\b(widthPx|heightPx)\b/.test(template) ? firstField(template) : null
      return field === null ? null : { slot: { ...slot, address: { type: 'pointer', at: field } }, asked }
    }
    case 'sizes':
      // No picture is as wide as this: the widest that an item has is taken.
      return { slot, asked: { ...asked, widthPx: Infinity } }
    default:
      return null
  }
}

/** The error when a feed's repeats make a list that is too long; null: they do not, as far as its items are known. */
export function tooLong(feed: Feed): string | null {
  const { source, repeat } = feed
  const count = itemsKnown(source)
  if (count * repeat.times <= mostItems) return null
  return `/feed/repeat/times: found ${repeat.times}, allowed: at most ${Math.floor(mostItems / count)}: a list has ${mostItems} items at most, and this one has ${count} already`
}

/** How many items a feed has before anything is fetched; 0 where that is not known. */
function itemsKnown(source: Feed['source']): number {
  if (source.type === 'inline') return source.items.length
  return source.type === 'origin' && isMadeUp(source.feed) ? madeUpFeeds[source.feed].items : 0
}
