import { dirname, resolve } from 'node:path'
import { readJson } from '../core/project/json-text.ts'
import type { Item } from '../core/project/types.ts'
import { badInput } from './fault.ts'
import { readText } from './read-text.ts'

/** Reads the items of a feed file that lies beside the project file: a JSON array, or an object with `items`. */
export async function readItems(projectFile: string, name: string): Promise<Item[]> {
  const file = resolve(dirname(projectFile), name)
  const read = readJson(await readText(file))
  if (!read.ok) throw badInput(`${file}: ${read.message}`)
  const list = Array.isArray(read.value) ? read.value : (read.value as { items?: unknown } | null)?.items
  if (!Array.isArray(list)) throw badInput(`${file}: found no list of items; allowed: a JSON array, or an object with "items"`)
  const wrong = list.findIndex((item) => typeof item !== 'object' || item === null || Array.isArray(item))
  if (wrong >= 0) throw badInput(`${file}: /${wrong}: found ${JSON.stringify(list[wrong])}, allowed: an object`)
  return list as Item[]
}
