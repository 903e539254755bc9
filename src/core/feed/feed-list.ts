import type { Feed, Item } from '../project/types.ts'
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

  constructor(feed: Feed) {
    this.feed = feed
  }

  get count(): number {
    return this.edited?.length ?? this.base.length * this.times
  }

  /** Adds the items of a page at the end. */
  append(items: readonly Item[]): void {
    for (const item of items) {
      this.base.push(item)
      this.edited?.push({ item, repeat: 0, key: null })
    }
  }

  /** Everything has arrived: the repeats follow. */
  complete(): void {
    const { times } = this.feed.repeat
    if (this.edited)
      for (let repeat = 1; repeat < times; repeat++)
        this.edited.push(...this.base.map((item) => ({ item, repeat, key: null })))
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
    const name = own ?? `#${entry ? this.base.indexOf(entry.item) : index % this.base.length}`
    return repeat === 0 ? name : `${name}~${repeat}`
  }

  /** The kind that the item asks for, null when the feed has no field for it. */
  kind(index: number): string | null {
    return this.feed.kind === null ? null : (textAt(this.item(index), this.feed.kind) ?? '')
  }

  insert(at: number, items: readonly Item[]): void {
    const list = this.startEditing()
    list.splice(at, 0, ...items.map((item) => ({ item, repeat: 0, key: `new-${++this.inserted}` })))
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
    for (let i = at; i < Math.min(list.length, at + count); i++)
      list[i] = { ...list[i]!, key: this.key(i), item: change(list[i]!.item) }
  }

  private startEditing(): Entry[] {
    this.edited ??= Array.from({ length: this.count }, (_, i) => ({
      item: this.base[i % this.base.length]!,
      repeat: Math.floor(i / this.base.length),
      key: null,
    }))
    return this.edited
  }
}

interface Entry {
  item: Item
  repeat: number
  key: string | null
}
