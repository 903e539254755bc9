import type { Setting } from './setting.ts'

/** A setting with the values to try. */
export interface Varied {
  path: string
  values: readonly unknown[]
}

export type Read<T> = { ok: true; value: T } | { ok: false; message: string }

/** The most values of one setting, and the most combinations. */
export const mostValues = 1000
export const mostRows = 100_000

/** Reads `PATH=A,B,C`. A value is JSON where it can be read as that, else the text as it is. */
export function readVary(text: string): Read<Varied> {
  const equals = text.indexOf('=')
  const path = text.slice(0, equals).trim()
  if (equals < 1 || path === '') return no(`found "${text}", allowed: PATH=A,B,C`)
  const parts = splitValues(text.slice(equals + 1))
  if (parts.some((part) => part === '')) return no(`${path}: a value is empty; allowed: PATH=A,B,C`)
  if (parts.length > mostValues) return no(`${path}: has ${parts.length} values; at most ${mostValues} are tried`)
  return { ok: true, value: { path, values: parts.map(plainValue) } }
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })

function plainValue(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return text
  }
}

/** Splits at commas, but not within brackets, braces or quotes of a JSON value. */
export function splitValues(text: string): string[] {
  const parts: string[] = []
  let depth = 0
  let isQuoted = false
  let from = 0
  for (let i = 0; i < text.length; i++) {
    const character = text[i]!
    if (isQuoted) {
      if (character === '\\') i++
      else if (character === '"') isQuoted = false
    } else if (character === '"') isQuoted = depth > 0 || text.slice(from, i).trim() === ''
    else if (character === '[' || character === '{') depth++
    else if (character === ']' || character === '}') depth = Math.max(0, depth - 1)
    else if (character === ',' && depth === 0) {
      parts.push(text.slice(from, i).trim())
      from = i + 1
    }
  }
  return [...parts, text.slice(from).trim()]
}

/** Every combination of the values, the first setting varying slowest. */
export function combinations(varied: readonly Varied[]): Setting[][] {
  return varied.reduce<Setting[][]>(
    (rows, { path, values }) => rows.flatMap((row) => values.map((value) => [...row, { path, value }])),
    [[]],
  )
}

export const rowCountOf = (varied: readonly Varied[]) => varied.reduce((count, { values }) => count * values.length, 1)
