import type { Network, TransferEvents, TransferOrder, Us } from '../core/worlds/ports.ts'
import type { Body } from '../workers/body.ts'
import type { FromFetcher, ToFetcher } from '../workers/messages.ts'
import { IdleWorkers } from './idle-workers.ts'
import type { OriginClient, SessionHeader } from './origin-client.ts'

/** The most concurrent transfers, cut ones included until they are confirmed. */
const mostCounters = 256
/** How long after a failure the server is tried again, at first and at the most, ms. */
const firstLookMs = 300
const lastLookMs = 10_000

/** ms on the clock that the page and its workers share. */
const epochMs = () => performance.timeOrigin + performance.now()

interface Running {
  order: TransferOrder
  counter: number
  release: () => void
  /** Its reply has begun. */
  begun: boolean
  /** It was started again in another session. */
  again: boolean
}

export interface LiveNetworkParts {
  origin: OriginClient
  /** The run's clock. */
  now: () => Us
  /** Headers with secrets as they are known now. */
  headersNow: () => Promise<readonly SessionHeader[]>
  /** Resolves when the server answers again. */
  serverReturns: (signal: AbortSignal, waitMs?: number) => Promise<void>
  /** Messages for the user: reported once each. */
  trouble: (message: string) => void
  /** The network is back after requests have failed without it. */
  returned: () => void
  workers?: IdleWorkers
}

const fetchWorkers = new IdleWorkers(
  () => new Worker(new URL('../workers/fetch-worker.ts', import.meta.url), { type: 'module' }),
  2,
)

/**
 * Real fetches, in a worker of their own: the page's thread is busy while the list scrolls, and would read bytes long
 * after they have arrived. Byte counts and bodies are in shared memory. A session that the server has forgotten is
 * opened again, and what had not started continues in it, in a new worker: a worker keeps the policy that it was loaded
 * with. One without transfers is left to the next run.
 */
export class LiveNetwork implements Network {
  /** Bodies that are complete, by request, for the decoders and the disk. */
  readonly bodies = new Map<number, Body>()
  private readonly parts: LiveNetworkParts
  private readonly workers: IdleWorkers
  private readonly running = new Map<number, Running>()
  private readonly cutting = new Map<number, { transfer: Running; onCut: (bytes: number, inFlight: number) => void }>()
  private readonly counters: Int32Array<SharedArrayBuffer>
  private readonly freeCounters = Array.from({ length: mostCounters }, (_, i) => i)
  private readonly leaving: number[] = []
  /** The origin of the times in shared memory. */
  private readonly epoch = epochMs()
  private readonly stopped = new AbortController()
  private worker: Worker
  private events: TransferEvents | null = null
  private offline = false
  private lost = new AbortController()
  private recovering = false
  /** The worker was loaded by this run, after the session was opened. */
  private loadedHere = false
  private watching = false
  private warned = false
  /** How often the server has answered and requests have failed all the same. */
  private fruitlessTries = 0

  constructor(parts: LiveNetworkParts) {
    if (!crossOriginIsolated) throw new Error('the page is not isolated from others, which shared byte counts need')
    this.parts = parts
    this.workers = parts.workers ?? fetchWorkers
    this.counters = new Int32Array(new SharedArrayBuffer(2 * 4 * mostCounters))
    this.worker = this.beginIn(this.workers.take())
  }

  listen(events: TransferEvents): void {
    this.events = events
  }

  start(order: TransferOrder): void {
    const id = order.transfer
    if (this.offline || !this.parts.origin.serves(order.host)) {
      const reason = this.offline ? 'offline' : 'not-granted'
      queueMicrotask(() => this.events!.failed(id, 0, reason))
      return
    }
    const counter = this.freeCounters.pop()
    if (counter === undefined) throw new Error(`more than ${mostCounters} transfers at once`)
    const transfer = { order, counter, release: () => undefined, begun: false, again: false }
    this.running.set(id, transfer)
    // While another session is opened they wait for it.
    if (!this.recovering) this.send(transfer)
    this.events!.connected(id)
  }

