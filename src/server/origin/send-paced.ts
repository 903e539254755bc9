import type { ServerResponse } from 'node:http'
import type { LedgerEntry, OriginSession } from './session.ts'

export interface PacedBody {
  address: string
  host: string
  status: number
  headers: Record<string, string>
  /** Bytes in the model; the body may be shorter (a truncation) or never begin. */
  flow: { bytes: number; silent?: boolean; stallAt?: number; cap?: number }
  /** The Content-Length that is sent; null: none. */
  declared: number | null
  /** The body, at once or once it is drawn; null when it was given up. */
  body: Buffer | Promise<Buffer | null>
  /** The connection breaks after the last byte instead of ending well. */
  breakOff: boolean
  /** The client's own number for this transfer, by which it can let it go. */
  transfer: number | null
}

/**
 * Writes a response at the model's pace and keeps it in the ledger. A client that goes away stops it at once. Resolves
 * when the response is over, one way or the other.
 */
export function sendPaced(session: OriginSession, res: ServerResponse, paced: PacedBody): Promise<void> {
  const entry = session.record({
    address: paced.address,
    status: paced.status,
    bodyBytes: 0,
    aborted: false,
    startMs: session.nowMs(),
    firstByteMs: null,
    endMs: null,
  })
  const { silent, stallAt, cap } = paced.flow
  // A link without pacing still stalls, drips and stays silent where a fault says so.
  const atOnce = session.unpaced && !silent && stallAt === undefined && cap === undefined
  if (!atOnce) return carryThrough(session, res, paced, entry)
  const { body } = paced
  if (!(body instanceof Promise)) return Promise.resolve(sendAtOnce(session, res, paced, body, entry))
  return body.then((drawn) => sendAtOnce(session, res, paced, drawn ?? Buffer.alloc(0), entry))
}

function sendAtOnce(
  session: OriginSession,
  res: ServerResponse,
  { status, headers, declared, breakOff, flow }: PacedBody,
  body: Buffer,
  entry: LedgerEntry,
): void {
  res.writeHead(status, declared === null ? headers : { ...headers, 'content-length': String(declared) })
  const sent = breakOff ? body.subarray(0, flow.bytes) : body
  entry.firstByteMs = session.nowMs()
  if (session.watched) return watchToEnd(session, res, sent, { entry, breakOff })
  if (breakOff) res.write(sent, () => res.destroy())
  else res.end(sent)
  entry.bodyBytes = sent.length
  entry.endMs = session.nowMs()
}

/** Writes a body as fast as it is taken, and keeps how much was really sent when its client leaves meanwhile. */
function watchToEnd(
  session: OriginSession,
  res: ServerResponse,
  sent: Buffer,
  { entry, breakOff }: { entry: LedgerEntry; breakOff: boolean },
): void {
  res.flushHeaders()
  const { socket } = res
  const before = socket?.bytesWritten ?? 0
  const over = (aborted: boolean) => {
    if (entry.endMs !== null) return
    const out = socket ? socket.bytesWritten - socket.writableLength - before : sent.length
    entry.aborted = aborted
    entry.bodyBytes = aborted ? Math.max(0, Math.min(sent.length, out)) : sent.length
    entry.endMs = session.nowMs()
  }
  res.on('error', () => undefined)
  res.on('finish', () => over(false))
  res.on('close', () => over(!breakOff))
  if (breakOff) res.write(sent, () => (over(false), res.destroy()))
  else res.end(sent)
}

function carryThrough(
  session: OriginSession,
  res: ServerResponse,
  paced: PacedBody,
  entry: LedgerEntry,
): Promise<void> {
  return new Promise((resolve) => {
    let body: Buffer | null = paced.body instanceof Promise ? null : paced.body
    let begun = false
    let allowed = 0
    let last = false
    const over = () => {
      if (entry.endMs !== null) return
      entry.endMs = session.nowMs()
      if (paced.transfer !== null) session.over(paced.transfer, entry.bodyBytes)
      resolve()
    }
    const write = () => {
      if (!begun || body === null || entry.endMs !== null) return
      if (!res.headersSent) writeHead(res, paced)
      const to = Math.min(allowed, body.length)
      if (to > entry.bodyBytes) {
        res.write(body.subarray(entry.bodyBytes, to))
        entry.bodyBytes = to
      }
      if (!last) return
      if (paced.breakOff) res.destroy()
      else res.end()
      over()
    }
    const cut = session.carry(paced.host, paced.flow, {
      firstByte() {
        begun = true
        entry.firstByteMs = session.nowMs()
        write()
      },
      upTo(bytes) {
        allowed = bytes
        write()
      },
      done() {
        allowed = paced.flow.bytes
        begun = last = true
        write()
      },
    })
    const stop = () => {
      const isWhole = entry.bodyBytes === paced.declared
      if (entry.endMs === null) entry.aborted = !isWhole
      cut()
      // A client that has the whole body considers the response ended, and sends the next request over the same
      // connection: that one would wait for this one's end for ever.
      if (isWhole && !paced.breakOff) res.end()
      over()
      return entry.bodyBytes
    }
    if (paced.transfer !== null) session.name(paced.transfer, stop)
    res.on('error', () => undefined)
    res.on('close', stop)
    if (paced.body instanceof Promise)
      paced.body.then(
        (drawn) => {
          body = drawn ?? Buffer.alloc(0)
          write()
        },
        () => res.destroy(),
      )
  })
}

function writeHead(res: ServerResponse, { status, headers, declared }: PacedBody): void {
  res.writeHead(status, declared === null ? headers : { ...headers, 'content-length': String(declared) })
  res.flushHeaders()
}
