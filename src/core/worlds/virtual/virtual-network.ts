import type { Loading, NetworkSettings } from '../../project/types.ts'
import type { Clock, Network, TransferEvents, TransferOrder } from '../ports.ts'
import { FluidNetwork } from '../../network/fluid-network.ts'
import { Credentials, renewalBytes } from '../../network/credentials.ts'
import { FaultPlan, flowOf, emptyReply, mostPageBytes, plainReply, type Reply, type Seen } from '../../network/reply.ts'

/** Why a call of the app has failed. */
export type CallFailure =
  'offline' | 'timeout' | 'truncated' | 'redirects' | 'too-large' | 'not a feed' | `status ${number}`

export interface CallOrder {
  host: string
  /** What faults match; null: no fault can strike the call. */
  address: string | null
  bytes: number
  timeoutMs: number
}

/** Why the answer to a call is unusable once it has arrived; null: it is usable. */
function whyUnusable({ status, fault }: Reply): CallFailure | null {
  switch (fault?.kind) {
    case 'redirect-loop':
      return 'redirects'
    case 'truncate':
      return 'truncated'
    case 'wrong-type':
    case 'broken':
    case 'empty':
      return 'not a feed'
    default:
      return status === 200 ? null : `status ${status}`
  }
}

/** The network of the virtual world: replies from the plan, carried by the fluid model. */
export class VirtualNetwork implements Network {
  /** The last reply for each asset, for the decoders. */
  readonly replies = new Map<number, Reply>()
  private readonly clock: Clock
  private readonly fluid: FluidNetwork
  private readonly faults: FaultPlan
  private readonly credentials: Credentials
  private readonly seen: ReadonlyMap<string, Seen>
  private readonly running = new Map<number, { order: TransferOrder; reply: Reply }>()
  private readonly calls = new Map<number, { reply: Reply; ended: (reason: CallFailure | null) => void }>()
  private events: TransferEvents | null = null
  private offline = false
  private lastCall = 0
  /** A renewal that brings no byte for this long has failed, ms. */
  private readonly renewalMs: number

  constructor(
    clock: Clock,
    settings: NetworkSettings,
    seed: number,
    seen: ReadonlyMap<string, Seen>,
    headers: Loading['headers'] = [],
    renewalMs = Infinity,
  ) {
    this.renewalMs = renewalMs
    this.credentials = new Credentials(headers)
    this.clock = clock
    this.seen = seen
    this.faults = new FaultPlan(settings.faults, seed)
    this.fluid = new FluidNetwork(clock, settings, seed, {
      connected: (id) => (id >= 0 ? this.events!.connected(id) : undefined),
      firstByte: (id) => (id >= 0 ? this.firstByte(id) : this.callBegins(id)),
      done: (id) => (id >= 0 ? this.done(id) : this.callDone(id)),
    })
  }

  listen(events: TransferEvents): void {
    this.events = events
  }

  start(order: TransferOrder): void {
    const refused = this.credentials.refuses(order.host, this.clock.now())
    const plain = refused
      ? emptyReply(401)
      : plainReply(order.address, order.hints, order.etag, this.seen.get(order.address) ?? null)
    const reply = this.faults.apply(order.address, plain, this.clock.now() / 1000)
    this.running.set(order.transfer, { order, reply })
    if (this.offline) {
      this.clock.at(this.clock.now(), () => this.fail(order.transfer, 0))
      return
    }
    this.replies.set(order.asset, reply)
    this.fluid.start({ id: order.transfer, host: order.host, ...flowOf(reply) })
  }

  received(transfer: number): number {
    return this.fluid.received(transfer)
  }

  lastByteAt(transfer: number): number {
    return this.fluid.lastByteAt(transfer)
  }

  abort(transfer: number, onCut: (bytes: number, inFlight: number) => void): void {
    this.running.delete(transfer)
    const { bytes, inFlight } = this.fluid.abort(transfer)
    onCut(bytes, inFlight)
  }

  /**
   * A call of the app itself, such as a feed page: it takes no fetch slot and is not in the ledger, and is subject to
   * the network's faults like any other. `ended` is called with null when all of it has arrived, else with the reason.
   */
  call(order: CallOrder, ended: (reason: CallFailure | null) => void): void {
    const id = --this.lastCall
    const plain = { ...emptyReply(200), type: 'application/json', bytes: order.bytes }
    const reply = order.address === null ? plain : this.faults.apply(order.address, plain, this.clock.now() / 1000)
    this.calls.set(id, { reply, ended })
    if (this.offline) {
      this.clock.at(this.clock.now(), () => this.endCall(id, 'offline'))
      return
    }
    this.fluid.start({ id, host: order.host, ...flowOf(reply) })
    this.watchCall(id, this.clock.now(), order.timeoutMs * 1000)
  }

  /** A call that brings no byte for the time-out fails, as a transfer does. */
  private watchCall(id: number, lastByteAt: number, limit: number): void {
    this.clock.at(lastByteAt + limit, () => {
      if (!this.calls.has(id)) return
      const last = Math.max(lastByteAt, this.fluid.lastByteAt(id))
      if (this.clock.now() - last < limit) this.watchCall(id, last, limit)
      else {
        this.fluid.abort(id)
        this.endCall(id, 'timeout')
      }
    })
  }

  renew(host: string, answered: (ok: boolean) => void): void {
    this.call({ host, address: null, bytes: renewalBytes, timeoutMs: this.renewalMs }, (reason) => {
      if (reason === null) this.credentials.renew(host, this.clock.now())
      answered(reason === null)
    })
  }

  setOffline(offline: boolean): void {
    this.offline = offline
    if (!offline) return
    for (const { id, bytes } of this.fluid.dropAll())
      if (id >= 0) this.fail(id, bytes)
      else this.endCall(id, 'offline')
  }

  private fail(transfer: number, bytes: number): void {
    if (this.running.delete(transfer)) this.events!.failed(transfer, bytes, 'offline')
  }

  private endCall(id: number, reason: CallFailure | null): void {
    const call = this.calls.get(id)
    this.calls.delete(id)
    call?.ended(reason)
  }

  /** An answer whose head says that it is too large is not read on. */
  private callBegins(id: number): void {
    if (this.calls.get(id)!.reply.bytes <= mostPageBytes) return
    this.fluid.abort(id)
    this.endCall(id, 'too-large')
  }

  private callDone(id: number): void {
    const { reply } = this.calls.get(id)!
    this.endCall(id, whyUnusable(reply))
  }

  private firstByte(transfer: number): void {
    const { reply } = this.running.get(transfer)!
    if (reply.fault?.kind === 'redirect-loop') return
    const { status, bytes, type, headers } = reply
    this.events!.firstByte(transfer, { status, total: bytes, type, headers })
  }

  private done(transfer: number): void {
    const { reply } = this.running.get(transfer)!
    this.running.delete(transfer)
    if (reply.fault?.kind === 'redirect-loop') this.events!.failed(transfer, 0, 'redirects')
    else if (reply.fault?.kind === 'truncate') this.events!.failed(transfer, flowOf(reply).bytes, 'truncated')
    else this.events!.done(transfer, reply.bytes)
  }
}
