/** Pointers come from a project's settings: few, and each is read for every item. */
const known = new Map<string, readonly string[]>()
const mostKnown = 1000

function keysOf(pointer: string): readonly string[] {
  let keys = known.get(pointer)
  if (!keys) {
    if (known.size >= mostKnown) known.clear()
    known.set(
      pointer,
      (keys = pointer
        .slice(1)
        .split('/')
        .map((raw) => raw.replaceAll('~1', '/').replaceAll('~0', '~'))),
    )
  }
  return keys
}

/** The value at a JSON Pointer (RFC 6901), undefined when there is none. Only own members count. */
export function valueAt(root: unknown, pointer: string): unknown {
  if (pointer === '') return root
  let at: unknown = root
  for (const key of keysOf(pointer)) {
    if (typeof at !== 'object' || at === null) return undefined
    if (!Object.hasOwn(at, key)) return undefined
    at = (at as Record<string, unknown>)[key]
  }
  return at
}

/** The text of a value: text and numbers as they are, null for everything else. */
export function textAt(root: unknown, pointer: string): string | null {
  const value = valueAt(root, pointer)
  if (typeof value === 'string') return value
  return typeof value === 'number' ? String(value) : null
}

/** A finite positive number, or null. */
export function numberAt(root: unknown, pointer: string | null): number | null {
  if (pointer === null) return null
  const value = valueAt(root, pointer)
  return typeof value === 'number' && value > 0 && value < Infinity ? value : null
}
