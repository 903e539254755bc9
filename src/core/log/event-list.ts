import Papa from 'papaparse'
import { kindFields, kindNames, type EventKind } from './event-kinds.ts'
import { writtenEvent, type WrittenEvent } from './ndjson.ts'
import type { RunLog } from './run-log.ts'

/** A filter of events: of these kinds (none: of all), with this text in their line. */
export interface EventQuery {
  kinds: readonly EventKind[]
  text: string
  /** Only between these instants, ms. */
  fromMs?: number
  toMs?: number
}

export interface EventPage {
  events: WrittenEvent[]
  /** How many there are in all. */
  matching: number
}

/** A page of the filtered events, in order, and how many there are in all. */
export function listEvents(log: RunLog, query: EventQuery, most: number, from = 0): EventPage {
  const events: WrittenEvent[] = []
  let matching = 0
  for (const event of matchingEvents(log, query)) {
    if (matching++ >= from && events.length < most) events.push(event)
  }
  return { events, matching }
}

/** The filtered events as CSV (RFC 4180): instant, kind, and every field that any of their kinds has. */
export function eventsAsCsv(log: RunLog, query: EventQuery): string {
  const kinds = query.kinds.length > 0 ? query.kinds : kindNames
  const fields = [
    't',
    'event',
    ...new Set(kinds.flatMap((kind) => kindFields[kindNames.indexOf(kind)]!.map(({ name }) => name))),
  ]
  return Papa.unparse(
    { fields, data: [...matchingEvents(log, query)].map((event) => fields.map((name) => event[name] ?? '')) },
    { newline: '\r\n', escapeFormulae: true },
  )
}

/** The filtered events as text, a line each, up to a number of lines. */
export function eventsAsText(log: RunLog, query: EventQuery, most: number): string {
  return listEvents(log, query, most).events.map(lineOf).join('\n')
}

/** An event as text: its instant in ms, its kind, and each field by its name. Any part of it can be searched for. */
export function lineOf({ event, t, ...fields }: WrittenEvent): string {
  const words = Object.entries(fields).map(([name, value]) => `${name} ${value}`)
  return `${t.toFixed(3).padStart(10)}  ${event.padEnd(11)} ${words.join(', ')}`
}

function* matchingEvents(
  log: RunLog,
  { kinds, text, fromMs = 0, toMs = Infinity }: EventQuery,
): Generator<WrittenEvent> {
  const wanted = new Set(kinds.map((kind) => kindNames.indexOf(kind)))
  const search = text.trim().toLowerCase()
  for (let index = 0, number = 0; index < log.count; number++) {
    const chunk = log.chunks[number]!
    for (let row = 0; row < chunk.kind.length && index < log.count; row++, index++) {
      if (chunk.t[row]! < fromMs * 1000 || chunk.t[row]! > toMs * 1000) continue
      if (wanted.size > 0 && !wanted.has(chunk.kind[row]!)) continue
      const event = writtenEvent(log, chunk, row)
      if (search === '' || lineOf(event).toLowerCase().includes(search)) yield event
    }
  }
}
