import type { Item } from '../project/types.ts'
import { toPointer } from '../project/pointer-text.ts'
import { readFeedText } from './feed-text.ts'
import { textAt, valueAt } from './json-pointer.ts'

const maxItems = 1_000_000
/** How deep lists of items are searched for. */
const searchDepth = 6
const nextPlaces = ['/next', '/nextPage', '/next_page', '/links/next', '/paging/next', '/meta/next']
const keyNames = ['id', 'key', '_id', 'uuid', 'guid', 'slug', 'sku', 'code', 'name']

export interface FeedOptions {
  /** JSON Pointer of the list; null: the longest list that is found. */
  itemsAt: string | null
  /** JSON Pointer of an item's key; undefined: the first field that differs between all items. */
  key?: string | null
  /** JSON Pointer of the next page's address; undefined: a usual place for it. */
  nextAt?: string | null
}

export interface ReadFeed {
  items: Item[]
  itemsAt: string
  /** Every list of items that was found, the longest first. */
  lists: { at: string; count: number }[]
  /** The key that differs between all items; null when none does, and the position has to serve. */
  key: string | null
  nextAt: string | null
  next: string | null
  /** Entries that are not items and were left out. */
  leftOut: number
}

export type FeedRead = { ok: true; feed: ReadFeed } | { ok: false; message: string }

/** Reads a feed: finds its list, its items and their key. Errors are reported with their place; nothing is guessed. */
export function readFeed(name: string, text: string, options: FeedOptions): FeedRead {
  const read = readFeedText(name, text)
  if (!read.ok) return read
  const root = read.value
  const lists = findLists(root)
  const itemsAt = options.itemsAt ?? lists[0]?.at
  if (itemsAt === undefined)
    return no(
      `no list of items was found, ${searchDepth} levels deep; allowed: a list of objects or of addresses, at the top or below a name`,
    )
  const list = valueAt(root, itemsAt)
  if (!Array.isArray(list)) return no(`${itemsAt || 'the top'}: found ${kindOf(list)}, allowed: a list${hint(lists)}`)
  if (list.length > maxItems)
    return no(`${itemsAt || 'the top'}: has ${list.length} entries; at most ${maxItems} are read`)
  const items = list.flatMap((entry) => asItem(entry) ?? [])
  if (items.length === 0)
    return no(
      `${itemsAt || 'the top'}: holds no item; allowed: objects or addresses${hint(lists.filter(({ at }) => at !== itemsAt))}`,
    )
  const key = options.key === undefined ? pickKey(items) : options.key
  const repeats = key === null ? null : repeatOf(items, key)
  if (repeats !== null) return no(repeats)
  const nextAt =
    options.nextAt === undefined
      ? (nextPlaces.find((place) => typeof valueAt(root, place) === 'string') ?? null)
      : options.nextAt
  const next = nextAt === null ? null : valueAt(root, nextAt)
  return {
    ok: true,
    feed: {
      items,
      itemsAt,
      lists,
      key,
      nextAt,
      next: typeof next === 'string' && next !== '' ? next : null,
      leftOut: list.length - items.length,
    },
  }
}

/** Names items with the same key, or returns null when all keys differ. Items count from 1. */
export function repeatOf(items: readonly Item[], key: string): string | null {
  const seen = new Map<string, number>()
  for (const [index, item] of items.entries()) {
    const value = textAt(item, key)
    if (value === null) return `${key}: item ${index + 1} has no such text or number; a key must be unique to each item`
    const before = seen.get(value)
    if (before !== undefined)
      return `${key}: "${value.slice(0, 80)}" is the key of item ${before + 1} and of item ${index + 1}; a key must be unique to each item`
    seen.set(value, index)
  }
  return null
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })

const hint = (lists: readonly { at: string; count: number }[]) =>
  lists.length === 0
    ? ''
    : `; there is one at ${lists
        .slice(0, 3)
        .map(({ at, count }) => `${at || 'the top'} (${count})`)
        .join(', ')}`

function kindOf(value: unknown): string {
  if (value === undefined) return 'nothing'
  if (value === null) return 'null'
  if (Array.isArray(value)) return 'a list'
  return typeof value === 'object' ? 'an object' : JSON.stringify(value).slice(0, 80)
}

/** Objects are items; an address alone becomes an item with nothing else. */
function asItem(entry: unknown): Item[] | null {
  if (typeof entry === 'string') return [{ address: entry }]
  return typeof entry === 'object' && entry !== null && !Array.isArray(entry) ? [entry as Item] : null
}

/** Every list that holds items, the longest first; among equals the one nearer to the top. */
function findLists(root: unknown): { at: string; count: number }[] {
  const found: { at: string; count: number }[] = []
  let level: { value: unknown; path: string[] }[] = [{ value: root, path: [] }]
  for (let depth = 0; depth <= searchDepth && level.length > 0; depth++) {
    const below: typeof level = []
    for (const { value, path } of level) {
      if (Array.isArray(value)) {
        if (holdsItems(value)) found.push({ at: toPointer(path), count: value.length })
      } else for (const [name, inner] of objectsIn(value)) below.push({ value: inner, path: [...path, name] })
    }
    level = below
  }
  return found.sort((a, b) => b.count - a.count)
}

const objectsIn = (value: unknown): [string, object][] =>
  Object.entries(value ?? {}).filter(
    (entry): entry is [string, object] => typeof entry[1] === 'object' && entry[1] !== null,
  )

/** Whether the first entry that could be an item is one: an object, or an address. */
function holdsItems(list: readonly unknown[]): boolean {
  const first = list.find((entry) => asItem(entry) !== null)
  return first !== undefined && (typeof first === 'object' || isAddress(first))
}

const isAddress = (value: unknown) =>
  typeof value === 'string' && /^(https?:\/\/|\/|[\w./-]+\.(jpe?g|png|webp|avif|gif|svg)\b)/i.test(value)

/** The first field that differs between all items, the usual names before the others. */
function pickKey(items: readonly Item[]): string | null {
  const names = Object.keys(items[0]!).sort((a, b) => rankOf(a) - rankOf(b))
  for (const name of names) {
    const pointer = toPointer([name])
    if (textAt(items[0], pointer) !== null && repeatOf(items, pointer) === null) return pointer
  }
  return null
}

function rankOf(name: string): number {
  const place = keyNames.indexOf(name.toLowerCase())
  return place < 0 ? keyNames.length : place
}
