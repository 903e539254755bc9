import type { Item } from '../project/types.ts'
import { fieldsOf, type LooksLike } from './item-fields.ts'

/** Bindings that the values of a feed suggest, as JSON Pointers; null: nothing fits. */
export interface Proposal {
  picture: string | null
  width: string | null
  height: string | null
  /** Lines of text, the most informative first. */
  texts: string[]
}

/** The number of items that are examined. */
const looked = 50
const mostTexts = 2
/** Names of values that are read first on a cell, the most informative first. */
const textNames = /^(title|headline|name|label|caption|subtitle|subject|author|maker|text|summary|description)$/i

/** Examines the values of a feed's first items; a field counts when at least half of them have it. */
export function proposeBindings(items: readonly Item[], key: string | null): Proposal {
  const seen = new Map<string, Map<LooksLike, number>>()
  const first = items.slice(0, looked)
  for (const item of first)
    for (const { pointer, looksLike } of fieldsOf(item)) {
      const looks = seen.get(pointer) ?? new Map<LooksLike, number>()
      seen.set(pointer, looks.set(looksLike, (looks.get(looksLike) ?? 0) + 1))
    }
  const all = (wanted: LooksLike) =>
    [...seen].flatMap(([pointer, looks]) => ((looks.get(wanted) ?? 0) * 2 >= first.length ? [pointer] : []))
  const picture = all('picture')[0] ?? null
  const numbers = all('number')
  // The size beside the address is the picture's; one elsewhere may be that of anything.
  const beside = picture?.slice(0, picture.lastIndexOf('/')) ?? ''
  const sized = (names: RegExp) =>
    [...numbers.filter((each) => each.startsWith(`${beside}/`)), ...numbers].find((each) => names.test(nameOf(each))) ??
    null
  const texts = all('text')
    .filter((pointer) => pointer !== key && textNames.test(nameOf(pointer)))
    .sort((one, other) => rankOf(one) - rankOf(other))
  return {
    picture,
    width: sized(/^(w|width|pixelwidth)$/i),
    height: sized(/^(h|height|pixelheight)$/i),
    texts: texts.slice(0, mostTexts),
  }
}

const nameOf = (pointer: string) => pointer.slice(pointer.lastIndexOf('/') + 1)
const order = textNames.source.slice(2, -2).split('|')
const rankOf = (pointer: string) => order.indexOf(nameOf(pointer).toLowerCase())
