import type { Feed, Item } from '../project/types.ts'
import { mostItems } from '../project/large-items.ts'
import { countUpTo } from '../numbers/search.ts'
import { textAt } from './json-pointer.ts'

/** The origin of an item, whatever its position is by now: the feed with its repeats, or what edits inserted. */
export interface Origin {
  from: 'feed' | 'inserted'
  /** Its position among the items as they arrived, repeats one after the other; or among all that was inserted. */
  at: number
}

/** Items that are still beside each other as they were at their origin. */
interface Piece extends Origin {
  count: number
  /** Changes that edits have made to the items since. */
  change: Change | null
}

/** One edit of items; repeats of one item stay one item, so that a million of them are not a million copies. */
class Change {
  private readonly made = new Map<Item, Item>()
  private readonly change: (item: Item) => Item

  constructor(change: (item: Item) => Item) {
    this.change = change
  }

  of(item: Item): Item {
    let made = this.made.get(item)
    if (!made) this.made.set(item, (made = this.change(item)))
    return made
  }
}

/**
 * The items that have arrived so far, with repeats and edits: what the list shows. Identity is the key. Nothing is
 * copied by a repeat or an edit: the list is a row of pieces, and an edit cuts and joins them, so that it costs the
 * same for a thousand items and for a million.
 */
export class FeedList {
  private readonly feed: Feed
  private readonly base: Item[] = []
  private readonly inserted: Item[] = []
  private pieces: Piece[] = []
  /** The position of each piece's last item: ascending, as long as `pieces`. */
  private ends: number[] = []
  /** The piece that was found last: neighbours are looked up one after the other. */
  private last = 0
  /** Whether anything was left out because the list has reached its limit. */
  limited = false

  constructor(feed: Feed) {
    this.feed = feed
  }

  get count(): number {
    return this.ends.length === 0 ? 0 : this.ends[this.ends.length - 1]! + 1
  }

  /** Adds the items of a page at the end; what is beyond the limit is left out. */
  append(items: readonly Item[]): void {
    const room = mostItems - this.count
    if (items.length > room) this.limited = true
    const added = items.slice(0, Math.max(0, room))
    const at = this.base.length
    for (const item of added) this.base.push(item)
    this.join([...this.pieces, { from: 'feed', at, count: added.length, change: null }])
  }

  /** Everything has arrived: the repeats follow, as far as the limit allows. */
  complete(): void {
    const wanted = this.feed.repeat.times
    const length = this.base.length
    const most = 1 + Math.floor((mostItems - this.count) / Math.max(1, length))
    const times = Math.max(1, Math.min(wanted, most))
    if (times < wanted && length > 0) this.limited = true
    this.join([...this.pieces, { from: 'feed', at: length, count: length * (times - 1), change: null }])
  }

  item(index: number): Item {
    const at = this.placeOf(index)
    const { from, change } = this.pieces[this.last]!
    const item = from === 'feed' ? this.base[at % this.base.length]! : this.inserted[at]!
    return change ? change.of(item) : item
  }

  repeat(index: number): number {
    const at = this.placeOf(index)
    return this.pieces[this.last]!.from === 'feed' ? Math.floor(at / this.base.length) : 0
  }

  /**
   * The item's identity: the value at the feed's key pointer, else its first position; a repeat adds its number. It is
   * that of the item as it arrived: an update changes none.
   */
  key(index: number): string {
    const at = this.placeOf(index)
    if (this.pieces[this.last]!.from === 'inserted') return `new-${at + 1}`
    const place = at % this.base.length
    const own = this.feed.key === null ? null : textAt(this.base[place]!, this.feed.key)
    const name = own ?? `#${place}`
    return at < this.base.length ? name : `${name}~${Math.floor(at / this.base.length)}`
  }

  /** The kind of the item, null when the feed has no field for it. */
  kind(index: number): string | null {
    return this.feed.kind === null ? null : (textAt(this.item(index), this.feed.kind) ?? '')
  }

  origin(index: number): Origin {
    const at = this.placeOf(index)
    return { from: this.pieces[this.last]!.from, at }
  }

  /** The present position of an item by its origin; null once it was removed. */
  find({ from, at }: Origin): number | null {
    const found = this.pieces.findIndex((piece) => piece.from === from && at >= piece.at && at < piece.at + piece.count)
    return found < 0 ? null : this.startOf(found) + at - this.pieces[found]!.at
  }

  insert(at: number, items: readonly Item[]): void {
    const room = Math.max(0, mostItems - this.count)
    if (items.length > room) this.limited = true
    const added = items.slice(0, room)
    const first = this.inserted.length
    for (const item of added) this.inserted.push(item)
    this.join([
      ...this.between(0, at),
      { from: 'inserted', at: first, count: added.length, change: null },
      ...this.between(at, this.count),
    ])
  }

  remove(at: number, count: number): void {
    this.join([...this.between(0, at), ...this.between(at + count, this.count)])
  }

  /** Removes items and inserts them again before the item that is then at position `to`. */
  move(at: number, count: number, to: number): void {
    const moved = this.between(at, at + count)
    this.remove(at, count)
    this.join([...this.between(0, to), ...moved, ...this.between(to, this.count)])
  }

  update(at: number, count: number, change: (item: Item) => Item): void {
    const made = new Map<Change | null, Change>()
    const changed = this.between(at, at + count).map((piece) => {
      const before = piece.change
      let next = made.get(before)
      if (!next) made.set(before, (next = new Change(before ? (item) => change(before.of(item)) : change)))
      return { ...piece, change: next }
    })
    this.join([...this.between(0, at), ...changed, ...this.between(at + count, this.count)])
  }

  /** The pieces of the positions [from, to), those at the edges cut to size. */
  private between(from: number, to: number): Piece[] {
    return this.pieces.flatMap((piece, number) => {
      const start = this.startOf(number)
      const skipped = Math.max(0, from - start)
      const count = Math.min(piece.count, to - start) - skipped
      return count > 0 ? [{ ...piece, at: piece.at + skipped, count }] : []
    })
  }

  /** Takes pieces for the list, as few as they can be. */
  private join(pieces: readonly Piece[]): void {
    this.pieces = []
    this.ends = []
    this.last = 0
    let total = 0
    for (const piece of pieces) {
      if (piece.count === 0) continue
      total += piece.count
      const before = this.pieces[this.pieces.length - 1]
      const goesOn =
        before?.from === piece.from && before.at + before.count === piece.at && before.change === piece.change
      if (goesOn) before.count += piece.count
      else this.pieces.push({ ...piece })
      this.ends[this.pieces.length - 1] = total - 1
    }
  }

  private startOf(piece: number): number {
    return piece === 0 ? 0 : this.ends[piece - 1]! + 1
  }

  /** The position of an item at its origin; its piece is `pieces[last]` then. */
  private placeOf(index: number): number {
    if (index > this.ends[this.last]! || index < this.startOf(this.last)) this.last = countUpTo(this.ends, index - 1)
    return this.pieces[this.last]!.at + index - this.startOf(this.last)
  }
}
