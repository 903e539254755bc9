import type { AppEvent, AppHead } from './app-event.ts'

/** One HTTP exchange as a source reports it; instants in ms on the source's own clock. */
export interface Exchange {
  address: string
  /** When it was asked for, and when it had a connection to ask on. */
  wantedMs: number
  startMs: number
  /** null: no answer began, or nobody says when. */
  firstByteMs: number | null
  /** Of one that is still open: when it was looked at last; null: nobody says. */
  endMs: number | null
  status: number
  /** Of the body; null: unknown. */
  bytes: number | null
  conditional: boolean
  /** Answered by a cache of the app's own. */
  fromCache: boolean
  end: 'complete' | 'cut' | 'failed' | 'open'
  /** Of one that failed. */
  reason: string
  /** Exchanges that one request made, where the source says so; null: it does not. */
  request: number | null
  /** Round trip of the set-up, ms, where the source says it. */
  connectMs: number | null
}

/** A stretch in which a thread was busy, ms on the source's own clock. */
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

/** What one file, or one recording, holds. */
export interface Source {
  name: string
  kind: SourceKind
  head: AppHead | null
  exchanges: Exchange[]
  events: EvidenceEvent[]
  /** The instants are ms since 1970: sources that have such a clock share it. */
  wallClock: boolean
  /** The instant of its own clock that is 0; null: it does not say. */
  zeroMs: number | null
  /** Lines, rows or entries that could not be read, and the first of them. */
  skipped: number
  firstSkipped: string[]
  /** What a reader of the report should know: what was left out, cut short, or is not known. */
  notes: string[]
  /** Of exchanges whose size nobody says. */
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

/** What nobody could read, counted, with the first ten shown. */
export function skip(source: Source, text: string): void {
  source.skipped++
  if (source.firstSkipped.length < 10) source.firstSkipped.push(text.length > 200 ? `${text.slice(0, 200)}…` : text)
}

/** The most events of one source: each is held until all are put in order. */
export const mostEvents = 5_000_000

/** The longest run that a log can hold, ms: its clock counts µs in 32 bits. */
export const longestMs = 4_290_000

/** Evidence that cannot be read, with what to do. */
export class EvidenceError extends Error {}
