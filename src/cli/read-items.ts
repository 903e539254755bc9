import { dirname, resolve } from 'node:path'
import { readFeed } from '../core/feed/read-feed.ts'
import type { Item } from '../core/project/types.ts'
import { badInput } from './fault.ts'
import { readText } from './read-text.ts'

/** Reads the items of a feed file, JSON or CSV, in the folder of the project file. */
export async function readItems(projectFile: string, name: string): Promise<Item[]> {
  const file = resolve(dirname(projectFile), name)
  const read = readFeed(name, await readText(file), { itemsAt: null, key: null, nextAt: null })
  if (!read.ok) throw badInput(`${file}: ${read.message}`)
  return read.feed.items
}
