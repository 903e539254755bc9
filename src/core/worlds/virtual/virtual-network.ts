import type { Loading, NetworkSettings } from '../../project/types.ts'
import type { Clock, Network, TransferEvents, TransferOrder } from '../ports.ts'
import { FluidNetwork } from './fluid-network.ts'
import { Credentials, renewalBytes } from './credentials.ts'
import { FaultPlan, flowOf, mistake, plainReply, type Reply, type Seen } from './reply.ts'

/** The network of the virtual world: replies from the plan, carried by the fluid model. */
export class VirtualNetwork implements Network {
  /** The last reply for each asset: what the decoders find. */
  readonly replies = new Map<number, Reply>()
  private readonly clock: Clock
  private readonly fluid: FluidNetwork
  private readonly faults: FaultPlan
  private readonly credentials: Credentials
  private readonly seen: ReadonlyMap<string, Seen>
  private readonly running = new Map<number, { order: TransferOrder; reply: Reply }>()
  private readonly calls = new Map<number, (ok: boolean) => void>()
  private events: TransferEvents | null = null
  private offline = false
  private lastCall = 0

  constructor(
    clock: Clock,
    settings: NetworkSettings,
    seed: number,
    seen: ReadonlyMap<string, Seen>,
    headers: Loading['headers'] = [],
  ) {
    this.credentials = new Credentials(headers)
    this.clock = clock
    this.seen = seen
    this.faults = new FaultPlan(settings.faults, seed)
    this.fluid = new FluidNetwork(clock, settings, seed, {
      connected: (id) => (id >= 0 ? this.events!.connected(id) : undefined),
      firstByte: (id) => (id >= 0 ? this.firstByte(id) : undefined),
      done: (id) => (id >= 0 ? this.done(id) : this.endCall(id, true)),
    })
  }

  listen(events: TransferEvents): void {
    this.events = events
  }

  start(order: TransferOrder): void {
    const refused = this.credentials.refuses(order.host, this.clock.now())
    const plain = refused
      ? mistake(401)
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

  abort(transfer: number, told: (bytes: number, inFlight: number) => void): void {
    this.running.delete(transfer)
    const { bytes, inFlight } = this.fluid.abort(transfer)
    told(bytes, inFlight)
  }

  /** A call of the app itself, such as a feed page: it takes no fetch slot and is not in the ledger. */
  call(host: string, bytes: number, ended: (ok: boolean) => void): void {
    const id = --this.lastCall
    this.calls.set(id, ended)
    if (this.offline) this.clock.at(this.clock.now(), () => this.endCall(id, false))
    else this.fluid.start({ id, host, bytes })
  }

  renew(host: string, answered: (ok: boolean) => void): void {
    this.call(host, renewalBytes, (ok) => {
      if (ok) this.credentials.renew(host, this.clock.now())
      answered(ok)
    })
  }

  setOffline(offline: boolean): void {
    this.offline = offline
    if (!offline) return
    for (const { id, bytes } of this.fluid.dropAll())
      if (id >= 0) this.fail(id, bytes)
      else this.endCall(id, false)
  }

  private fail(transfer: number, bytes: number): void {
    if (this.running.delete(transfer)) this.events!.failed(transfer, bytes, 'offline')
  }

  private endCall(id: number, ok: boolean): void {
    const ended = this.calls.get(id)
    this.calls.delete(id)
    ended?.(ok)
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
