import type { AppEvent, AppHead } from './app-event.ts'

/** One HTTP exchange as a source reports it; instants in ms on the source's own clock. */
export interface Exchange {
  address: string
  /** When it was requested, and when it had a connection. */
  wantedMs: number
  startMs: number
  /** null: no response began, or it is not reported. */
  firstByteMs: number | null
  /** If it is still open: the last instant at which it was; null: not reported. */
  endMs: number | null
  status: number
  /** Of the body; null: unknown. */
  bytes: number | null
  conditional: boolean
  /** Answered from a cache of the app's own. */
  fromCache: boolean
  end: 'complete' | 'cut' | 'failed' | 'open'
  /** Of one that failed. */
  reason: string
  /** The number of exchanges that one request made, where the source reports it; null: it does not. */
  request: number | null
  /** Round trip of the connection's set-up, ms, where the source reports it. */
  connectMs: number | null
}

/** A span in which a thread was busy, ms on the source's own clock. */
export interface BusyEvent {
  t: number
  event: 'busy'
  thread: string
  ms: number
}

/** Readings that someone typed in, MB. */
export type ReadingEvent =
  { t: number; event: 'collected'; mb: number } | { t: number; event: 'storage'; beforeMb: number; afterMb: number }

export type EvidenceEvent = AppEvent | BusyEvent | ReadingEvent

export const sourceKinds = ['har', 'frames', 'memory', 'busy', 'lines', 'events', 'readings'] as const
export type SourceKind = (typeof sourceKinds)[number]

/** The contents of one file, or of one recording. */
export interface Source {
  name: string
  kind: SourceKind
  head: AppHead | null
  exchanges: Exchange[]
  events: EvidenceEvent[]
  /** The instants are ms since 1970: sources that have such a clock share it. */
  wallClock: boolean
  /** The instant that is 0 on its own clock; null: not reported. */
  zeroMs: number | null
  /** Lines, rows or entries that could not be read, and the first of them. */
  skipped: number
  firstSkipped: string[]
  /** Notes for the reader of the report: what was left out, cut short, or is not known. */
  notes: string[]
  /** Exchanges whose size is not reported. */
  unknownSizes: number
}

export function emptySource(name: string, kind: SourceKind): Source {
  return {
    name,
    kind,
    head: null,
    exchanges: [],
    events: [],
    wallClock: false,
    zeroMs: null,
    skipped: 0,
    firstSkipped: [],
    notes: [],
    unknownSizes: 0,
  }
}

/**
 * Takes the text of a source in pieces, then returns what it has read; throws when there is nothing of its kind in it.
 */
export interface SourceReader {
  push(text: string): void
  finish(): Source
}

/** Input that could not be read, counted, with the first ten shown. */
export function skip(source: Source, text: string): void {
  source.skipped++
  if (source.firstSkipped.length < 10) source.firstSkipped.push(text.length > 200 ? `${text.slice(0, 200)}…` : text)
}

/** The most events of one source: each is held in memory until all are in order. */
export const mostEvents = 5_000_000

/** The longest run that a log can hold, ms: its clock counts µs in 32 bits. */
export const longestMs = 4_290_000

/** Evidence that cannot be read, with what to do. */
export class EvidenceError extends Error {}
