import Papa from 'papaparse'
import { columnsOf, mappedColumns, tableKind, type Column, type ColumnRole } from './csv-columns.ts'
import { emptySource, EvidenceError, mostEvents, skip, type Source, type SourceReader } from './evidence.ts'
import { inMs, readNumber, type TimeUnit } from './instants.ts'
import { Lines } from './lines.ts'

export interface CsvOptions {
  /** The kind of table; null: by its header. */
  kind: 'frames' | 'memory' | 'busy' | null
  /** Columns named by hand. */
  columns: string | null
  /** Only the rows between lines that match this. */
  between: RegExp | null
}

/** Reads a table of frames, of memory or of busy spans: CSV with a header, or with columns given by hand. */
export class CsvSource implements SourceReader {
  private readonly options: CsvOptions
  private readonly source: Source
  private readonly lines = new Lines((line, number) => this.take(line, number))
  private open: boolean
  private header: string | null = null
  private columns: Column[] | null = null
  private delimiter = ','
  private rows: { cells: number[]; thread: string }[] = []

  constructor(name: string, options: CsvOptions) {
    this.options = options
    this.open = options.between === null
    this.source = emptySource(name, options.kind ?? 'frames')
  }

  push(text: string): void {
    this.lines.push(text)
  }

  finish(): Source {
    this.lines.finish()
    const { source, columns } = this
    if (!columns)
      throw new EvidenceError(
        'no line of it names columns that are known (start, begin, due, end, presented, duration, work; time and memory; thread): name them by hand, such as start=2,end=14,unit=ns',
      )
    if (this.rows.length === 0)
      throw new EvidenceError(
        `it has no row with numbers in its columns${source.skipped > 0 ? `; the first of ${source.skipped} lines that cannot be read: ${source.firstSkipped[0]}` : ''}`,
      )
    switch (source.kind) {
      case 'memory':
        this.readMemory()
        break
      case 'busy':
        this.readBusy()
        break
      default:
        this.readFrames()
    }
    source.events.sort((one, other) => one.t - other.t)
    const first = source.events[0]!.t
    // A clock that has been running for long began with the phone, not with the recording.
    source.zeroMs = first > 60_000 ? first : null
    return source
  }

  private take(line: string, number: number): void {
    const { between } = this.options
    if (between?.test(line)) {
      this.open = !this.open
      return
    }
    if (!this.open || line.trim() === '') return
    if (!this.columns && this.findColumns(line)) return
    if (!this.columns) {
      skip(this.source, `line ${number}: ${line}`)
      return
    }
    if (line === this.header) return
    const cells = this.split(line)
    const numbers = this.columns.map(({ at, role }) => (role === 'thread' ? 0 : (readNumber(cells[at] ?? '') ?? NaN)))
    if (numbers.some((value) => Number.isNaN(value))) {
      skip(this.source, `line ${number}: ${line}`)
      return
    }
    if (this.rows.length >= mostEvents) throw new EvidenceError(`it has more than ${mostEvents} rows`)
    const named = this.columns.find(({ role }) => role === 'thread')
    this.rows.push({ cells: numbers, thread: named ? (cells[named.at] ?? '').trim() : '' })
  }

  /** Whether a line is the header; columns that are given by number need none. */
  private findColumns(line: string): boolean {
    const marks = [',', ';', '\t'].map((mark) => [mark, line.split(mark).length] as const)
    this.delimiter = marks.reduce((most, each) => (each[1] > most[1] ? each : most))[0]
    const cells = this.split(line)
    const { columns: byHand, kind } = this.options
    if (byHand !== null) {
      const mapped = mappedColumns(byHand, cells)
      if (typeof mapped === 'string') throw new EvidenceError(mapped)
      this.columns = mapped
      this.source.kind = kind ?? tableKind(mapped) ?? 'frames'
      const isHeader = mapped.every(({ at }) => readNumber(cells[at] ?? '') === null)
      if (isHeader) this.header = line
      return isHeader
    }
    if (cells.every((cell) => readNumber(cell) !== null)) return false
    const found = columnsOf(cells)
    const table = tableKind(found)
    if (!table || (kind !== null && kind !== table && !fits(kind, found))) return false
    this.columns = found
    this.source.kind = kind ?? table
    this.header = line
    return true
  }

  private split(line: string): string[] {
    return Papa.parse<string[]>(line, { delimiter: this.delimiter }).data[0] ?? []
  }

  private place(role: ColumnRole): number {
    return this.columns!.findIndex((column) => column.role === role)
  }

  /** Reads a column of times in ms, in its own unit or in that of the table. */
  private times(role: ColumnRole, usual: TimeUnit): ((row: { cells: number[] }) => number) | null {
    const place = this.place(role)
    if (place < 0) return null
    const unit = this.columns![place]!.unit ?? usual
    return ({ cells }) => inMs(cells[place]!, unit)
  }

