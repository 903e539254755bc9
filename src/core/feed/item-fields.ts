import { toPointer } from '../project/pointer-text.ts'
import type { Item } from '../project/types.ts'

/** The use that a value of an item suggests. */
export type LooksLike = 'picture' | 'text' | 'number' | 'other'

export interface ItemField {
  pointer: string
  value: unknown
  looksLike: LooksLike
}

const mostFields = 200
const deepest = 5

/** Every value of an item that could be bound, with its JSON Pointer, in the item's own order. */
export function fieldsOf(item: Item): ItemField[] {
  const found: ItemField[] = []
  const walk = (value: unknown, path: string[]) => {
    if (found.length >= mostFields) return
    if (typeof value === 'object' && value !== null && path.length < deepest)
      for (const [name, inner] of Object.entries(value)) walk(inner, [...path, name])
    else if (typeof value !== 'object')
      found.push({ pointer: toPointer(path), value, looksLike: looksOf(value, path.at(-1) ?? '') })
  }
  walk(item, [])
  return found
}

function looksOf(value: unknown, name: string): LooksLike {
  if (typeof value === 'number') return 'number'
  if (typeof value !== 'string') return 'other'
  if (/\.(jpe?g|png|webp|avif|gif|svg)(\?|#|$)/i.test(value) || /^data:image\//.test(value)) return 'picture'
  if (/^(address|src)$/i.test(name) && /^https?:\/\/\S+$/i.test(value)) return 'picture'
  const named = /(photo|picture|image|img|portrait|thumb|poster|avatar|cover|icon|logo|mark)/i.test(name)
  return named && /^(https?:\/\/|[\w~./?=&%-]+$)/i.test(value) && /[/]/.test(value) ? 'picture' : 'text'
}
