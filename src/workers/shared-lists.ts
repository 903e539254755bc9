import { mapLargeItems } from '../core/project/large-items.ts'
import type { Item } from '../core/project/types.ts'
import type { ListMessage } from './messages.ts'

type Json = Record<string, unknown>

/** Shorter lists are sent with their job. */
const longFrom = 200
/** The number of lists that a worker keeps. */
const mostLists = 6
/** The parts of orders that are whole files, and so may contain lists of items. */
const files = ['project', 'raw', 'other'] as const

const ids = new WeakMap<object, number>()
let last = 0

function idOf(items: readonly Item[]): number {
  const known = ids.get(items)
  if (known !== undefined) return known
  ids.set(items, ++last)
  return last
}

/** The lists that one worker has been sent: each long list of items is sent once, not with every order that has it. */
export class ListSender {
  private readonly sent = new Set<number>()

  /** The order as it is sent, and the lists that have to be sent before it. */
  detach<Order extends object>(order: Order): { order: Order; lists: ListMessage[] } {
    const lists: ListMessage[] = []
    const take = (items: readonly Item[]) => {
      const id = idOf(items)
      if (!this.sent.delete(id)) lists.push({ type: 'list', id, items })
      // The newest are last.
      this.sent.add(id)
      return { shared: id }
    }
    const apart: Json = { ...(order as Json) }
    for (const key of files) if (apart[key]) apart[key] = mapLargeItems(apart[key] as Json, take)
    const { items } = apart
    if (Array.isArray(items) && items.length >= longFrom) apart.items = take(items as Item[])
    for (const id of this.sent) {
      if (this.sent.size <= mostLists) break
      this.sent.delete(id)
      lists.push({ type: 'list', id, items: null })
    }
    return { order: apart as Order, lists }
  }
}

/** The lists that a worker has received. */
export class ListReceiver {
  private readonly lists = new Map<number, readonly Item[]>()

  take({ id, items }: ListMessage): void {
    if (items === null) this.lists.delete(id)
    else this.lists.set(id, items)
  }

  /** The order with its lists in their places again. */
  attach<Order extends object>(order: Order): Order {
    const whole: Json = { ...(order as Json) }
    for (const key of files) if (whole[key]) whole[key] = this.withLists(whole[key] as Json)
    if (isPlaceholder(whole.items)) whole.items = this.find(whole.items)
    return whole as Order
  }

  private withLists(file: Json): Json {
    if (!Array.isArray(file.screens)) return file
    const screens = (file.screens as { feed?: { source?: { items?: unknown } } }[]).map((screen) => {
      const source = screen?.feed?.source
      if (!isPlaceholder(source?.items)) return screen
      return { ...screen, feed: { ...screen.feed, source: { ...source, items: this.find(source.items) } } }
    })
    return { ...file, screens }
  }

  private find({ shared }: { shared: number }): readonly Item[] {
    const items = this.lists.get(shared)
    if (!items) throw new Error('the worker was not given the items of this job')
    return items
  }
}

const isPlaceholder = (value: unknown): value is { shared: number } =>
  typeof value === 'object' && value !== null && typeof (value as { shared?: unknown }).shared === 'number'
