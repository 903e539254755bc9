import type { NetworkSettings } from '../core/project/types.ts'
import type { FailReason, Network, TransferEvents, TransferOrder } from '../core/worlds/ports.ts'
import type { OriginClient } from './origin-client.ts'

/** Progress is told when this share of the body has come since it was last told. */
const toldShare = 0.1

interface Running {
  order: TransferOrder
  abort: AbortController
  received: number
  total: number | null
  firstByteAt: number
  release: () => void
}

/** Real fetches: an abort signal, a streamed body, no cache of the browser's. */
export class LiveNetwork implements Network {
  /** Bodies that are complete, by request, for the decoders and the disk. */
  readonly bodies = new Map<number, Blob>()
  private readonly origin: OriginClient
  private readonly rttMs: number
  private readonly running = new Map<number, Running>()
  private events: TransferEvents | null = null
  private offline = false

  constructor(origin: OriginClient, network: NetworkSettings) {
    this.origin = origin
    this.rttMs = network.rttMs
  }

  listen(events: TransferEvents): void {
    this.events = events
  }

  start(order: TransferOrder): void {
    if (this.offline || !this.origin.serves(order.host)) {
      const reason = this.offline ? 'offline' : 'not-granted'
      queueMicrotask(() => this.events!.failed(order.transfer, 0, reason))
      return
    }
    const { url, release } = this.origin.take(order.address)
    const transfer: Running = { order, abort: new AbortController(), received: 0, total: null, firstByteAt: 0, release }
    this.running.set(order.transfer, transfer)
    void this.run(transfer, url)
  }

  received(transfer: number): number {
    return this.running.get(transfer)?.received ?? 0
  }

  abort(transfer: number): { bytes: number; inFlight: number } {
    const cut = this.running.get(transfer)
    if (!cut) return { bytes: 0, inFlight: 0 }
    this.forget(transfer)
    cut.abort.abort()
    return { bytes: cut.received, inFlight: this.underWay(cut) }
  }

  setOffline(offline: boolean): void {
    this.offline = offline
    if (!offline) return
    for (const [id] of [...this.running]) {
      const { bytes } = this.abort(id)
      this.events!.failed(id, bytes, 'offline')
    }
  }

  stop(): void {
    for (const [id] of [...this.running]) this.abort(id)
    this.bodies.clear()
  }

  /** What the other side had sent and we had not received: the rate so far × half a round trip. */
  private underWay({ received, total, firstByteAt }: Running): number {
    if (firstByteAt === 0 || received === 0) return 0
    const rate = received / Math.max(1, performance.now() - firstByteAt)
    return Math.round(Math.min((total ?? Infinity) - received, (rate * this.rttMs) / 2))
  }

  private async run(transfer: Running, url: string): Promise<void> {
    const { order, abort } = transfer
    const id = order.transfer
    const stands = () => this.running.get(id) === transfer
    let began = false
    try {
      this.events!.connected(id)
      const headers: Record<string, string> = order.etag === null ? {} : { 'if-none-match': order.etag }
      const reply = await fetch(url, { signal: abort.signal, cache: 'no-store', redirect: 'manual', priority: 'auto', headers })
      if (!stands()) return
      if (reply.type === 'opaqueredirect') return this.fail(transfer, 'redirects')
      began = true
      this.head(transfer, reply)
      if (!stands()) return
      const body = await this.read(transfer, reply)
      if (!stands() || body === null) return
      this.bodies.set(order.request, body)
      this.forget(id)
      this.events!.done(id, transfer.received)
    } catch {
      if (stands()) this.fail(transfer, began ? 'truncated' : 'offline')
    }
  }

  private head(transfer: Running, reply: Response): void {
    const length = reply.headers.get('content-length')
    transfer.total = length === null ? null : Number(length)
    transfer.firstByteAt = performance.now()
    this.events!.firstByte(transfer.order.transfer, {
      status: reply.status, total: transfer.total,
      type: reply.headers.get('content-type') ?? '', headers: Object.fromEntries(reply.headers),
    })
  }

  private async read(transfer: Running, reply: Response): Promise<Blob | null> {
    const chunks: Uint8Array<ArrayBuffer>[] = []
    const reader = reply.body?.getReader()
    let told = 0
    while (reader) {
      const { done, value } = await reader.read()
      if (done) break
      if (this.running.get(transfer.order.transfer) !== transfer) return null
      chunks.push(value as Uint8Array<ArrayBuffer>)
      transfer.received += value.length
      if (transfer.received - told < (transfer.total ?? 64_000) * toldShare) continue
      told = transfer.received
      this.events!.progress(transfer.order.transfer, told)
    }
    return new Blob(chunks, { type: reply.headers.get('content-type') ?? '' })
  }

  private fail(transfer: Running, reason: FailReason): void {
    this.forget(transfer.order.transfer)
    this.events!.failed(transfer.order.transfer, transfer.received, reason)
  }

  private forget(id: number): void {
    this.running.get(id)?.release()
    this.running.delete(id)
  }
}
