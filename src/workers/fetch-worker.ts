import { sessionLost, sessionLostHeader } from '../core/network/origin-headers.ts'
import { sharedBody } from './body.ts'
import type { FromFetcher, ToFetcher } from './messages.ts'

/** Progress is reported each time this share of the body has arrived. */
const reportedShare = 0.1
/** The share of bodies whose length is not known, bytes. */
const unknownLength = 64_000

/**
 * A transfer that is let go is read on until all that the origin reports to have written has arrived, so that both
 * sides know the same bytes, however busy the machine is. It is given up after so many ms when the origin does not
 * report, and when the bytes do not arrive: on this machine written bytes are in flight, and do arrive.
 */
const mostAsking = 10_000
const mostComing = 30_000

declare const self: DedicatedWorkerGlobalScope

const running = new Map<number, AbortController>()
const received = new Map<number, number>()
/** A transfer that was let go: what it had received then, and what the origin reports to have written. */
interface Leaving {
  bytes: number
  written: number
  timer: ReturnType<typeof setTimeout>
}
const leaving = new Map<number, Leaving>()
let letGoUrl = ''
let epoch = 0
let counters = new Int32Array(new SharedArrayBuffer(4))

/** Addresses that this worker's own policy has blocked. */
const blocked = new Set<string>()
self.addEventListener('securitypolicyviolation', (event) =>
  blocked.add(originOf((event as SecurityPolicyViolationEvent).blockedURI)),
)

const originOf = (address: string) => new URL(address, self.location.href).origin
const post = (message: FromFetcher) => self.postMessage(message)

self.onmessage = ({ data }: MessageEvent<ToFetcher>) => {
  switch (data.type) {
    case 'begin':
      counters = data.counters
      epoch = data.epoch
      letGoUrl = data.letGoUrl
      return
    case 'start':
      void load(data)
      return
    case 'let-go':
      void letGo(data.ids)
  }
}

async function letGo(all: number[]): Promise<void> {
  // A transfer that is not running has ended meanwhile, and has been reported as such.
  const ids = all.filter((id) => running.has(id))
  if (ids.length === 0) return
  const left = ids.map((id) => ({
    id,
    bytes: received.get(id) ?? 0,
    written: Infinity,
    timer: setTimeout(() => cut(id), mostAsking),
  }))
  for (const each of left) leaving.set(each.id, each)
  // The next run counts its transfers from 1 again: a number alone does not say which is meant.
  const isLeaving = (each: Leaving & { id: number }) => leaving.get(each.id) === each
  let written: (number | null)[]
  try {
    const reply = await fetch(letGoUrl, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ transfers: ids }),
    })
    written = ((await reply.json()) as { written: (number | null)[] }).written
  } catch {
    // The server is gone: nothing more arrives, and the abort below is all there is to do.
    for (const each of left) if (isLeaving(each)) cut(each.id)
    return
  }
  for (const [i, each] of left.entries()) {
    if (!isLeaving(each)) continue
    // Null: the origin does not know it yet.
    each.written = written[i] ?? 0
    clearTimeout(each.timer)
    each.timer = setTimeout(() => cut(each.id), mostComing)
    cutWhenAllCame(each.id)
  }
}

function cutWhenAllCame(id: number): void {
  if ((received.get(id) ?? 0) >= leaving.get(id)!.written) cut(id)
}

/** Aborts a transfer that was let go, and reports what it had received by then and what came after. */
function cut(id: number): void {
  const { bytes, timer } = leaving.get(id)!
  clearTimeout(timer)
  leaving.delete(id)
  running.get(id)?.abort()
  running.delete(id)
  post({ type: 'aborted', id, bytes, inFlight: (received.get(id) ?? bytes) - bytes })
  received.delete(id)
}

/** One transfer; its bytes are counted in shared memory as they arrive, so that nobody has to ask for them. */
async function load({ id, url, etag, counter }: Extract<ToFetcher, { type: 'start' }>): Promise<void> {
  const abort = new AbortController()
  running.set(id, abort)
  received.set(id, 0)
  const isCurrent = () => running.get(id) === abort
  let began = false
  try {
    const headers: Record<string, string> = etag === null ? {} : { 'if-none-match': etag }
    const reply = await fetch(url, {
      signal: abort.signal,
      cache: 'no-store',
      redirect: 'manual',
      priority: 'auto',
      headers,
    })
    if (!isCurrent()) return
    if (reply.type === 'opaqueredirect') {
      end(id, { type: 'failed', id, bytes: 0, reason: 'redirects' })
      return
    }
    if (reply.status === 404 && reply.headers.get(sessionLostHeader) === sessionLost) {
      end(id, { type: 'session-lost', id })
      return
    }
    began = true
    const length = reply.headers.get('content-length')
    const type = reply.headers.get('content-type') ?? ''
    const total = length === null ? null : Number(length)
    post({ type: 'head', id, head: { status: reply.status, total, type, headers: Object.fromEntries(reply.headers) } })
    const chunks = await read(id, reply, counter, total, isCurrent)
    if (isCurrent()) end(id, { type: 'done', id, bytes: received.get(id)!, body: sharedBody(type, chunks) })
  } catch {
    if (!isCurrent()) return
    if (!began && (await wasBlocked(url))) end(id, { type: 'blocked', id, origin: originOf(url) })
    else end(id, { type: 'failed', id, bytes: received.get(id)!, reason: began ? 'truncated' : 'offline' })
  }
}

/** Whether our own policy refused an address: the browser reports it in an event of its own, a moment later. */
async function wasBlocked(url: string): Promise<boolean> {
  await new Promise((resolve) => setTimeout(resolve))
  return blocked.has(originOf(url))
}

async function read(
  id: number,
  reply: Response,
  counter: number,
  total: number | null,
  stands: () => boolean,
): Promise<Uint8Array[]> {
  const chunks: Uint8Array[] = []
  const reader = reply.body?.getReader()
  let reported = 0
  while (reader) {
    const { done, value } = await reader.read()
    if (done || !stands()) break
    if (leaving.has(id)) {
      received.set(id, received.get(id)! + value.length)
      cutWhenAllCame(id)
      continue
    }
    chunks.push(value)
    const bytes = received.get(id)! + value.length
    received.set(id, bytes)
    Atomics.store(counters, counter, bytes)
    const ms = Math.round(performance.timeOrigin + performance.now() - epoch)
    Atomics.store(counters, counters.length / 2 + counter, Math.max(1, ms))
    if (bytes - reported < (total ?? unknownLength) * reportedShare) continue
    reported = bytes
    post({ type: 'progress', id, bytes })
  }
  return chunks
}

function end(id: number, message: FromFetcher): void {
  if (leaving.has(id)) {
    cut(id)
    return
  }
  running.delete(id)
  received.delete(id)
  post(message)
}