  private readFrames(): void {
    const usual = this.usualUnit(['begin', 'presented', 'end', 'due', 'time', 'duration', 'work'])
    const [begin, due, end, presented, duration, work, time] = (
      ['begin', 'due', 'end', 'presented', 'duration', 'work', 'time'] as const
    ).map((role) => this.times(role, usual))
    /** The reader's state in a table of spans. */
    let clock = 0
    for (const row of this.rows) {
      const span = duration?.(row) ?? work?.(row)
      const beginMs = begin?.(row) ?? time?.(row)
      const done = end?.(row)
      const presentedMs =
        presented?.(row) ??
        done ??
        (beginMs === undefined ? (clock += Math.max(span ?? 0, 1000 / 60)) : beginMs + (span ?? 0))
      const workMs = work?.(row) ?? duration?.(row) ?? between(beginMs, done)
      if (workMs !== undefined && (workMs < 0 || workMs > 4_290_000)) {
        skip(this.source, `a frame that takes ${workMs} ms`)
        continue
      }
      this.source.events.push(frameOf(presentedMs, { dueMs: due?.(row), workMs, beginMs }))
    }
    if (this.source.events.length === 0) throw new EvidenceError('it has no frame with times that can be')
  }

  private readMemory(): void {
    const at = this.times('time', 'ms') ?? this.times('begin', 'ms')
    const place = this.place('value')
    if (!at || place < 0) throw new EvidenceError('a table of memory needs a column of times and one of values')
    const largest = this.rows.reduce((most, { cells }) => Math.max(most, cells[place]!), 0)
    let bytes = this.columns![place]!.bytes
    if (bytes === null) {
      bytes = unitBySize(largest)
      this.source.notes.push(`memory has no unit in its header: taken as ${unitNames.get(bytes)!}`)
    }
    for (const row of this.rows) {
      const mb = (row.cells[place]! * bytes) / 1e6
      if (mb < 0 || mb > 1e7) skip(this.source, `${row.cells[place]} is not a size of memory`)
      else this.source.events.push({ t: at(row), event: 'memory', mb })
    }
    if (this.source.events.length === 0) throw new EvidenceError('it has no size of memory that can be')
  }

  private readBusy(): void {
    const usual = this.usualUnit(['begin', 'time', 'end', 'duration', 'work'])
    const begin = this.times('begin', usual) ?? this.times('time', usual)
    const end = this.times('end', usual)
    const span = this.times('duration', usual) ?? this.times('work', usual)
    if (!begin || (!end && !span))
      throw new EvidenceError('a table of busy stretches needs their start, and their end or duration')
    for (const row of this.rows) {
      const from = begin(row)
      const ms = end ? end(row) - from : span!(row)
      if (ms < 0 || ms > 4_290_000) skip(this.source, `a stretch of ${ms} ms`)
      else
        this.source.events.push({
          t: from + ms,
          event: 'busy',
          thread: row.thread === '' ? 'main' : row.thread.slice(0, 200),
          ms,
        })
    }
    if (this.source.events.length === 0) throw new EvidenceError('it has no stretch with times that can be')
  }

  /** The unit of columns that name none: by the distance between rows, as frames are apart. */
  private usualUnit(roles: readonly ColumnRole[]): TimeUnit {
    const place = roles.map((role) => this.place(role)).find((each) => each >= 0 && this.columns![each]!.unit === null)
    if (place === undefined) return 'ms'
    const values = this.rows.slice(0, 1001).map(({ cells }) => cells[place]!)
    const { role } = this.columns![place]!
    const steps =
      role === 'duration' || role === 'work' ? values : values.slice(1).map((value, i) => Math.abs(value - values[i]!))
    const middle = steps.toSorted((one, other) => one - other)[steps.length >> 1] ?? 16
    const unit = unitByStep(middle)
    if (unit !== 'ms')
      this.source.notes.push(`times have no unit in the header: taken as ${unit}, by how far rows are apart`)
    return unit
  }
}

function fits(kind: 'frames' | 'memory' | 'busy', columns: readonly Column[]): boolean {
  const has = (...roles: ColumnRole[]) => columns.some(({ role }) => roles.includes(role))
  if (kind === 'memory') return has('value', 'work') && has('time', 'begin')
  if (kind === 'busy') return has('begin', 'time') && has('end', 'duration', 'work')
  return has('begin', 'end', 'presented', 'duration', 'work')
}

function unitByStep(step: number): TimeUnit {
  if (step >= 500_000) return 'ns'
  if (step >= 1500) return 'us'
  return step > 0 && step < 0.5 ? 's' : 'ms'
}

const between = (from: number | undefined, to: number | undefined) =>
  from === undefined || to === undefined ? undefined : to - from

const unitNames = new Map([
  [1, 'bytes'],
  [1000, 'kB'],
  [1_000_000, 'MB'],
])

/** A frame as an app event has it: what is not known is left out. */
function frameOf(
  presentedMs: number,
  given: { dueMs: number | undefined; workMs: number | undefined; beginMs: number | undefined },
): Source['events'][number] {
  const known = Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined))
  return { t: presentedMs, event: 'frame', presentedMs, ...known }
}

function unitBySize(largest: number): number {
  if (largest >= 4_000_000) return 1
  return largest >= 8000 ? 1000 : 1_000_000
}
