import type { Feed, Item } from '../project/types.ts'
import { mostItems } from '../project/large-items.ts'
import { textAt } from './json-pointer.ts'

/**
 * The items that have arrived so far, with repeats and edits: what the list shows. Positions are indices
 * into `order`; identity is the key. A repeated item is not copied: its index says which repeat it is.
 */
export class FeedList {
  private readonly feed: Feed
  private readonly base: Item[] = []
  /** null while the list is the pages one after the other, which a million repeated items rely on. */
  private edited: Entry[] | null = null
  private times = 1
  private inserted = 0
  /** Whether anything was left out because a list has so many items at most. */
  limited = false

  constructor(feed: Feed) {
    this.feed = feed
  }

  get count(): number {
    return this.edited?.length ?? this.base.length * this.times
  }

  /** Adds the items of a page at the end; what is beyond the limit is left out. */
  append(items: readonly Item[]): void {
    const room = mostItems - this.count
    if (items.length > room) this.limited = true
    for (const item of items.length > room ? items.slice(0, room) : items) {
      this.edited?.push({ item, place: this.base.length, repeat: 0, key: null })
      this.base.push(item)
    }
  }

  /** Everything has arrived: the repeats follow, as far as the limit allows. */
  complete(): void {
    const wanted = this.feed.repeat.times
    const before = this.edited?.length ?? this.base.length
    const most = 1 + Math.floor((mostItems - before) / Math.max(1, this.base.length))
    const times = Math.max(1, Math.min(wanted, most))
    if (times < wanted && this.base.length > 0) this.limited = true
    if (this.edited)
      for (let repeat = 1; repeat < times; repeat++)
        for (const [place, item] of this.base.entries()) this.edited.push({ item, place, repeat, key: null })
    else this.times = times
  }

  item(index: number): Item {
    return this.edited ? this.edited[index]!.item : this.base[index % this.base.length]!
  }

  repeat(index: number): number {
    return this.edited ? this.edited[index]!.repeat : Math.floor(index / this.base.length)
  }

  /** The item's identity: the value at the feed's key pointer, else its first position; a repeat adds its number. */
  key(index: number): string {
    const entry = this.edited?.[index]
    if (entry && entry.key !== null) return entry.key
    const own = this.feed.key === null ? null : textAt(this.item(index), this.feed.key)
    const repeat = this.repeat(index)
    const name = own ?? `#${entry ? entry.place : index % this.base.length}`
    return repeat === 0 ? name : `${name}~${repeat}`
  }

  /** The kind that the item asks for, null when the feed has no field for it. */
  kind(index: number): string | null {
    return this.feed.kind === null ? null : (textAt(this.item(index), this.feed.kind) ?? '')
  }

  insert(at: number, items: readonly Item[]): void {
    const list = this.startEditing()
    const room = Math.max(0, mostItems - list.length)
    if (items.length > room) this.limited = true
    const added = items.slice(0, room).map((item) => ({ item, place: -1, repeat: 0, key: `new-${++this.inserted}` }))
    list.splice(at, 0, ...added)
  }

  remove(at: number, count: number): void {
    this.startEditing().splice(at, count)
  }

  move(at: number, count: number, to: number): void {
    const list = this.startEditing()
    list.splice(to, 0, ...list.splice(at, count))
  }

  update(at: number, count: number, change: (item: Item) => Item): void {
    const list = this.startEditing()
    // Repeats of one item stay one item: a million of them are not a million copies.
    const changed = new Map<Item, Item>()
    for (let i = at; i < Math.min(list.length, at + count); i++) {
      const entry = list[i]!
      let item = changed.get(entry.item)
      if (!item) changed.set(entry.item, (item = change(entry.item)))
      list[i] = { ...entry, key: this.key(i), item }
    }
  }

  private startEditing(): Entry[] {
    this.edited ??= Array.from({ length: this.count }, (_, i) => ({
      item: this.base[i % this.base.length]!,
      place: i % this.base.length,
      repeat: Math.floor(i / this.base.length),
      key: null,
    }))
    return this.edited
  }
}

interface Entry {
  item: Item
  /** Where it stood among the items as they arrived; −1: it was inserted. */
  place: number
  repeat: number
  key: string | null
}
