import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import { sessionLost, sessionLostHeader } from '../../src/core/network/origin-headers.ts'
import type { FromFetcher, ToFetcher } from '../../src/workers/messages.ts'

/** One answer of a server, given piece by piece. */
interface Answer {
  url: string
  signal: AbortSignal
  headers: Record<string, string>
  head: (init?: ResponseInit & { type?: ResponseType }) => void
  send: (bytes: number) => void
  end: () => void
  fail: () => void
}

/** By its path alone: its types are those of a worker, and this program has a page's. */
const workerFile: string = new URL('../../src/workers/fetch-worker.ts', import.meta.url).pathname
const letGoUrl = 'http://127.0.0.1/let-go'
const posted: FromFetcher[] = []
const asked: Answer[] = []
/** What the server says that it wrote of the transfers that are let go; null: it does not answer yet. */
let written: ((ids: number[]) => (number | null)[] | Error) | null = null
const waitingLetGo: (() => void)[] = []
let violated: (event: object) => void = () => undefined
const worker = {
  onmessage: (_: { data: ToFetcher }) => undefined as void,
  postMessage: (message: FromFetcher) => void posted.push(message),
  addEventListener: (_: string, listen: (event: object) => void) => void (violated = listen),
  location: { href: 'http://127.0.0.1/assets/workers/fetch.js' },
}

async function answerLetGo(body: string): Promise<Response> {
  if (!written) await new Promise<void>((resolve) => waitingLetGo.push(resolve))
  const said = written!((JSON.parse(body) as { transfers: number[] }).transfers)
  if (said instanceof Error) throw said
  return Response.json({ written: said })
}

/** Stands for the browser's `fetch`: a test answers each request by hand. */
function fakeFetch(url: string, init: RequestInit): Promise<Response> {
  if (url === letGoUrl) return answerLetGo(init.body as string)
  return new Promise((resolve, reject) => {
    let pipe: ReadableStreamDefaultController<Uint8Array>
    const signal = init.signal!
    const body = new ReadableStream<Uint8Array>({ start: (controller) => void (pipe = controller) })
    const fail = () => {
      reject(new TypeError('failed to fetch'))
      pipe.error(new TypeError('network error'))
    }
    signal.addEventListener('abort', fail)
    asked.push({
      url,
      signal,
      headers: init.headers as Record<string, string>,
      head: ({ type, ...rest } = {}) => {
        const response = new Response(rest.status === 404 ? null : body, rest)
        resolve(type ? Object.defineProperty(response, 'type', { value: type }) : response)
      },
      send: (bytes) => pipe.enqueue(new Uint8Array(bytes)),
      end: () => pipe.close(),
      fail,
    })
  })
}

const counters = new Int32Array(new SharedArrayBuffer(4 * 16))
const order = (message: ToFetcher) => worker.onmessage({ data: message })
const start = (id: number, etag: string | null = null): Answer => {
  order({ type: 'start', id, url: `http://127.0.0.1/${id}`, etag, counter: id % 8 })
  return asked.at(-1)!
}
const of = (id: number) => posted.filter((message) => message.id === id).map(({ id: _, ...rest }) => rest)
const last = (id: number) => vi.waitFor(() => expect(of(id).at(-1)!.type).not.toMatch(/^(head|progress)$/))
const letGo = (...ids: number[]) => order({ type: 'let-go', ids })

beforeAll(async () => {
  vi.stubGlobal('self', worker)
  vi.stubGlobal('fetch', fakeFetch)
  await import(workerFile)
  order({ type: 'begin', counters, epoch: 0, letGoUrl })
  return () => vi.unstubAllGlobals()
})
beforeEach(() => {
  posted.length = 0
  asked.length = 0
  written = null
})
afterEach(() => void vi.useRealTimers())

