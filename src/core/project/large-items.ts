import type { Item, Project } from './types.ts'

type Json = Record<string, unknown>

/** Lists of at least this many items are checked once, and are the same list in the file and in the project. */
const largeFrom = 200
/** The most items of a list. */
export const mostItems = 1_000_000

/** Lists that were found to hold nothing but items. */
const sound = new WeakSet<object>()

/** Whether a value is a long list of items that has been checked. */
export const isLargeItems = (value: object): boolean => sound.has(value)

/**
 * The long lists of items in a project file, taken out while it is parsed: a file of 50,000 items is parsed again at
 * each edit, and its items are plain data that no schema changes. One with a wrong entry stays in, to be reported.
 */
export class LargeItems {
  /** The file with empty lists in their place. */
  readonly without: Json
  private readonly lists = new Map<number, readonly Item[]>()

  constructor(file: Json) {
    const screens = Array.isArray(file.screens) ? (file.screens as unknown[]) : []
    const shorter = screens.map((screen, index) => {
      const items = itemsOf(screen)
      if (items === null) return screen
      this.lists.set(index, items)
      return withItems(screen as ScreenLike, [])
    })
    this.without = this.lists.size === 0 ? file : { ...file, screens: shorter }
  }

  putBack(project: Project): void {
    for (const [index, items] of this.lists) {
      const { source } = project.screens[index]!.feed
      if (source.type === 'inline') source.items = items as Item[]
    }
  }
}

interface ScreenLike {
  feed: { source: { type: string; items: unknown } }
}

const withItems = (screen: ScreenLike, items: unknown): ScreenLike => ({
  ...screen,
  feed: { ...screen.feed, source: { ...screen.feed.source, items } },
})

/** A screen's long list of items, if it has one and all of them are items. */
function itemsOf(screen: unknown): readonly Item[] | null {
  const source = (screen as Partial<ScreenLike> | null)?.feed?.source
  if (source?.type !== 'inline' || !Array.isArray(source.items)) return null
  const items = source.items as unknown[]
  if (sound.has(items)) return items as Item[]
  if (items.length < largeFrom || items.length > mostItems || !items.every(isItem)) return null
  sound.add(items)
  return items as Item[]
}

const isItem = (value: unknown) => typeof value === 'object' && value !== null && !Array.isArray(value)

/** The file with each long list of items replaced by the result of `as`. */
export function mapLargeItems(file: Json, as: (items: readonly Item[]) => unknown): Json {
  if (!Array.isArray(file.screens)) return file
  let changed = false
  const screens = (file.screens as unknown[]).map((screen) => {
    const items = itemsOf(screen)
    if (items === null) return screen
    changed = true
    return withItems(screen as ScreenLike, as(items))
  })
  return changed ? { ...file, screens } : file
}
