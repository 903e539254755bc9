import type { RunLog } from '../log/run-log.ts'
import { align, outsideOf, spanOf, type Aligned } from './clocks.ts'
import { CsvSource } from './csv-source.ts'
import { EventsSource } from './events-source.ts'
import { EvidenceError, type Source, type SourceKind, type SourceReader } from './evidence.ts'
import { HarSource } from './har-source.ts'
import { LinesSource, type LinePattern } from './lines-source.ts'
import { recordRun } from './record-run.ts'

/** How sources are to be read, where their content does not say it. */
export interface ReadOptions {
  /** Addresses of the feed: pictures, whatever type a HAR file gives them. */
  feed: ReadonlySet<string>
  patterns: readonly LinePattern[]
  framesColumns: string | null
  framesBetween: RegExp | null
}

export const plainOptions: ReadOptions = { feed: new Set(), patterns: [], framesColumns: null, framesBetween: null }

export function readerFor(name: string, kind: SourceKind, options: ReadOptions): SourceReader {
  switch (kind) {
    case 'har':
      return new HarSource(name, options.feed)
    case 'events':
      return new EventsSource(name)
    case 'lines':
      return new LinesSource(name, options.patterns)
    case 'frames':
      return new CsvSource(name, { kind, columns: options.framesColumns, between: options.framesBetween })
    case 'memory':
    case 'busy':
      return new CsvSource(name, { kind, columns: null, between: null })
    case 'readings':
      throw new EvidenceError('readings are typed in, not read from a file')
  }
}

/** The contents of a source, on the common clock. */
export interface SourceReport {
  name: string
  kind: SourceKind
  events: number
  skipped: number
  fromMs: number | null
  toMs: number | null
  /** Its offset, ms. */
  shiftMs: number
  firstSkipped: string[]
  unknownSizes: number
  notes: string[]
}

export interface RecordedRun {
  log: RunLog
  sources: SourceReport[]
  aligned: Aligned[]
}

/** Combines sources into one run. Throws an `EvidenceError` when they do not make one. */
export function importRun(
  sources: readonly Source[],
  offsets: ReadonlyMap<string, number>,
  names: { project: string; screen: string },
): RecordedRun {
  if (sources.length === 0) throw new EvidenceError('there is no source to read')
  const aligned = align(sources, offsets)
  const log = recordRun(aligned, names)
  return { log, aligned, sources: aligned.map(reportOf) }
}

function reportOf(aligned: Aligned): SourceReport {
  const { source, shiftMs } = aligned
  const outside = outsideOf(aligned)
  const span = spanOf(source)
  const { name, kind, skipped, firstSkipped, unknownSizes, notes } = source
  const fine = (ms: number) => Math.round(ms * 1000) / 1000
  return {
    name,
    kind,
    events: source.exchanges.length + source.events.length,
    skipped,
    fromMs: span && fine(span.fromMs + shiftMs),
    toMs: span && fine(span.toMs + shiftMs),
    shiftMs: fine(shiftMs),
    firstSkipped,
    unknownSizes,
    notes:
      outside === 0
        ? notes
        : [...notes, `${outside} of these lie before the run or more than 71 minutes behind its begin: left out`],
  }
}
