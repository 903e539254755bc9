import {
  emptySource,
  EvidenceError,
  mostEvents,
  skip,
  type Exchange,
  type Source,
  type SourceReader,
} from './evidence.ts'
import { isoMs } from './instants.ts'
import { JsonSlices } from './json-slices.ts'
import { parentOf, resolveAgainst } from './plain-address.ts'

type Seen = Exchange & { type: 'picture' | 'unknown' | 'other'; redirect: string | null }

const redirects = new Set([301, 302, 303, 307, 308])
const unknownTypes = /^(|x-unknown|application\/octet-stream|binary\/octet-stream)$/
const cutWords = /abort|cancel/i

/** Reads HTTP Archive 1.2. `feed`: addresses that are pictures, whatever type the archive gives them. */
export class HarSource implements SourceReader {
  private readonly source: Source
  private readonly feed: ReadonlySet<string>
  private readonly slices: JsonSlices
  private readonly seen: Seen[] = []
  private readonly known = new Set<string>()
  private pageMs: number | null = null

  constructor(name: string, feed: ReadonlySet<string>) {
    this.source = { ...emptySource(name, 'har'), wallClock: true }
    this.feed = feed
    this.slices = new JsonSlices(['log.entries', 'log.pages'], (path, text) => this.take(path, text))
  }

  push(text: string): void {
    this.slices.push(text)
  }

  finish(): Source {
    const { source } = this
    if (!this.slices.finish()) source.notes.push('the file ends in the middle; what comes before that was read')
    if (this.seen.length === 0)
      throw new EvidenceError(
        source.skipped > 0
          ? `none of its ${source.skipped} entries can be read as HAR 1.2; the first: ${source.firstSkipped[0]}`
          : 'it has no entries at /log/entries; export it as HAR 1.2',
      )
    this.seen.sort((one, other) => one.wantedMs - other.wantedMs)
    const followed = this.followRedirects()
    const pictures = this.picturesOf(followed)
    const counted = new Set(pictures)
    const notCounted = followed.filter((each) => !counted.has(each))
    if (notCounted.length > 0)
      source.notes.push(`${notCounted.length} entries are not pictures: ${bytesOf(notCounted)} bytes, left out`)
    source.unknownSizes = pictures.filter(({ bytes }) => bytes === null).length
    if (source.unknownSizes > 0)
      source.notes.push(`${source.unknownSizes} entries have no body size: they count as 0 bytes`)
    source.exchanges = pictures.map(({ type: _type, redirect: _redirect, ...exchange }) => exchange)
    source.zeroMs = this.pageMs ?? this.seen[0]!.wantedMs
    return source
  }

  private take(path: string, text: string): void {
    let value: unknown
    try {
      value = JSON.parse(text)
    } catch {
      skip(this.source, text)
      return
    }
    if (path === 'log.pages') {
      const began = isoMs(textAt(value, 'startedDateTime'))
      if (began !== null) this.pageMs = Math.min(this.pageMs ?? Infinity, began)
      return
    }
    const entry = readEntry(value)
    if (!entry) {
      skip(this.source, text)
      return
    }
    if (this.seen.length >= mostEvents) throw new EvidenceError(`it has more than ${mostEvents} entries`)
    const mark = `${entry.wantedMs}\n${entry.endMs}\n${entry.bytes}\n${entry.request}\n${entry.address}`
    if (this.known.has(mark)) {
      skip(this.source, `the same entry again: ${entry.address}`)
      return
    }
    this.known.add(mark)
    this.seen.push(entry)
  }

  /** A chain of redirects is one exchange, of the address that was requested. */
  private followRedirects(): Seen[] {
    const waiting = new Map<string, Seen>()
    const out: Seen[] = []
    for (const each of this.seen) {
      const from = waiting.get(each.address)
      if (from) {
        waiting.delete(each.address)
        const { address, wantedMs, startMs, request } = from
        const bytes = from.bytes === null && each.bytes === null ? null : (from.bytes ?? 0) + (each.bytes ?? 0)
        Object.assign(from, each, { address, wantedMs, startMs, request: request ?? each.request, bytes })
      } else out.push(each)
      const chain = from ?? each
      if (chain.redirect !== null) waiting.set(chain.redirect, chain)
    }
    return out
  }

  private picturesOf(entries: readonly Seen[]): Seen[] {
    const isPicture = ({ type, address }: Seen) => type === 'picture' || this.feed.has(address)
    const parents = new Set(entries.filter(isPicture).map(({ address }) => parentOf(address)))
    return entries.filter((each) => isPicture(each) || (each.type === 'unknown' && parents.has(parentOf(each.address))))
  }
}

const bytesOf = (entries: readonly Seen[]) => entries.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0)