describe('a transfer', () => {
  it('reports its head, a part of what came, and all of it; and counts in shared memory', async () => {
    const answer = start(1, '"tag"')
    expect(answer.headers).toEqual({ 'if-none-match': '"tag"' })
    answer.head({ headers: { 'content-length': '1000', 'content-type': 'image/webp' } })
    await vi.waitFor(() => expect(of(1)).toHaveLength(1))
    expect(of(1)[0]).toMatchObject({ type: 'head', head: { status: 200, total: 1000, type: 'image/webp' } })
    answer.send(50)
    await vi.waitFor(() => expect(Atomics.load(counters, 1)).toBe(50))
    // Less than a tenth is reported by the shared count alone.
    expect(of(1)).toHaveLength(1)
    answer.send(950)
    answer.end()
    await last(1)
    expect(of(1).slice(1)).toEqual([
      { type: 'progress', bytes: 1000 },
      { type: 'done', bytes: 1000, body: { type: 'image/webp', bytes: expect.objectContaining({ byteLength: 1000 }) } },
    ])
    expect(Atomics.load(counters, 1 + counters.length / 2)).toBeGreaterThan(0)
  })

  it.each([
    ['before its head', false, { type: 'failed', bytes: 0, reason: 'offline' }],
    ['within its body', true, { type: 'failed', bytes: 300, reason: 'truncated' }],
  ])('that breaks off %s says so', async (_, began, end) => {
    const answer = start(2)
    if (began) {
      answer.head()
      answer.send(300)
      await vi.waitFor(() => expect(Atomics.load(counters, 2)).toBe(300))
    }
    answer.fail()
    await last(2)
    expect(of(2).at(-1)).toEqual(end)
    Atomics.store(counters, 2, 0)
  })

  it('that is led elsewhere, has no session any more, or is kept from its host is reported as that', async () => {
    start(3).head({ type: 'opaqueredirect' })
    start(4).head({ status: 404, headers: { [sessionLostHeader]: sessionLost } })
    const blocked = start(5)
    violated({ blockedURI: blocked.url })
    blocked.fail()
    for (const id of [3, 4, 5]) await last(id)
    expect(of(3)).toEqual([{ type: 'failed', bytes: 0, reason: 'redirects' }])
    expect(of(4)).toEqual([{ type: 'session-lost' }])
    expect(of(5)).toEqual([{ type: 'blocked', origin: 'http://127.0.0.1' }])
  })
})

describe('a transfer that is let go', () => {
  const receiving = async (id: number, bytes: number) => {
    const answer = start(id)
    answer.head({ headers: { 'content-length': '1000' } })
    answer.send(bytes)
    await vi.waitFor(() => expect(Atomics.load(counters, id % 8)).toBe(bytes))
    return answer
  }

  it('is read on until all has come that the server wrote, and no further', async () => {
    written = (ids) => ids.map(() => 700)
    const answer = await receiving(9, 400)
    letGo(9)
    answer.send(200)
    await new Promise((resolve) => setTimeout(resolve))
    expect(of(9).at(-1)!.type).toBe('progress')
    answer.send(100)
    await last(9)
    expect(of(9).at(-1)).toEqual({ type: 'aborted', bytes: 400, inFlight: 300 })
    expect(answer.signal.aborted).toBe(true)
    // What came after it was let go is not the list's.
    expect(Atomics.load(counters, 1)).toBe(400)
  })

  it('ends at once where the server has not heard of it, or is gone', async () => {
    written = () => [null]
    const unheard = start(10)
    letGo(10)
    await last(10)
    expect([of(10), unheard.signal.aborted]).toEqual([[{ type: 'aborted', bytes: 0, inFlight: 0 }], true])
    written = () => new TypeError('failed to fetch')
    await receiving(11, 250)
    letGo(11)
    await last(11)
    expect(of(11).at(-1)).toEqual({ type: 'aborted', bytes: 250, inFlight: 0 })
  })

  it('that comes to its end meanwhile is reported as let go all the same, once', async () => {
    const answer = await receiving(12, 600)
    letGo(12)
    answer.send(400)
    answer.end()
    await last(12)
    expect(of(12).at(-1)).toEqual({ type: 'aborted', bytes: 600, inFlight: 400 })
    const { length } = of(12)
    // The server's answer, and another order, come too late for it.
    written = (ids) => ids.map(() => 1000)
    waitingLetGo.splice(0).forEach((go) => go())
    letGo(12)
    await new Promise((resolve) => setTimeout(resolve))
    expect(of(12)).toHaveLength(length)
  })

  it('is waited for no longer than the most that it may take: the server’s word, and what the server wrote', async () => {
    const unsaid = await receiving(13, 100)
    vi.useFakeTimers()
    letGo(13)
    await vi.advanceTimersByTimeAsync(9900)
    expect(unsaid.signal.aborted).toBe(false)
    await vi.advanceTimersByTimeAsync(200)
    expect(of(13).at(-1)).toEqual({ type: 'aborted', bytes: 100, inFlight: 0 })
    written = () => [500]
    waitingLetGo.splice(0).forEach((go) => go())
    vi.useRealTimers()
    const said = await receiving(21, 100)
    vi.useFakeTimers()
    letGo(21)
    await vi.advanceTimersByTimeAsync(29_900)
    expect(said.signal.aborted).toBe(false)
    said.send(150)
    await vi.advanceTimersByTimeAsync(200)
    expect(of(21).at(-1)).toEqual({ type: 'aborted', bytes: 100, inFlight: 150 })
  })

  it('leaves the others alone: only those that run are asked about', async () => {
    const ids: number[][] = []
    written = (all) => (ids.push(all), all.map(() => 0))
    const stays = await receiving(14, 100)
    const goes = await receiving(15, 100)
    letGo(15, 99)
    await last(15)
    expect([ids, stays.signal.aborted, goes.signal.aborted]).toEqual([[[15]], false, true])
    stays.end()
    await last(14)
    expect(of(14).at(-1)).toMatchObject({ type: 'done', bytes: 100 })
  })
})
