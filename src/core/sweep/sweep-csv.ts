import Papa from 'papaparse'
import { metricIds } from '../profile/figures/metric-definitions.ts'
import { valueText } from './setting.ts'
import type { SweepRow } from './sweep-row.ts'
import type { Read } from './vary.ts'

const newline = '\r\n'

/** Rows as CSV (RFC 4180): row, each path, seeds, then each metric with the ends of its interval; empty for null. */
export function sweepCsv(paths: readonly string[], rows: readonly SweepRow[]): string {
  const head = ['row', ...paths, 'seeds', ...metricIds.flatMap((id) => [id, `${id}.low`, `${id}.high`])]
  const lines = rows.map(({ row, settings, seeds, metrics }) => [
    row,
    ...settings.map(valueText),
    seeds,
    ...metricIds.flatMap((id): (string | number)[] => {
      const interval = metrics[id]
      return interval ? [interval.median, interval.low, interval.high] : ['', '', '']
    }),
  ])
  return Papa.unparse({ fields: head, data: lines }, { newline, escapeFormulae: false }) + newline
}

/** Joins the parts of a sharded sweep: byte for byte what one machine would have written. */
export function mergeCsv(parts: readonly { name: string; text: string }[]): Read<string> {
  const rows = new Map<number, { from: string; line: string }>()
  let head: { from: string; line: string } | null = null
  for (const { name, text } of parts) {
    const read = recordsOf(text)
    if (!read.ok) return { ok: false, message: `${name}: ${read.message}` }
    const [first, ...rest] = read.value
    if (!first || !/^row,/.test(first)) return no(`${name}: line 1: found no head, allowed: what "sweep --csv" writes`)
    head ??= { from: name, line: first }
    if (first !== head.line)
      return no(`${name}: line 1: has other columns than ${head.from}; all parts must be of the same sweep`)
    for (const [i, line] of rest.entries()) {
      const row = /^(\d{1,9}),/.exec(line)
      if (!row) return no(`${name}: line ${i + 2}: found no row number at its start`)
      const number = Number(row[1])
      const before = rows.get(number)
      if (before && before.line !== line)
        return no(`${name}: row ${number} differs from that of ${before.from}; the parts are not of the same sweep`)
      rows.set(number, { from: name, line })
    }
  }
  if (!head) return no('no part was given')
  const numbers = [...rows.keys()].sort((one, other) => one - other)
  const missing = numbers.findIndex((number, i) => number !== i)
  if (missing >= 0) return no(`row ${missing} is in none of the parts`)
  return { ok: true, value: [head.line, ...numbers.map((number) => rows.get(number)!.line), ''].join(newline) }
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })

/** The records as they were written: a quoted value may contain a line break. */
function recordsOf(text: string): Read<string[]> {
  const records: string[] = []
  let from = 0
  let isQuoted = false
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '"') isQuoted = !isQuoted
    else if (text[i] === '\n' && !isQuoted) {
      records.push(text.slice(from, text[i - 1] === '\r' ? i - 1 : i))
      from = i + 1
    }
  }
  if (isQuoted) return no('a quoted value is not closed')
  if (from < text.length) records.push(text.slice(from))
  return { ok: true, value: records.filter((line) => line !== '') }
}
