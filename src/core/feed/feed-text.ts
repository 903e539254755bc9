import Papa from 'papaparse'
import { readJson, type Read } from '../project/json-text.ts'

/** A feed text of more characters than this is not read; the message says so. */
const maxFeedCharacters = 50_000_000

/**
 * The value of a feed text: JSON as it is, CSV (RFC 4180) as a list of objects by its first line, addresses one a line.
 */
export function readFeedText(name: string, text: string): Read<unknown> {
  if (text.length > maxFeedCharacters)
    return no(`the text is ${text.length} characters long; at most ${maxFeedCharacters} are read`)
  const plain = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text
  const first = plain.trimStart().charAt(0)
  if (first === '') return no('the text is empty; JSON, CSV or addresses are expected')
  if (!/\.(csv|tsv|json)$/i.test(name) && /^https?:\/\/\S+\s*$/i.test(plain.trimStart().split('\n', 1)[0]!))
    return readAddresses(plain)
  return /\.(csv|tsv)$/i.test(name) ||
    (first !== '{' && first !== '[' && !/\.json$/i.test(name) && looksLikeTable(plain))
    ? readTable(plain)
    : readJson(plain)
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })

/** Two lines with the same separator: a table rather than broken JSON. */
const looksLikeTable = (text: string) => /^[^\n]*[,;\t][^\n]*\r?\n[^\n]*[,;\t]/.test(text)

/** One address a line; empty lines are passed over. */
function readAddresses(text: string): Read<unknown> {
  const lines = text.split('\n').map((line) => line.trim())
  const wrong = lines.findIndex((line) => /\s/.test(line))
  if (wrong >= 0) return no(`line ${wrong + 1}: found more than an address, allowed: one address per line`)
  return { ok: true, value: lines.filter((line) => line !== '') }
}

function readTable(text: string): Read<unknown> {
  const { data, errors } = Papa.parse<string[]>(text, { skipEmptyLines: 'greedy' })
  const broken = errors.find(({ type }) => type === 'Quotes')
  if (broken)
    return no(
      `line ${lineOf(text, broken.index ?? 0)}: a quoted value is not closed as RFC 4180 wants it (${broken.message.toLowerCase()})`,
    )
  const [names, ...rows] = data
  if (!names || rows.length === 0) return no('the table has no line under its first one, which names the columns')
  for (const [column, name] of names.entries()) {
    if (name === '__proto__') return no(`line 1, column ${column + 1}: the name __proto__ is not allowed`)
    if (names.indexOf(name) !== column)
      return no(`line 1, column ${column + 1}: the name "${name}" was there before; names of columns must differ`)
  }
  const items = []
  for (const [i, row] of rows.entries()) {
    if (row.length > names.length)
      return no(`row ${i + 2} has ${row.length} values, the first line names ${names.length} columns`)
    items.push(
      Object.fromEntries(row.flatMap((value, column) => (value === '' ? [] : [[names[column]!, plainValue(value)]]))),
    )
  }
  return { ok: true, value: items }
}

/** Numbers become numbers where nothing is lost: no leading zero, at most 15 digits. */
const plainValue = (value: string) =>
  /^-?(0|[1-9]\d{0,14})(\.\d{1,9})?$/.test(value) && value.length <= 16 ? Number(value) : value

const lineOf = (text: string, index: number) => text.slice(0, index).split('\n').length
