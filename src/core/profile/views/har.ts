import type { Facts, TransferFact } from '../facts/facts.ts'

/** An archive needs a date: the clock of a run begins at midnight of this one, and no run lasts a day. */
const day = '2026-01-01'

/** The type by the end of an address; else only that it is a picture. */
const types: Record<string, string> = {
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  png: 'image/png',
  webp: 'image/webp',
  avif: 'image/avif',
  gif: 'image/gif',
  svg: 'image/svg+xml',
}

const statusTexts: Record<number, string> = {
  200: 'OK',
  304: 'Not Modified',
  401: 'Unauthorized',
  403: 'Forbidden',
  404: 'Not Found',
  429: 'Too Many Requests',
  500: 'Internal Server Error',
  503: 'Service Unavailable',
}

/**
 * The transfers of a run as HTTP Archive 1.2. What the standard has no field for is under `_`: the request that a
 * transfer was for, why it ended, and its instants in ms of the run. Bodies and headers are not part of a run log.
 */
export function harOf({ transfers, requests, log }: Facts, creator: { name: string; version: string }): object {
  const { head } = log
  const started = transfers.filter((each) => each !== undefined)
  return {
    log: {
      version: '1.2',
      creator,
      pages: [
        {
          startedDateTime: dateAt(0),
          id: 'visit',
          title: `${head.project}, ${head.screen}, ${head.visit} visit`,
          pageTimings: { onContentLoad: -1, onLoad: -1 },
        },
      ],
      entries: started
        .map((transfer) => ({ transfer, queuedT: queuedOf(transfer) }))
        .sort((one, other) => one.queuedT - other.queuedT || one.transfer.id - other.transfer.id)
        .map(({ transfer, queuedT }) => entryOf(transfer, queuedT)),
    },
  }

  /** The first transfer of a request has waited since it was wanted; a later one since it was tried again. */
  function queuedOf({ id, request, startT }: TransferFact): number {
    return requests[request]!.transfers[0] === id ? requests[request]!.queueT : startT
  }

  function entryOf(transfer: TransferFact, queuedT: number): object {
    const { address } = log.assets[transfer.asset]!
    const { startT, connectedT, firstByteT, endT, status, bytes, total, end } = transfer
    const answered = firstByteT !== null && status > 0
    // The date has whole ms: the rest of an instant is in the first of the timings.
    const blocked = ms(startT - 1000 * Math.floor(queuedT / 1000))
    const connected = Math.max(startT, connectedT ?? startT)
    const connect = ms(connected - startT)
    const wait = ms((firstByteT ?? endT) - connected)
    const receive = firstByteT === null ? 0 : ms(endT - firstByteT)
    const request = requests[transfer.request]!
    const comment = { complete: '', cut: 'aborted', failed: request.reason || 'failed', open: 'still open at the end' }[
      end
    ]
    return {
      pageref: 'visit',
      startedDateTime: dateAt(queuedT),
      time: blocked + connect + wait + receive,
      request: {
        method: 'GET',
        url: address,
        httpVersion: 'HTTP/2',
        cookies: [],
        headers: [],
        queryString: queryOf(address),
        headersSize: -1,
        bodySize: 0,
      },
      response: {
        status: answered ? status : 0,
        statusText: answered ? (statusTexts[status] ?? '') : '',
        httpVersion: 'HTTP/2',
        cookies: [],
        headers: [],
        content: { size: total ?? bytes, mimeType: typeOf(address) },
        redirectURL: '',
        headersSize: -1,
        bodySize: bytes,
        ...(comment === '' ? {} : { comment, _error: comment }),
      },
      cache: {},
      timings: { blocked, dns: -1, connect: connect > 0 ? connect : -1, ssl: -1, send: 0, wait, receive },
      _request: transfer.request,
      _attempt: transfer.attempt,
      _conditional: transfer.conditional,
      _end: end,
      _queuedMs: ms(queuedT),
      _startMs: ms(startT),
      _firstByteMs: firstByteT === null ? null : ms(firstByteT),
      _endMs: ms(endT),
    }
  }
}

const ms = (us: number) => Math.max(0, us) / 1000

function dateAt(us: number): string {
  const whole = Math.floor(us / 1000)
  const two = (value: number) => String(value % 60).padStart(2, '0')
  const seconds = Math.floor(whole / 1000)
  const hours = String(Math.floor(seconds / 3600)).padStart(2, '0')
  return `${day}T${hours}:${two(Math.floor(seconds / 60))}:${two(seconds)}.${String(whole % 1000).padStart(3, '0')}Z`
}

function typeOf(address: string): string {
  const [path, query = ''] = address.split('?', 2) as [string, string?]
  const named = /(?:^|&)as=(\w+)/.exec(query)?.[1]
  const ending = /\.(\w+)$/.exec(path)?.[1]
  return types[(named ?? ending ?? '').toLowerCase()] ?? 'image/*'
}

function queryOf(address: string): { name: string; value: string }[] {
  const mark = address.indexOf('?')
  if (mark < 0) return []
  return address
    .slice(mark + 1)
    .split('#', 1)[0]!
    .split('&')
    .filter((pair) => pair !== '')
    .map((pair) => {
      const [name, ...value] = pair.split('=')
      return { name: decoded(name!), value: decoded(value.join('=')) }
    })
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text.replaceAll('+', ' '))
  } catch {
    return text
  }
}
