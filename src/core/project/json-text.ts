import { parse, printParseErrorCode, type ParseError } from 'jsonc-parser'
import { escapePointer } from './pointer-text.ts'

/** Limits of every JSON text that is read; the error names them when one is exceeded. */
const jsonLimits = { bytes: 64_000_000, depth: 100 }

export type Read<T> = { ok: true; value: T } | { ok: false; message: string }

/**
 * Reads a JSON text (RFC 8259). A broken one is reported with its line and column, one that nests too deep or that has
 * the key `__proto__` with its JSON Pointer.
 */
export function readJson(text: string): Read<unknown> {
  if (text.length > jsonLimits.bytes)
    return no(`the text is ${text.length} characters long; at most ${jsonLimits.bytes} are read`)
  const plain = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text
  if (plain.trim() === '') return no('the text is empty; a JSON object is expected')
  let value: unknown
  try {
    value = JSON.parse(plain)
  } catch {
    // The parser that finds the place recurses level by level: a text that nests too deep is reported as that.
    const deep = tooDeepAt(plain)
    return no(
      deep === null ? whereBroken(plain) : `${placeOf(plain, deep)}: nests deeper than ${jsonLimits.depth} levels`,
    )
  }
  const danger = findDanger(value)
  return danger === null ? { ok: true, value } : no(danger)
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })

function whereBroken(text: string): string {
  const errors: ParseError[] = []
  parse(text, errors, { disallowComments: true, allowTrailingComma: false })
  const first = errors[0]
  const offset = first?.offset ?? text.length
  const what = first ? spoken(printParseErrorCode(first.error)) : 'a control character or a wrong escape'
  return `${placeOf(text, offset)}: the JSON breaks here (${what})`
}

function placeOf(text: string, offset: number): string {
  const before = text.slice(0, offset)
  return `line ${before.split('\n').length}, column ${offset - before.lastIndexOf('\n')}`
}

/** The position at which brackets, outside of strings, nest too deep; null: they do not. */
function tooDeepAt(text: string): number | null {
  let depth = 0
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const character = text[i]
    if (quoted) {
      if (character === '\\') i++
      else if (character === '"') quoted = false
    } else if (character === '"') quoted = true
    else if (character === '{' || character === '[') {
      if (++depth > jsonLimits.depth) return i
    } else if (character === '}' || character === ']') depth--
  }
  return null
}

const spoken = (code: string) => code.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()

function findDanger(root: unknown): string | null {
  const waiting: { value: unknown; path: string; depth: number }[] = [{ value: root, path: '', depth: 0 }]
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { value, path, depth } = next
    if (typeof value !== 'object' || value === null) continue
    if (depth >= jsonLimits.depth) return `${path.slice(0, 80)}…: nests deeper than ${jsonLimits.depth} levels`
    if (Object.hasOwn(value, '__proto__')) return `${path}/__proto__: this name is not allowed`
    for (const [key, inner] of Object.entries(value))
      if (typeof inner === 'object' && inner !== null)
        waiting.push({ value: inner, path: `${path}/${escapePointer(key)}`, depth: depth + 1 })
  }
  return null
}
