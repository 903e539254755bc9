import { appEvent, appEventNames, type AppEventName } from './app-event.ts'
import { emptySource, EvidenceError, mostEvents, skip, type Source, type SourceReader } from './evidence.ts'
import { readInstant, readNumber, readSpan } from './instants.ts'
import { Lines } from './lines.ts'

export interface LinePattern {
  event: AppEventName
  match: RegExp
}

/** Patterns are tried on this much of a line. */
const mostOfLine = 4000
const mostOfPattern = 1000
const groups = ['t', 'cell', 'kind', 'row', 'key', 'address', 'ms', 'bytes', 'tier', 'text']

/** A typed pattern: `EVENT=RE` with named groups, one of which has to be `t`; or what is wrong with it. */
export function readPattern(text: string): LinePattern | string {
  const mark = text.indexOf('=')
  const name = text.slice(0, Math.max(0, mark)).trim()
  const event = appEventNames.find((each) => each === name)
  if (!event) return `"${text}": found "${name}", allowed: ${appEventNames.join(', ')}, then = and a regular expression`
  const source = text.slice(mark + 1)
  if (source.length > mostOfPattern) return `the pattern of "${name}" is longer than ${mostOfPattern} characters`
  const unknown = [...source.matchAll(/\(\?<(\w+)>/g)]
    .map((found) => found[1]!)
    .filter((group) => !groups.includes(group))
  if (unknown.length > 0) return `the pattern of "${name}" has a group "${unknown[0]}"; known are ${groups.join(', ')}`
  if (!source.includes('(?<t>')) return `the pattern of "${name}" has no group (?<t>…) for the instant`
  try {
    return { event, match: new RegExp(source, 'u') }
  } catch (error) {
    return `the pattern of "${name}" is not a regular expression: ${(error as Error).message}`
  }
}

/** Reads log lines: the first pattern that matches a line makes its event. */
export class LinesSource implements SourceReader {
  private readonly source: Source
  private readonly patterns: readonly LinePattern[]
  private readonly lines = new Lines((line, number) => this.take(line, number))
  private readonly hits = new Map<string, number>()

  constructor(name: string, patterns: readonly LinePattern[]) {
    this.source = emptySource(name, 'lines')
    this.patterns = patterns
    if (patterns.length === 0)
      throw new EvidenceError(
        'log lines need a pattern for each event, such as bind=^(?<t>\\S+) bind cell=(?<cell>\\d+) row=(?<row>\\d+)',
      )
  }

  push(text: string): void {
    this.lines.push(text)
  }

  finish(): Source {
    this.lines.finish()
    const { source } = this
    for (const { event } of this.patterns)
      if (!this.hits.has(event)) source.notes.push(`the pattern of "${event}" matches no line`)
    if (source.events.length === 0)
      throw new EvidenceError(
        `no line of it matches a pattern; the first: ${source.firstSkipped[0] ?? '(it is empty)'}`,
      )
    const first = source.events.reduce((least, { t }) => Math.min(least, t), Infinity)
    source.zeroMs = !source.wallClock && first > 60_000 ? first : null
    return source
  }

  private take(line: string, number: number): void {
    if (line.trim() === '') return
    const text = line.length > mostOfLine ? line.slice(0, mostOfLine) : line
    for (const { event, match } of this.patterns) {
      const found = match.exec(text)?.groups
      if (!found) continue
      const value = this.eventOf(event, found)
      const read = value && appEvent.safeParse(value)
      if (!read?.success) break
      if (this.source.events.length >= mostEvents) throw new EvidenceError(`it has more than ${mostEvents} events`)
      this.source.events.push(read.data)
      this.hits.set(event, (this.hits.get(event) ?? 0) + 1)
      return
    }
    skip(this.source, `line ${number}: ${line}`)
  }

  private eventOf(event: AppEventName, found: Record<string, string | undefined>): Record<string, unknown> | null {
    const instant = readInstant(found.t ?? '')
    if (!instant) return null
    if (instant.wallClock) this.source.wallClock = true
    const number = (text: string | undefined) => (text === undefined ? undefined : (readNumber(text) ?? undefined))
    const ms = found.ms === undefined ? undefined : (readSpan(found.ms, 'ms') ?? undefined)
    const bytes = number(found.bytes)
    const plain: Record<string, unknown> = {
      t: instant.ms,
      event,
      cell: found.cell,
      kind: found.kind,
      row: number(found.row),
      key: found.key,
      address: found.address,
      tier: found.tier,
      text: found.text,
      ms,
      bytes,
    }
    switch (event) {
      case 'frame':
        return { ...plain, presentedMs: instant.ms, workMs: ms }
      case 'memory':
        return { ...plain, mb: bytes === undefined ? undefined : bytes / 1e6 }
      case 'fail':
        return { ...plain, reason: found.text ?? 'failed' }
      case 'mark':
        return { ...plain, text: found.text ?? '' }
      case 'scroll':
        return { ...plain, topDp: number(found.text) ?? number(found.row) }
      default:
        return plain
    }
  }
}
