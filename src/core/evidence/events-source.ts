import { appEvent, appEventNames, appEventsFormat, appHead } from './app-event.ts'
import { emptySource, EvidenceError, mostEvents, skip, type Source, type SourceReader } from './evidence.ts'
import { Lines } from './lines.ts'
import { moved } from './moved.ts'

const known = new Set<string>(appEventNames)
/** Above this a number of ms is a calendar date. */
const calendarMs = 100_000_000_000

/** Reads app events: NDJSON with a head line. */
export class EventsSource implements SourceReader {
  private readonly source: Source
  private readonly lines = new Lines((line, number) => this.take(line, number))
  private readonly unknown = new Map<string, number>()

  constructor(name: string) {
    this.source = emptySource(name, 'events')
  }

  push(text: string): void {
    this.lines.push(text)
  }

  finish(): Source {
    this.lines.finish()
    const { source } = this
    for (const [name, count] of this.unknown)
      source.notes.push(`${count} events "${name}" are not known here: counted, not used`)
    if (!source.head) source.notes.push('there is no head line: screen and refresh rate are taken as usual ones')
    if (source.events.length === 0)
      throw new EvidenceError(
        `it has no app event${source.skipped > 0 ? `; the first of ${source.skipped} lines that cannot be read: ${source.firstSkipped[0]}` : ''}`,
      )
    this.setClock()
    return source
  }

  private setClock(): void {
    const { source } = this
    const clockMs = source.head?.clockMs
    if (clockMs === undefined) return
    // Not by the first one: it may come from a clock that has jumped.
    const sorted = source.events.map(({ t }) => t).sort((one, other) => one - other)
    const middle = sorted[sorted.length >> 1]!
    if (clockMs > calendarMs && middle < calendarMs) {
      // The head says what time it was at 0 of the app's clock.
      source.events = source.events.map((each) => moved(each, clockMs))
      source.wallClock = true
      source.zeroMs = clockMs
    } else {
      source.wallClock = clockMs > calendarMs
      source.zeroMs = clockMs <= middle ? clockMs : null
    }
  }

  private take(line: string, number: number): void {
    if (line.trim() === '') return
    let value: unknown
    try {
      value = JSON.parse(line)
    } catch {
      skip(this.source, `line ${number}: ${line}`)
      return
    }
    if (isHead(value)) {
      this.takeHead(value, line, number)
      return
    }
    const read = appEvent.safeParse(value)
    if (read.success) {
      if (this.source.events.length >= mostEvents) throw new EvidenceError(`it has more than ${mostEvents} events`)
      this.source.events.push(read.data)
      return
    }
    const name = (value as { event?: unknown } | null)?.event
    if (typeof name === 'string' && !known.has(name) && name.length < 100 && this.unknown.size < 100)
      this.unknown.set(name, (this.unknown.get(name) ?? 0) + 1)
    else skip(this.source, `line ${number}: ${line}`)
  }

  private takeHead(value: object, line: string, number: number): void {
    const version = (value as { version?: unknown }).version
    if (typeof version === 'number' && version > 1)
      throw new EvidenceError(`these app events are of version ${version}; this version reads 1`)
    const head = appHead.safeParse(value)
    if (head.success) this.source.head ??= head.data
    else skip(this.source, `line ${number}, the head: ${line}`)
  }
}

const isHead = (value: unknown): value is object =>
  typeof value === 'object' && value !== null && (value as { format?: unknown }).format === appEventsFormat
