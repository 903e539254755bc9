import type { Network, TransferEvents, TransferOrder } from '../core/worlds/ports.ts'
import type { FromFetcher, ToFetcher } from '../workers/messages.ts'
import type { OriginClient, SessionHeader } from './origin-client.ts'

/** Transfers that can run at once, cut ones included until they are confirmed. */
const mostCounters = 256

interface Running {
  order: TransferOrder
  counter: number
  release: () => void
}

/**
 * Real fetches, in a worker of their own: the page's thread is busy while the list scrolls, and would read
 * late what has long arrived. Byte counts lie in shared memory.
 */
export class LiveNetwork implements Network {
  /** Bodies that are complete, by request, for the decoders and the disk. */
  readonly bodies = new Map<number, Blob>()
  private readonly origin: OriginClient
  private readonly headersNow: () => Promise<readonly SessionHeader[]>
  private readonly running = new Map<number, Running>()
  private readonly cutting = new Map<number, { transfer: Running; told: (bytes: number, inFlight: number) => void }>()
  private readonly worker = new Worker(new URL('../workers/fetch-worker.ts', import.meta.url), { type: 'module' })
  private readonly counters: Int32Array<SharedArrayBuffer>
  private readonly freeCounters = Array.from({ length: mostCounters }, (_, i) => i)
  private readonly leaving: number[] = []
  private events: TransferEvents | null = null
  private offline = false

  constructor(origin: OriginClient, headersNow: () => Promise<readonly SessionHeader[]>) {
    this.headersNow = headersNow
    if (!crossOriginIsolated) throw new Error('the page is not isolated from others, which shared byte counts need')
    this.origin = origin
    this.counters = new Int32Array(new SharedArrayBuffer(4 * mostCounters))
    this.worker.onmessage = ({ data }: MessageEvent<FromFetcher>) => this.hear(data)
    this.post({ type: 'begin', counters: this.counters, letGoUrl: origin.letGoUrl })
  }

  listen(events: TransferEvents): void {
    this.events = events
  }

  start(order: TransferOrder): void {
    const id = order.transfer
    if (this.offline || !this.origin.serves(order.host)) {
      const reason = this.offline ? 'offline' : 'not-granted'
      queueMicrotask(() => this.events!.failed(id, 0, reason))
      return
    }
    const { url, release } = this.origin.take(order.address, id)
    const counter = this.freeCounters.pop()
    if (counter === undefined) throw new Error(`more than ${mostCounters} transfers at once`)
    this.counters[counter] = 0
    this.running.set(id, { order, counter, release })
    this.post({ type: 'start', id, url, etag: order.etag, counter })
    this.events!.connected(id)
  }

  received(transfer: number): number {
    const one = this.running.get(transfer)
    return one ? Atomics.load(this.counters, one.counter) : 0
  }

  abort(transfer: number, told: (bytes: number, inFlight: number) => void): void {
    const cut = this.running.get(transfer)
    if (!cut) {
      told(0, 0)
      return
    }
    this.running.delete(transfer)
    this.cutting.set(transfer, { transfer: cut, told })
    // What one frame lets go goes out together.
    if (this.leaving.push(transfer) === 1)
      queueMicrotask(() => this.post({ type: 'let-go', ids: this.leaving.splice(0) }))
  }

  renew(host: string, answered: (ok: boolean) => void): void {
    const ask = async () => !this.offline && this.origin.renew(host, await this.headersNow())
    // Neither a server that is gone nor a page that closes renews anything.
    ask().then(answered, () => answered(false))
  }

  setOffline(offline: boolean): void {
    this.offline = offline
    if (offline)
      for (const id of [...this.running.keys()]) this.abort(id, (bytes) => this.events!.failed(id, bytes, 'offline'))
  }

  stop(): void {
    this.worker.terminate()
    for (const { release } of this.running.values()) release()
    this.running.clear()
    this.cutting.clear()
    this.bodies.clear()
  }

  private post(message: ToFetcher): void {
    this.worker.postMessage(message)
  }

  private hear(message: FromFetcher): void {
    if (message.type === 'aborted') {
      this.confirmCut(message.id, message.bytes, message.inFlight)
      return
    }
    const { id } = message
    // It ended between our letting go and the worker's hearing of it: all of it had come.
    if (this.cutting.has(id) && (message.type === 'done' || message.type === 'failed'))
      this.confirmCut(id, message.bytes, 0)
    const transfer = this.running.get(id)
    if (!transfer) return
    switch (message.type) {
      case 'head':
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
        this.forget(id, transfer)
        this.events!.failed(id, message.bytes, message.reason)
    }
  }

  private confirmCut(id: number, bytes: number, inFlight: number): void {
    const cut = this.cutting.get(id)
    if (!cut) return
    this.cutting.delete(id)
    this.forget(id, cut.transfer)
    cut.told(bytes, inFlight)
  }

  private forget(id: number, transfer: Running): void {
    this.running.delete(id)
    this.freeCounters.push(transfer.counter)
    transfer.release()
  }
}
