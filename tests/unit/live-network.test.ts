import { beforeEach, describe, expect, it, vi } from 'vitest'
import { IdleWorkers } from '../../src/live/idle-workers.ts'
import { LiveNetwork } from '../../src/live/live-network.ts'
import type { OriginClient } from '../../src/live/origin-client.ts'
import { sharedBody } from '../../src/workers/body.ts'
import type { FromFetcher, ToFetcher } from '../../src/workers/messages.ts'

/** A fetch worker that does what the test says. */
class FakeWorker {
  readonly heard: ToFetcher[] = []
  ended = false
  onmessage: ((event: { data: FromFetcher }) => void) | null = null
  onerror: (() => void) | null = null
  private readonly listeners: { type: string; listener: () => void }[] = []

  addEventListener(type: string, listener: () => void): void {
    this.listeners.push({ type, listener })
  }

  postMessage(message: ToFetcher): void {
    this.heard.push(message)
  }

  terminate(): void {
    this.ended = true
  }

  say(data: FromFetcher): void {
    this.happens('message')
    this.onmessage!({ data })
  }

  fail(): void {
    this.happens('error')
    this.onerror!()
  }

  private happens(what: string): void {
    for (const { type, listener } of this.listeners) if (type === what) listener()
  }

  get started(): number[] {
    return this.heard.flatMap((message) => (message.type === 'start' ? [message.id] : []))
  }
}

let workers: FakeWorker[]
/** What is reported to the engine about transfers, and what else happens, in order. */
let said: string[]
let network: LiveNetwork
let kept: IdleWorkers
let server: { answers: () => void; known: boolean | null; opens: boolean }
const sessions = { renewed: 0 }

const order = (transfer: number) => ({
  transfer,
  request: transfer,
  asset: transfer,
  address: `https://archive.example.test/tiles/${transfer}`,
  host: 'archive.example.test',
  hints: { bytes: null, widthPx: null, heightPx: null },
  etag: null,
})
const head = (id: number): FromFetcher => ({
  type: 'head',
  id,
  head: { status: 200, total: 100, type: 'image/webp', headers: {} },
})
const settle = () => new Promise((resolve) => setImmediate(resolve))

beforeEach(() => {
  vi.stubGlobal('crossOriginIsolated', true)
  workers = []
  said = []
  sessions.renewed = 0
  server = { answers: () => undefined, known: true, opens: true }
  kept = new IdleWorkers(() => {
    const worker = new FakeWorker()
    workers.push(worker)
    return worker as unknown as Worker
  }, 2)
  network = open()
})

/** The network of a run. */
function open(): LiveNetwork {
  const origin = {
    serves: () => true,
    letGoUrl: '/let-go',
    take: (address: string) => ({ url: `${address}#${sessions.renewed}`, release: () => undefined }),
    renewSession: () => {
      if (!server.opens) return Promise.reject(new Error('away'))
      sessions.renewed++
      return Promise.resolve()
    },
    isKnown: () => Promise.resolve(server.known),
  } as unknown as OriginClient
  const opened = new LiveNetwork({
    origin,
    now: () => 0,
    headersNow: () => Promise.resolve([]),
    serverReturns: () => new Promise((resolve) => (server.answers = resolve)),
    trouble: (message) => said.push(`trouble: ${message}`),
    returned: () => said.push('returned'),
    workers: kept,
  })
  opened.listen({
    connected: (id) => said.push(`connected ${id}`),
    firstByte: (id) => said.push(`first byte ${id}`),
    progress: (id, bytes) => said.push(`progress ${id} ${bytes}`),
    done: (id, bytes) => said.push(`done ${id} ${bytes}`),
    failed: (id, bytes, reason) => said.push(`failed ${id} ${bytes} ${reason}`),
  })
  return opened
}

describe('a session that the server has forgotten', () => {
  it('is opened again once; what had not begun goes on in it, what had begun was truncated', async () => {
    for (const id of [1, 2, 3]) network.start(order(id))
    workers[0]!.say(head(1))
    workers[0]!.say({ type: 'session-lost', id: 2 })
    workers[0]!.say({ type: 'session-lost', id: 3 })
    // One that is started meanwhile waits for the session.
    network.start(order(4))
    await settle()
    expect(sessions.renewed).toBe(1)
    expect(workers[0]!.ended).toBe(true)
    expect(workers).toHaveLength(2)
    expect(workers[1]!.started).toEqual([2, 3, 4])
    expect(said).toContain('failed 1 0 truncated')
    workers[1]!.say({ type: 'done', id: 3, bytes: 100, body: sharedBody('image/webp', []) })
    expect(said.at(-1)).toBe('done 3 100')
  })

  it('that cannot be opened again is a network that is gone, until the server answers', async () => {
    server.opens = false
    network.start(order(1))
    workers[0]!.say({ type: 'session-lost', id: 1 })
    await settle()
    expect(said).toContain('failed 1 0 offline')
    server.answers()
    await settle()
    expect(said.at(-1)).toBe('returned')
  })

  it('lost twice for one transfer is not asked for a third time', async () => {
    network.start(order(1))
    workers[0]!.say({ type: 'session-lost', id: 1 })
    await settle()
    workers[1]!.say({ type: 'session-lost', id: 1 })
    await settle()
    expect(said).toContain('failed 1 0 offline')
    expect(workers.flatMap(({ started }) => started)).toEqual([1, 1])
  })
})