/** One entry; null: it lacks what an exchange needs (an address and an instant). */
function readEntry(value: unknown): Seen | null {
  const request = objectAt(value, 'request')
  const response = objectAt(value, 'response')
  const address = textAt(request, 'url')
  const began = isoMs(textAt(value, 'startedDateTime'))
  if (!request || !response || began === null || !/^https?:\/\//i.test(address)) return null
  const timings = objectAt(value, 'timings') ?? {}
  const blocked = spanAt(timings, 'blocked')
  const connect = spanAt(timings, 'dns') + Math.max(spanAt(timings, 'connect'), spanAt(timings, 'ssl'))
  const wait = connect + spanAt(timings, 'send') + spanAt(timings, 'wait')
  const receive = spanAt(timings, 'receive')
  const status = numberAt(response, 'status') ?? 0
  const startMs = began + blocked
  const sum = blocked + wait + receive
  const endMs = began + (sum > 0 ? sum : Math.max(0, numberAt(value, 'time') ?? 0))
  const { end, reason } = endOf(value, response, status)
  const content = objectAt(response, 'content')
  const type = textAt(content, 'mimeType').split(';')[0]!.trim().toLowerCase()
  const to = textAt(response, 'redirectURL')
  const cached =
    textAt(value, '_fromCache') !== '' ||
    objectAt(value, '_fromCache') !== null ||
    at(response, '_fromDiskCache') === true
  return {
    address,
    wantedMs: began,
    startMs: Math.min(startMs, endMs),
    firstByteMs: status > 0 ? Math.min(startMs + wait, endMs) : null,
    endMs,
    status: Math.max(0, Math.round(status)),
    bytes: status === 304 || cached ? 0 : bodyBytes(response, content),
    conditional: at(value, '_conditional') === true || status === 304 || asksCondition(request),
    fromCache: cached,
    end,
    reason,
    request: numberAt(value, '_request'),
    connectMs: connect > 0 ? connect : null,
    type: kindOf(type),
    redirect: redirects.has(status) && to !== '' ? resolveAgainst(address, to) : null,
  }
}

function kindOf(type: string): Seen['type'] {
  if (type.startsWith('image/')) return 'picture'
  return unknownTypes.test(type) ? 'unknown' : 'other'
}

/** Cut off whatever its status when a comment or a field of the response's own says so; else by its status. */
function endOf(entry: unknown, response: object, status: number): Pick<Exchange, 'end' | 'reason'> {
  if (textAt(entry, '_end') === 'open') return { end: 'open', reason: '' }
  const says = Object.entries(response).filter(([name]) => name === 'comment' || name.startsWith('_'))
  if (says.some(([, value]) => typeof value === 'string' && cutWords.test(value))) return { end: 'cut', reason: '' }
  if (textAt(entry, '_end') === 'failed') {
    const comment = textAt(response, 'comment')
    return { end: 'failed', reason: comment === '' || comment === 'failed' ? 'status' : comment }
  }
  if (status <= 0) return { end: 'failed', reason: 'offline' }
  return status >= 400 ? { end: 'failed', reason: 'status' } : { end: 'complete', reason: '' }
}

/** Bytes of a body as they came over the network; null: not reported. */
function bodyBytes(response: object, content: object | null): number | null {
  const own = numberAt(response, 'bodySize')
  if (own !== null && own >= 0) return own
  const size = numberAt(content, 'size')
  if (size !== null && size >= 0) return Math.max(0, size - (numberAt(content, 'compression') ?? 0))
  for (const [name, value] of Object.entries(response))
    if (name.startsWith('_') && /size/i.test(name) && typeof value === 'number' && value >= 0) return value
  return null
}

function asksCondition(request: object): boolean {
  const headers = at(request, 'headers')
  return (
    Array.isArray(headers) && headers.some((header) => /^if-(none-match|modified-since)$/i.test(textAt(header, 'name')))
  )
}

function at(value: unknown, name: string): unknown {
  return typeof value === 'object' && value !== null && Object.hasOwn(value, name)
    ? (value as Record<string, unknown>)[name]
    : undefined
}

function objectAt(value: unknown, name: string): object | null {
  const found = at(value, name)
  return typeof found === 'object' && found !== null ? found : null
}

function textAt(value: unknown, name: string): string {
  const found = at(value, name)
  return typeof found === 'string' ? found : ''
}

function numberAt(value: unknown, name: string): number | null {
  const found = at(value, name)
  return typeof found === 'number' && Number.isFinite(found) ? found : null
}

/** A timing: negative ones do not apply. */
const spanAt = (value: unknown, name: string) => Math.max(0, numberAt(value, name) ?? 0)
