import type { Facts, RequestFact, TransferFact } from './facts.ts'
import type { QueueWatch } from './queue-watch.ts'

/** Requests and their transfers while a log is read, from being queued to their end. */
export class Exchanges {
  private readonly facts: Facts
  private readonly watch: QueueWatch
  /** When the slots of cut transfers were free. */
  private readonly cuts = new Map<number, number>()

  constructor(facts: Facts, watch: QueueWatch) {
    this.facts = facts
    this.watch = watch
  }

  queue(t: number, id: number, asset: number, host: string): void {
    this.facts.requests[id] = {
      id,
      asset,
      queueT: t,
      endT: t,
      end: 'open',
      reason: '',
      transfers: [],
      claims: [],
      fromDisk: false,
      retries: 0,
    }
    this.watch.queued(t, id, host)
  }

  start(t: number, request: number, id: number, attempt: number, conditional: boolean): void {
    const { transfers, requests, claims } = this.facts
    const fact = requests[request]!
    const startClass = this.watch.started(t, request)
    transfers[id] = {
      id,
      request,
      asset: fact.asset,
      attempt,
      conditional,
      startT: t,
      connectedT: null,
      firstByteT: null,
      endT: t,
      freeT: t,
      status: 0,
      total: null,
      bytes: 0,
      inFlight: 0,
      end: 'open',
      startClass,
    }
    fact.transfers.push(id)
    // Requests that had failed without a network wait again.
    for (const claim of fact.claims) claims[claim]!.failT = null
  }

  /** A transfer is cut: its slot is free, how much of it had arrived is reported later. */
  cut(t: number, transfer: number, request: number): void {
    this.cuts.set(transfer, t)
    this.watch.freed(t, request)
  }

  endTransfer(t: number, id: number, bytes: number, end: TransferFact['end']): void {
    const transfer = this.facts.transfers[id]!
    if (transfer.end !== 'open') return
    Object.assign(transfer, { endT: t, freeT: this.cuts.get(id) ?? t, bytes, end })
    this.watch.freed(t, transfer.request)
  }

  endRequest(t: number, id: number, end: RequestFact['end'], reason: string): void {
    const request = this.facts.requests[id]
    this.watch.left(t, id)
    if (!request || request.end !== 'open') {
      this.facts.endBreaches.push(id)
      return
    }
    Object.assign(request, { endT: t, end, reason })
  }

  /** The log is over: what was still under way was so until then. */
  finish(t: number): void {
    for (const request of this.facts.requests) if (request.end === 'open') request.endT = t
    for (const transfer of this.facts.transfers)
      if (transfer.end === 'open') Object.assign(transfer, { endT: t, freeT: this.cuts.get(transfer.id) ?? t })
  }
}