describe('requests that are let go', () => {
  it('go out together, and each is confirmed with what had come', async () => {
    for (const id of [1, 2]) network.start(order(id))
    const seen: string[] = []
    for (const id of [1, 2]) network.abort(id, (bytes, inFlight) => seen.push(`${id}: ${bytes} + ${inFlight}`))
    await settle()
    expect(workers[0]!.heard.filter(({ type }) => type === 'let-go')).toEqual([{ type: 'let-go', ids: [1, 2] }])
    workers[0]!.say({ type: 'aborted', id: 1, bytes: 40, inFlight: 7 })
    // The other one ended before the worker heard that it was let go.
    workers[0]!.say({ type: 'done', id: 2, bytes: 100, body: sharedBody('image/webp', []) })
    expect(seen).toEqual(['1: 40 + 7', '2: 100 + 0'])
    expect(said.filter((each) => each.startsWith('done'))).toEqual([])
  })

  it('are confirmed at once when their session is lost meanwhile', async () => {
    for (const id of [1, 2]) network.start(order(id))
    const seen: number[] = []
    network.abort(1, () => seen.push(1))
    workers[0]!.say({ type: 'session-lost', id: 2 })
    expect(seen).toEqual([1])
    await settle()
    expect(workers[1]!.started).toEqual([2])
  })

  it('and are not known any more cost nothing', () => {
    const seen: number[] = []
    network.abort(9, (bytes, inFlight) => seen.push(bytes, inFlight))
    expect(seen).toEqual([0, 0])
  })
})

describe('a network that is gone', () => {
  it('is asked for again when the server answers; a server that was started again has other sessions', async () => {
    network.start(order(1))
    workers[0]!.say({ type: 'failed', id: 1, bytes: 0, reason: 'offline' })
    network.start(order(2))
    workers[0]!.say({ type: 'failed', id: 2, bytes: 0, reason: 'offline' })
    expect(said).not.toContain('returned')
    server.known = false
    server.answers()
    await settle()
    expect(sessions.renewed).toBe(1)
    expect(said.filter((each) => each === 'returned')).toHaveLength(1)
  })

  it('by the script’s word is not asked for, and fails what runs', async () => {
    network.start(order(1))
    network.setOffline(true)
    workers[0]!.say({ type: 'aborted', id: 1, bytes: 0, inFlight: 0 })
    network.start(order(2))
    await settle()
    expect(said).toEqual(expect.arrayContaining(['failed 1 0 offline', 'failed 2 0 offline']))
    server.answers()
    await settle()
    expect(said).not.toContain('returned')
  })

  it('is not a policy that refuses: a new worker has the present one; is it refused again, that is reported once', async () => {
    for (const id of [1, 2]) network.start(order(id))
    for (const id of [1, 2]) workers[0]!.say({ type: 'blocked', id, origin: 'http://127.0.0.1:1' })
    await settle()
    expect(workers[0]!.ended).toBe(true)
    expect(workers[1]!.started).toEqual([1, 2])
    for (const id of [1, 2]) workers[1]!.say({ type: 'blocked', id, origin: 'http://127.0.0.1:1' })
    expect(said.filter((each) => each.startsWith('trouble'))).toHaveLength(1)
    expect(said).toEqual(expect.arrayContaining(['failed 1 0 not-granted', 'failed 2 0 not-granted']))
  })

  it('keeps a worker from being loaded: what it had fails, and another one is made when the server answers', async () => {
    network.start(order(1))
    workers[0]!.fail()
    expect(said).toContain('failed 1 0 offline')
    network.start(order(2))
    server.answers()
    await settle()
    expect(workers.at(-1)!.started).toEqual([2])
  })
})

describe('a worker that a run has left', () => {
  const done = (id: number): FromFetcher => ({ type: 'done', id, bytes: 100, body: sharedBody('image/webp', []) })

  it('is the next run’s, unless it still has transfers or has never answered', () => {
    network.start(order(1))
    workers[0]!.say(done(1))
    network.stop()
    const second = open()
    expect(workers).toHaveLength(1)
    expect(workers[0]!.heard.filter(({ type }) => type === 'begin')).toHaveLength(2)
    second.start(order(1))
    workers[0]!.say(done(1))
    expect(said.filter((each) => each === 'done 1 100')).toHaveLength(2)

    second.start(order(2))
    second.stop()
    expect(workers[0]!.ended).toBe(true)
    open().stop()
    expect(workers[1]!.ended).toBe(true)
  })

  it('is not used again once a run needs one of the server’s last start, nor after it has failed', async () => {
    const other = open()
    for (const [i, each] of [network, other].entries()) {
      each.start(order(i))
      workers[i]!.say(done(i))
    }
    other.stop()
    network.start(order(2))
    workers[0]!.say({ type: 'session-lost', id: 2 })
    await settle()
    expect(workers.map(({ ended }) => ended)).toEqual([true, true, false])

    workers[2]!.say(done(2))
    workers[2]!.fail()
    network.stop()
    open()
    expect(workers.map(({ ended }) => ended)).toEqual([true, true, true, false])
  })
})