  received(transfer: number): number {
    const one = this.running.get(transfer)
    return one ? Atomics.load(this.counters, one.counter) : 0
  }

  lastByteAt(transfer: number): Us {
    const one = this.running.get(transfer)
    const ms = one ? Atomics.load(this.counters, mostCounters + one.counter) : 0
    if (ms === 0) return 0
    return this.parts.now() - Math.round(Math.max(0, epochMs() - this.epoch - ms) * 1000)
  }

  abort(transfer: number, onCut: (bytes: number, inFlight: number) => void): void {
    const cut = this.running.get(transfer)
    if (!cut) {
      onCut(0, 0)
      return
    }
    this.running.delete(transfer)
    this.cutting.set(transfer, { transfer: cut, onCut })
    if (this.recovering) {
      this.confirmCut(transfer, this.bytesOf(cut), 0)
      return
    }
    // All transfers that one frame lets go are sent together.
    if (this.leaving.push(transfer) === 1)
      queueMicrotask(() => this.post({ type: 'let-go', ids: this.leaving.splice(0) }))
  }

  renew(host: string, answered: (ok: boolean) => void): void {
    const ask = async () => !this.offline && this.parts.origin.renew(host, await this.parts.headersNow())
    // Neither a server that is gone nor a page that closes renews anything.
    ask().then(answered, () => answered(false))
  }

  setOffline(offline: boolean): void {
    this.offline = offline
    if (offline) this.lost.abort()
    else this.lost = new AbortController()
    if (offline)
      for (const id of [...this.running.keys()]) this.abort(id, (bytes) => this.events!.failed(id, bytes, 'offline'))
  }

  /** Aborted while the network is gone by a step of the script. */
  get outage(): AbortSignal {
    return this.lost.signal
  }

  /** Something else than a picture could not be loaded from the server: it is tried again. */
  unreachable(): void {
    this.watchReturn()
  }

  stop(): void {
    this.stopped.abort()
    // One that still has transfers would report them to the next run.
    if (this.running.size === 0 && this.cutting.size === 0 && !this.recovering) this.workers.give(this.worker)
    else this.worker.terminate()
    for (const { release } of this.running.values()) release()
    this.running.clear()
    this.cutting.clear()
    this.bodies.clear()
  }

  /** A worker with the policy of the server's last start. */
  private newWorker(): Worker {
    this.workers.clear()
    this.loadedHere = true
    return this.beginIn(this.workers.takeNew())
  }

  private beginIn(worker: Worker): Worker {
    worker.onmessage = ({ data }: MessageEvent<FromFetcher>) => this.hear(data)
    worker.onerror = () => this.workerFailed()
    worker.postMessage({
      type: 'begin',
      counters: this.counters,
      epoch: this.epoch,
      letGoUrl: this.parts.origin.letGoUrl,
    } satisfies ToFetcher)
    return worker
  }

  private send(transfer: Running): void {
    const { order, counter } = transfer
    const { url, release } = this.parts.origin.take(order.address, order.transfer)
    transfer.release = release
    this.counters[counter] = 0
    this.counters[mostCounters + counter] = 0
    this.post({ type: 'start', id: order.transfer, url, etag: order.etag, counter })
  }

  private post(message: ToFetcher): void {
    this.worker.postMessage(message)
  }

