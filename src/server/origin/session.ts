import type { NetworkSettings } from '../../core/project/types.ts'
import { hostMatches } from '../../core/loading/hosts.ts'
import { Credentials, renewalBytes } from '../../core/network/credentials.ts'
import { FluidNetwork } from '../../core/network/fluid-network.ts'
import { FaultPlan, type Reply } from '../../core/network/reply.ts'
import type { SecretHeader } from '../relay/relay-fetch.ts'
import { RealClock } from './real-clock.ts'

/** One response as it was really written. */
export interface LedgerEntry {
  address: string
  status: number
  bodyBytes: number
  aborted: boolean
  startMs: number
  /** When its body, or its end, began to be written; null: not yet, or never. */
  firstByteMs: number | null
  endMs: number | null
}

/** Callbacks of a transfer while it is paced. */
export interface PacedTransfer {
  firstByte(): void
  /** So many bytes of the body may have been written by now. */
  upTo(bytes: number): void
  done(): void
}

/** How often bytes that the model has let through are written, ms. */
const tickMs = 10
const maxLedger = 500_000
/** A link as fast as the schema allows, without round trip, is not modelled at all. */
const unpacedKbps = 10_000_000

/** A paced world of its own: the core's network model on the machine's clock, and a ledger. */
export class OriginSession {
  readonly id: string
  readonly ledger: LedgerEntry[] = []
  /** Headers with secrets that the relay sends to their hosts; kept in memory alone. */
  secrets: readonly SecretHeader[]
  readonly unpaced: boolean
  /**
   * A response that is written at once is watched to its end, as a recording needs it: a client may leave meanwhile.
   */
  watched = false
  lastUse = Date.now()
  /** Whether anything was ever requested from it. */
  used = false
  private readonly credentials: Credentials
  private readonly wantsHeader: readonly string[]
  private readonly clock = new RealClock()
  private readonly fluid: FluidNetwork
  private readonly faults: FaultPlan
  private readonly transfers = new Map<number, PacedTransfer>()
  private readonly flowing = new Set<number>()
  private ticking: NodeJS.Timeout | null = null
  /**
   * Responses that their clients have numbered: the function that stops one while it is written, its bytes once it is
   * over.
   */
  private readonly named = new Map<number, (() => number) | number>()
  /** Transfers that were let go before their request arrived. */
  private readonly leftEarly = new Set<number>()
  private nextId = 0

  constructor(
    id: string,
    network: NetworkSettings,
    seed: number,
    secrets: readonly SecretHeader[],
    lasting: readonly { host: string; lastsS: number | null }[] = [],
  ) {
    this.credentials = new Credentials(lasting)
    this.wantsHeader = lasting.map(({ host }) => host)
    this.id = id
    this.secrets = secrets
    this.unpaced = network.downKbps >= unpacedKbps && network.rttMs + network.jitterMs + network.thinkMs === 0
    this.faults = new FaultPlan(network.faults, seed)
    this.fluid = new FluidNetwork(this.clock, network, seed, {
      connected: () => undefined,
      firstByte: (transfer) => {
        this.flowing.add(transfer)
        this.transfers.get(transfer)?.firstByte()
        this.keepTicking()
      },
      done: (transfer) => {
        const paced = this.transfers.get(transfer)
        this.forget(transfer)
        paced?.done()
      },
    })
  }

  /** ms since the session began. */
  nowMs(): number {
    return this.clock.now() / 1000
  }

  get busy(): boolean {
    return this.transfers.size > 0
  }

  /** Whether the made-up archive answers 401: its credentials are too old, or there is no secret for them. */
  refuses(host: string): boolean {
    if (!this.wantsHeader.some((pattern) => hostMatches(pattern, host))) return false
    return (
      !this.secrets.some((each) => hostMatches(each.host, host)) || this.credentials.refuses(host, this.clock.now())
    )
  }

  /** New credentials, as an app call over the paced link. `secrets`: those that the client has now. */
  renew(host: string, secrets: readonly SecretHeader[]): Promise<boolean> {
    this.secrets = secrets
    return new Promise((resolve) =>
      this.carry(
        host,
        { bytes: renewalBytes },
        {
          firstByte: () => undefined,
          upTo: () => undefined,
          done: () => {
            this.credentials.renew(host, this.clock.now())
            resolve(this.secrets.some((each) => hostMatches(each.host, host)))
          },
        },
      ),
    )
  }

  spoil(address: string, reply: Reply): Reply {
    return this.faults.apply(address, reply, this.nowMs())
  }

  /** The ledger as it is reported: responses that are still being written count as of now. */
  get responses(): Omit<LedgerEntry, 'firstByteMs'>[] {
    return this.ledger.map(({ firstByteMs: _firstByteMs, ...entry }) => ({
      ...entry,
      endMs: entry.endMs ?? this.nowMs(),
    }))
  }

  record(entry: LedgerEntry): LedgerEntry {
    this.lastUse = Date.now()
    if (this.ledger.length < maxLedger) this.ledger.push(entry)
    return entry
  }

  /** Carries a body through the model; returns a function that cuts it off. */
  carry(
    host: string,
    flow: { bytes: number; silent?: boolean; stallAt?: number; cap?: number },
    transfer: PacedTransfer,
  ): () => void {
    const id = this.nextId++
    this.transfers.set(id, transfer)
    this.fluid.start({ id, host, ...flow })
    return () => {
      if (!this.transfers.has(id)) return
      this.forget(id)
      this.fluid.abort(id)
    }
  }

  /** Remembers how to stop a response that its client has given a number; `stop` returns the body bytes written. */
  name(transfer: number, stop: () => number): void {
    if (this.leftEarly.delete(transfer)) stop()
    else if (this.named.size < maxLedger) this.named.set(transfer, stop)
  }

  /** A numbered response is over: only how much was written is kept. */
  over(transfer: number, written: number): void {
    if (this.named.has(transfer)) this.named.set(transfer, written)
  }

  /**
   * Stops writing a response, if it is still being written: returns its body bytes, or null when it has not come yet.
   */
  letGo(transfer: number): number | null {
    const known = this.named.get(transfer)
    if (known === undefined && this.leftEarly.size < maxLedger) this.leftEarly.add(transfer)
    return typeof known === 'function' ? known() : (known ?? null)
  }

  /** Lets everything under way through at once: nothing is paced any more, and nothing waits for it. */
  finishAll(): void {
    for (const [id, transfer] of [...this.transfers]) {
      this.forget(id)
      this.fluid.abort(id)
      transfer.firstByte()
      transfer.done()
    }
  }

  close(): void {
    this.clock.stop()
    if (this.ticking) clearInterval(this.ticking)
  }

  private forget(id: number): void {
    this.transfers.delete(id)
    this.flowing.delete(id)
  }

  private keepTicking(): void {
    this.ticking ??= setInterval(() => {
      for (const id of this.flowing) this.transfers.get(id)?.upTo(this.fluid.received(id))
      if (this.flowing.size > 0) return
      clearInterval(this.ticking!)
      this.ticking = null
    }, tickMs)
  }
}
