import { unitOf, type TimeUnit } from './instants.ts'

/** What a column can hold. */
export type ColumnRole = 'begin' | 'due' | 'end' | 'presented' | 'duration' | 'work' | 'time' | 'value' | 'thread'

export interface Column {
  role: ColumnRole
  /** From 0. */
  at: number
  /** null: the column does not say. */
  unit: TimeUnit | null
  /** Bytes per unit, of a column of memory; null: it does not say. */
  bytes: number | null
}

/** Words that identify each role, whole words first. */
const words: readonly [ColumnRole, RegExp][] = [
  ['thread', /^(thread|tid|queue|worker)/],
  ['due', /^(due|deadline|expected|target)/],
  ['presented', /^(present|shown|displayed|vsync_?out)/],
  ['begin', /^(start|begin|from|intended)/],
  ['end', /^(end|finish|complet|frame_?complet|to$)/],
  ['work', /^(work|cpu|busy|main)/],
  ['duration', /^(duration|length|took|total|elapsed_?time|frame_?time)/],
  ['value', /^(value|memory|mem|resident|rss|pss|heap|used|mb$|kb$|bytes$)/],
  ['time', /^(time|timestamp|t$|at$|when|elapsed|instant|clock)/],
]

const memoryUnits: Record<string, number> = {
  b: 1,
  byte: 1,
  bytes: 1,
  kb: 1000,
  kib: 1024,
  mb: 1_000_000,
  mib: 1_048_576,
  gb: 1_000_000_000,
  gib: 1_073_741_824,
}

/** What the columns of a header hold, by the words in it and a unit after `_` or in brackets. */
export function columnsOf(header: readonly string[]): Column[] {
  const found: Column[] = []
  for (const [at, title] of header.entries()) {
    const column = columnOf(title, at)
    if (column && !found.some(({ role }) => role === column.role)) found.push(column)
  }
  return found
}

function columnOf(title: string, at: number): Column | null {
  const plain = title
    .trim()
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
  const unit = /[[(]\s*([^\])]+?)\s*[\])]\s*$/.exec(plain)?.[1] ?? /[_\s-]([a-zµμ]+)$/.exec(plain)?.[1] ?? plain
  const name = plain.replace(/[[(].*$/, '').trim()
  const role =
    words.find(([, word]) => word.test(name))?.[0] ??
    words.find(([, word]) => name.split(/[_\s-]+/).some((part) => word.test(part)))?.[0]
  return role ? { role, at, unit: unitOf(unit), bytes: memoryUnits[unit] ?? null } : null
}

/** The kind of table that these columns make; null: unknown. */
export function tableKind(columns: readonly Column[]): 'frames' | 'memory' | 'busy' | null {
  const has = (role: ColumnRole) => columns.some((column) => column.role === role)
  if (has('thread') && (has('begin') || has('time')) && (has('end') || has('duration') || has('work'))) return 'busy'
  if (has('value') && (has('time') || has('begin'))) return 'memory'
  if (has('presented') || has('end') || has('duration') || (has('work') && !has('value'))) return 'frames'
  return null
}

/** Columns that are given by hand: `start=2,end=14,unit=ns`, counted from 1, or by their titles. */
export function mappedColumns(text: string, header: readonly string[]): Column[] | string {
  const columns: Column[] = []
  let unit: TimeUnit | null = null
  for (const part of text.split(',')) {
    const [name = '', value = ''] = part.split('=').map((each) => each.trim())
    if (name === 'unit') {
      unit = unitOf(value)
      if (unit === null) return `"${part}": the unit is s, ms, us or ns`
      continue
    }
    const role = name === 'start' ? 'begin' : roles.find((each) => each === name)
    if (!role) return `"${part}": columns are ${['start', ...roles].join(', ')}, and unit`
    const at = /^\d+$/.test(value) ? Number(value) - 1 : header.findIndex((title) => title.trim() === value)
    if (at < 0 || at > 1000)
      return `"${part}": there is no column ${value}; they are counted from 1, or named by their title`
    columns.push({ role, at, unit: null, bytes: null })
  }
  if (columns.length === 0) return `"${text}": it names no column, such as start=2,end=14,unit=ns`
  return columns.map((column) => ({ ...column, unit }))
}

const roles: readonly ColumnRole[] = ['begin', 'due', 'end', 'presented', 'duration', 'work', 'time', 'value', 'thread']