  private hear(message: FromFetcher): void {
    const { id } = message
    if (message.type === 'aborted') {
      this.confirmCut(id, message.bytes, message.inFlight)
      return
    }
    // It ended before the worker heard that it was let go: all of it had arrived.
    if (this.cutting.has(id) && message.type !== 'head' && message.type !== 'progress')
      this.confirmCut(id, 'bytes' in message ? message.bytes : 0, 0)
    const transfer = this.running.get(id)
    if (!transfer) return
    switch (message.type) {
      case 'head':
        transfer.begun = true
        this.fruitlessTries = 0
        this.events!.firstByte(id, message.head)
        return
      case 'progress':
        this.events!.progress(id, message.bytes)
        return
      case 'done':
        this.bodies.set(transfer.order.request, message.body)
        this.forget(id, transfer)
        this.events!.done(id, message.bytes)
        return
      case 'failed':
        this.fail(transfer, message.bytes, message.reason)
        return
      case 'blocked':
        // Its worker may be an earlier run's, and older than the server's last start.
        if (!this.loadedHere) {
          void this.recover()
          return
        }
        if (!this.warned)
          this.parts.trouble(
            `The browser keeps this page from asking ${message.origin}: its security policy is from before the server's last start. Reload the page.`,
          )
        this.warned = true
        this.fail(transfer, 0, 'not-granted')
        return
      case 'session-lost':
        void this.recover()
    }
  }

  private fail(transfer: Running, bytes: number, reason: 'redirects' | 'truncated' | 'offline' | 'not-granted'): void {
    this.forget(transfer.order.transfer, transfer)
    if (reason === 'offline' || reason === 'truncated') this.watchReturn()
    this.events!.failed(transfer.order.transfer, bytes, reason)
  }

  /**
   * The server has forgotten the session, as after a restart, or the worker may not contact its ports: everything that
   * is running continues in another session and another worker.
   */
  private async recover(): Promise<void> {
    if (this.recovering) return
    this.recovering = true
    this.worker.terminate()
    for (const [id, { transfer }] of [...this.cutting]) this.confirmCut(id, this.bytesOf(transfer), 0)
    this.leaving.length = 0
    for (const transfer of [...this.running.values()]) {
      transfer.release()
      if (transfer.begun) this.fail(transfer, this.bytesOf(transfer), 'truncated')
      else if (transfer.again) this.fail(transfer, 0, 'offline')
    }
    const opened = await this.parts.origin.renewSession().then(
      () => true,
      () => false,
    )
    this.recovering = false
    if (this.stopped.signal.aborted) return
    this.worker = this.newWorker()
    for (const transfer of [...this.running.values()]) {
      transfer.again = true
      if (opened) this.send(transfer)
      else this.fail(transfer, 0, 'offline')
    }
  }

  /**
   * The worker could not be loaded, or failed: its transfers are lost, and another one is tried when the server
   * answers.
   */
  private workerFailed(): void {
    this.worker.terminate()
    for (const [id, { transfer }] of [...this.cutting]) this.confirmCut(id, this.bytesOf(transfer), 0)
    this.recovering = true
    for (const transfer of [...this.running.values()]) this.fail(transfer, this.bytesOf(transfer), 'offline')
    this.parts.serverReturns(this.stopped.signal).then(
      () => {
        this.recovering = false
        this.worker = this.newWorker()
        for (const transfer of this.running.values()) this.send(transfer)
      },
      () => undefined,
    )
  }

  /** Requests have failed without a network: as soon as the server answers they may be sent again. */
  private watchReturn(): void {
    if (this.watching || this.offline) return
    this.watching = true
    const wait = Math.min(lastLookMs, firstLookMs * 2 ** this.fruitlessTries++)
    const look = async () => {
      await this.parts.serverReturns(this.stopped.signal, wait)
      // A server that was started again has other sessions, and may have other ports.
      if ((await this.parts.origin.isKnown()) === false) await this.recover()
    }
    look().then(
      () => {
        this.watching = false
        if (!this.offline && !this.stopped.signal.aborted) this.parts.returned()
      },
      // The run is over.
      () => undefined,
    )
  }

  private bytesOf({ counter }: Running): number {
    return Atomics.load(this.counters, counter)
  }

  private confirmCut(id: number, bytes: number, inFlight: number): void {
    const cut = this.cutting.get(id)
    if (!cut) return
    this.cutting.delete(id)
    this.forget(id, cut.transfer)
    cut.onCut(bytes, inFlight)
  }

  private forget(id: number, transfer: Running): void {
    this.running.delete(id)
    this.freeCounters.push(transfer.counter)
    transfer.release()
  }
}
