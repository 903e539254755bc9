import { eventsAsCsv, eventsAsText, listEvents, type EventPage, type EventQuery } from '../../core/log/event-list.ts'
import { toNdjson } from '../../core/log/ndjson.ts'
import { openedRun, type StoredRun } from './opened-run.ts'

/** A page of the filtered events of a run: at most `most`, from number `from` on. */
export function eventsJob(job: StoredRun & { query: EventQuery; most: number; from: number }): EventPage {
  return listEvents(openedRun(job).facts.log, job.query, job.most, job.from)
}

/** The filtered events of a run as text, for the clipboard. */
export function eventTextJob(job: StoredRun & { query: EventQuery; most: number }): string {
  return eventsAsText(openedRun(job).facts.log, job.query, job.most)
}

export interface ExportOrder extends StoredRun {
  as: 'ndjson' | 'csv'
  query: EventQuery
  notes: readonly { ms: number; text: string }[]
}

/** The whole log with its notes as NDJSON, or the filtered events as CSV. */
export function exportJob(job: ExportOrder): Blob {
  const { log } = openedRun(job).facts
  if (job.as === 'csv') return new Blob([eventsAsCsv(log, job.query)], { type: 'text/csv' })
  const notes = job.notes.map(({ ms, text }) => `${JSON.stringify({ event: 'note', t: ms, text })}\n`)
  return new Blob([...toNdjson(log), ...notes], { type: 'application/x-ndjson' })
}
