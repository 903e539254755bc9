import { logFormat } from '../log/log-encoding.ts'
import { appEventsFormat } from './app-event.ts'
import { columnsOf, tableKind } from './csv-columns.ts'
import { readNumber } from './instants.ts'
import type { SourceKind } from './evidence.ts'

/** The part of a file that is examined, characters. */
export const headLength = 65_536

/**
 * The contents of a file, by how it begins (`run`: the log of a run, which is not evidence of another); or why it
 * cannot be read.
 */
export function recognise(head: string): { kind: SourceKind | 'run' } | { reason: string } {
  const text = head.replace(/^\ufeff/, '')
  const lines = text.split(/\r?\n/)
  const first = lines.find((line) => line.trim() !== '')?.trim()
  if (first === undefined) return { reason: 'it is empty' }
  if (text.includes('\0')) return { reason: 'it is not text' }
  if (first.startsWith('{')) {
    const own = /"format"\s*:\s*"([^"]*)"/.exec(text.slice(0, 500))?.[1]
    if (own === appEventsFormat || /"event"\s*:/.test(first)) return { kind: 'events' }
    if (own === logFormat) return { kind: 'run' }
    if (own !== undefined) return { reason: `it is of the format "${own}", which is not evidence of an app` }
    if (/"log"\s*:\s*\{/.test(text)) return { kind: 'har' }
    return { reason: 'it is JSON, but neither HAR 1.2 nor app events' }
  }
  if (first.startsWith('['))
    return /^\[\s*\{/.test(text) ? { reason: 'it is a JSON list; HAR 1.2 is an object with /log' } : { kind: 'lines' }
  for (const line of lines.slice(0, 1000)) {
    const cells = line.split(/[,;\t]/)
    if (cells.length < 2 && !/^\s*(duration|work)/i.test(line)) continue
    if (cells.some((cell) => readNumber(cell) !== null)) continue
    const kind = tableKind(columnsOf(cells))
    if (kind) return { kind }
  }
  return { kind: 'lines' }
}
