import type { FromFetcher, ToFetcher } from './messages.ts'

/** Progress is told when this share of the body has come since it was last told. */
const toldShare = 0.1
/** The share of bodies whose length is not known, bytes. */
const unknownLength = 64_000

declare const self: DedicatedWorkerGlobalScope

const running = new Map<number, AbortController>()
const received = new Map<number, number>()
let counters = new Int32Array(new SharedArrayBuffer(4))

const tell = (message: FromFetcher) => self.postMessage(message)

self.onmessage = ({ data }: MessageEvent<ToFetcher>) => {
  switch (data.type) {
    case 'memory':
      counters = data.counters
      return
    case 'start':
      void load(data)
      return
    case 'abort':
      running.get(data.id)?.abort()
      running.delete(data.id)
      tell({ type: 'aborted', id: data.id, bytes: received.get(data.id) ?? 0 })
      received.delete(data.id)
  }
}

/** One transfer; its bytes are counted in shared memory as they come, so that nobody has to ask for them. */
async function load({ id, url, etag, counter }: Extract<ToFetcher, { type: 'start' }>): Promise<void> {
  const abort = new AbortController()
  running.set(id, abort)
  received.set(id, 0)
  const stands = () => running.get(id) === abort
  let began = false
  try {
    const headers: Record<string, string> = etag === null ? {} : { 'if-none-match': etag }
    const reply = await fetch(url, { signal: abort.signal, cache: 'no-store', redirect: 'manual', priority: 'auto', headers })
    if (!stands()) return
    if (reply.type === 'opaqueredirect') {
      end(id, { type: 'failed', id, bytes: 0, reason: 'redirects' })
      return
    }
    began = true
    const length = reply.headers.get('content-length')
    const type = reply.headers.get('content-type') ?? ''
    const total = length === null ? null : Number(length)
    tell({ type: 'head', id, head: { status: reply.status, total, type, headers: Object.fromEntries(reply.headers) } })
    const chunks = await read(id, reply, counter, total, stands)
    if (stands()) end(id, { type: 'done', id, bytes: received.get(id)!, body: new Blob(chunks, { type }) })
  } catch {
    if (stands()) end(id, { type: 'failed', id, bytes: received.get(id)!, reason: began ? 'truncated' : 'offline' })
  }
}

async function read(id: number, reply: Response, counter: number, total: number | null, stands: () => boolean): Promise<Uint8Array<ArrayBuffer>[]> {
  const chunks: Uint8Array<ArrayBuffer>[] = []
  const reader = reply.body?.getReader()
  let told = 0
  while (reader) {
    const { done, value } = await reader.read()
    if (done || !stands()) break
    chunks.push(value as Uint8Array<ArrayBuffer>)
    const bytes = received.get(id)! + value.length
    received.set(id, bytes)
    Atomics.store(counters, counter, bytes)
    if (bytes - told < (total ?? unknownLength) * toldShare) continue
    told = bytes
    tell({ type: 'progress', id, bytes })
  }
  return chunks
}

function end(id: number, message: FromFetcher): void {
  running.delete(id)
  received.delete(id)
  tell(message)
}
