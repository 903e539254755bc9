import { mapLargeItems } from '../../core/project/large-items.ts'
import type { Raw } from '../../core/project/parse.ts'
import type { Item } from '../../core/project/types.ts'
import { database, type SharedItems } from './database.ts'

/**
 * Names of the lists that are open, and the lists by their names: the same list is one object, however many runs have
 * it.
 */
const ids = new WeakMap<object, string>()
const open = new Map<string, WeakRef<readonly Item[]>>()

/** Takes the place of a long list of items in a kept file. */
interface Placeholder {
  shared: string
}

function nameOf(items: readonly Item[]): string {
  const known = ids.get(items)
  if (known !== undefined) return known
  const id = crypto.randomUUID()
  remember(id, items)
  return id
}

function remember(id: string, items: readonly Item[]): void {
  ids.set(items, id)
  open.set(id, new WeakRef(items))
}

/** A file as it is kept: with its long lists of items apart, so that an edit or a run writes none of them again. */
export function packItems(raw: Raw): { raw: Raw; lists: SharedItems[] } {
  const lists: SharedItems[] = []
  const packed = mapLargeItems(raw, (items) => {
    const id = nameOf(items)
    lists.push({ id, items })
    return { shared: id } satisfies Placeholder
  })
  return { raw: packed, lists }
}

/** Writes the lists that are not there yet, in the same transaction as what refers to them. */
export async function keepItems(lists: readonly SharedItems[]): Promise<void> {
  if (lists.length === 0) return
  const there = new Set(
    await database.shared
      .where('id')
      .anyOf(lists.map(({ id }) => id))
      .primaryKeys(),
  )
  await database.shared.bulkPut(lists.filter(({ id }) => !there.has(id)))
}

/** A kept file with its lists again: those that are open already are the same objects. */
export async function unpackItems(raw: Raw): Promise<Raw> {
  if (!Array.isArray(raw.screens)) return raw
  const screens = await Promise.all((raw.screens as unknown[]).map(withItems))
  return screens.every((screen, i) => screen === (raw.screens as unknown[])[i]) ? raw : { ...raw, screens }
}

async function withItems(screen: unknown): Promise<unknown> {
  const source = (screen as { feed?: { source?: { items?: unknown } } } | null)?.feed?.source
  const id = (source?.items as Partial<Placeholder> | undefined)?.shared
  if (typeof id !== 'string') return screen
  const items = open.get(id)?.deref() ?? (await read(id))
  const { feed } = screen as { feed: object }
  return { ...(screen as object), feed: { ...feed, source: { ...source, items } } }
}

async function read(id: string): Promise<readonly Item[]> {
  const found = await database.shared.get(id)
  if (!found) throw new Error('its items are not in this browser any more')
  remember(id, found.items)
  return found.items
}

/** Deletes lists that neither a project nor a run refers to any more. */
export async function dropUnusedItems(): Promise<void> {
  await database.transaction('rw', database.projects, database.runs, database.shared, async () => {
    const used = new Set<string>()
    const note = (raw: Raw) => {
      for (const id of namesIn(raw)) used.add(id)
    }
    await database.projects.each(({ raw }) => note(raw))
    await database.runs.each(({ raw }) => note(raw))
    const there = await database.shared.toCollection().primaryKeys()
    await database.shared.bulkDelete(there.filter((id) => !used.has(id)))
  })
}

/** The lists that a kept file refers to. */
export function namesIn(raw: Raw): string[] {
  if (!Array.isArray(raw.screens)) return []
  return (raw.screens as { feed?: { source?: { items?: Partial<Placeholder> } } }[]).flatMap(
    (screen) => screen?.feed?.source?.items?.shared ?? [],
  )
}
