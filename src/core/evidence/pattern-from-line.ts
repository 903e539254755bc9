import type { AppEventName } from './app-event.ts'

/** What a value of a sample line can become: the groups of a pattern. */
export const valueRoles = ['t', 'cell', 'row', 'key', 'address', 'ms', 'bytes', 'tier', 'text'] as const
export type ValueRole = (typeof valueRoles)[number]

/** A piece of a line: a value that can be named, or the text between values. */
export interface LinePiece {
  text: string
  isValue: boolean
}

const value =
  /https?:\/\/\S+|\d{2,4}-\d\d(?:-\d\d)?[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?Z?|[\w.+-]*\d[\w.]*|\b[a-z]\w*\b(?=\s*$)/gi

/** Cuts a sample line into its values and the text between them. */
export function piecesOf(line: string): LinePiece[] {
  const pieces: LinePiece[] = []
  let from = 0
  for (const found of line.matchAll(value)) {
    if (found.index > from) pieces.push({ text: line.slice(from, found.index), isValue: false })
    pieces.push({ text: found[0], isValue: true })
    from = found.index + found[0].length
  }
  if (from < line.length) pieces.push({ text: line.slice(from), isValue: false })
  return pieces
}

/**
 * The pattern of an event from a sample line: named values become groups, other values may differ from line to line,
 * and the text between them must match.
 */
export function patternFrom(
  event: AppEventName,
  pieces: readonly LinePiece[],
  roles: ReadonlyMap<number, ValueRole>,
): string {
  const last = Math.max(-1, ...roles.keys())
  const source = pieces
    .slice(0, last + 1)
    .map((piece, i) => {
      const role = roles.get(i)
      const any = /^\d{2,4}-\d\d/.test(piece.text) && piece.text.includes(' ') ? String.raw`\S+ \S+` : String.raw`\S+?`
      if (role) return `(?<${role}>${i === last ? any.replace('?', '') : any})`
      return piece.isValue ? any : escaped(piece.text)
    })
    .join('')
  return `${event}=^${source}`
}

const escaped = (text: string) =>
  text.replace(/[\\^$.*+?()[\]{}|/-]/g, String.raw`\$&`).replace(/\s+/g, String.raw`\s+`)
