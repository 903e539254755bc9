import type { Loading } from '../project/types.ts'
import type { FailReason, Us } from '../worlds/ports.ts'
import { placeInLog } from '../log/claim-place.ts'
import { Decoding } from './decoding.ts'
import { DiskReads } from './disk-reads.ts'
import { DiskTier } from './disk-tier.ts'
import { LoaderState, type ClaimOrder, type LoaderActions, type LoaderParts } from './loader-state.ts'
import { MemoryTier } from './memory-tier.ts'
import { nextInLine } from './next-in-line.ts'
import { LettingGo } from './letting-go.ts'
import { OpenRequests } from './open-requests.ts'
import { isBefore, type Viewpoint } from './rank.ts'
import { isLocal } from './hosts.ts'
import { refusalOf } from './refusal.ts'
import { Renewals } from './renewals.ts'
import { ended, isOfCell, running, type Claim, type Request, type RunningRequest } from './request.ts'
import { Transfers } from './transfers.ts'

/**
 * Starts, ranks, shares and lets go of requests so that claims get their pictures. It knows no browser and no clock of
 * its own. Invariants: each request ends exactly once; running transfers ≤ slots, in all and to a host; a claim is
 * delivered at most once, and with the guard on never after its release.
 */
export class Loader {
  private readonly state: LoaderState
  private readonly transfers: Transfers
  private readonly reads: DiskReads
  private readonly decoding: Decoding
  private readonly requests: OpenRequests
  private readonly lettingGo: LettingGo
  private claims = 0

  constructor(parts: LoaderParts) {
    const { policy, world, log } = parts
    const { clock } = world
    const memory = new MemoryTier(policy.memoryMb * 1e6, (rendition, bytes, evicted) => {
      world.heap.churn(bytes)
      world.decoder.drop(rendition)
      if (evicted) log.events.evict(clock.now(), { rendition })
    })
    const room = parts.granted.storage ? policy.diskMb * 1e6 : 0
    const diskTier = new DiskTier(
      room,
      policy.diskFreshness,
      () => parts.epochMs + clock.now() / 1000,
      (asset, bytes) => {
        world.disk.remove(asset)
        log.events.diskEvict(clock.now(), { asset, bytes })
      },
    )
    const state = new LoaderState(parts, memory, diskTier)
    this.state = state
    this.requests = new OpenRequests(state)
    const actions: LoaderActions = {
      pump: () => this.pump(),
      fail: (request, reason, bytes, transfer) => this.fail(request, reason, bytes, transfer),
      end: (request, how) => this.requests.end(request, how),
      revalidate: (asset, etag) => this.requests.revalidate(asset, etag),
    }
    this.decoding = new Decoding(state, actions)
    this.reads = new DiskReads(state, actions, this.decoding)
    const renewals = new Renewals(state, actions)
    this.transfers = new Transfers(state, actions, { decoding: this.decoding, reads: this.reads, renewals })
    const { requests, decoding, transfers } = this
    this.lettingGo = new LettingGo(state, { requests, decoding, transfers })
  }

  get memory(): MemoryTier {
    return this.state.memory
  }

  get diskTier(): DiskTier {
    return this.state.diskTier
  }

  get live(): ReadonlySet<Request> {
    return this.state.live
  }

  /** Requests that are not over, best rank first: the order in which free slots go to those that may start. */
  ranked(): Request[] {
    const ranks = new Map([...this.state.live].map((request) => [request, this.state.rank(request)]))
    return [...ranks.keys()].sort((one, other) => (isBefore(ranks.get(one)!, ranks.get(other)!) ? -1 : 1))
  }

  /** Makes a claim. When memory has the rendition the owner is called before this returns. */
  claim(order: ClaimOrder, onScreen: boolean): Claim {
    const { log, table, owner } = this.state.parts
    const claim: Claim = {
      id: this.claims++,
      rendition: order.rendition,
      asset: table.assetOf(order.rendition),
      cell: order.cell,
      slot: order.slot,
      index: order.index,
      row: order.row,
      priority: order.priority,
      scope: order.scope ?? 'list',
      later: order.later ?? false,
      state: 'open',
      onScreen,
      leftAt: null,
      held: false,
      request: null,
    }
    const { cell, slot } = placeInLog(claim)
    const { id, rendition, index } = claim
    log.events.claim(this.state.now, { id, rendition, cell, slot, index })
    const failure = this.failureOf(claim.asset)
    if (this.state.memory.has(claim.rendition)) this.decoding.deliver(claim, 'memory')
    else if (failure !== undefined) {
      claim.state = 'failed'
      owner.failed(claim, failure)
    } else this.attach(claim, order.refused)
    return claim
  }

  /** Ends a claim. What happens to a request without claims is decided at the end of the frame's work. */
  release(claim: Claim, why: string): void {
    if (claim.state === 'released') return
    const { log, policy } = this.state.parts
    log.events.release(this.state.now, { id: claim.id, why })
    const { request } = claim
    const wasDelivered = claim.state === 'delivered'
    claim.state = 'released'
    if (wasDelivered && isOfCell(claim)) this.state.memory.letGo(claim.rendition)
    if (!request || ended(request)) return
    // A closed scope is not called any more, guard or not; nor is a claim that has its picture.
    if (policy.guard || wasDelivered || why === 'closed')
      request.claims = request.claims.filter((each) => each !== claim)
    this.lettingGo.note(request)
  }

  /** The window moved: ranks change with it. */
  rerank(view: Viewpoint, speed: number): void {
    const before = this.restrained
    this.state.view = view
    this.state.speed = Math.abs(speed)
    const now = this.state.now
    if (this.restrained !== before) this.state.parts.log.events.restrain(now, { on: !before })
    for (const request of this.state.live) this.state.noteClass(request, now)
  }

  /** The end of a frame's work: cancels leave the main thread, then starts. */
  settle(): void {
    this.lettingGo.settle()
    this.pump()
  }

  /** Starts what may start, best rank first. */
  pump(): void {
    const { policy } = this.state.parts
    if (this.state.offline) {
      for (const request of this.state.live)
        if (request.state === 'queued' && !request.parked) this.transfers.park(request)
      return
    }
    if (this.restrained) return
    while (this.state.active < policy.fetchSlots) {
      const next = nextInLine(this.state)
      if (!next) return
      // Claims may have been released, or have left the screen, since the last frame: the order is that of the present
      // ranks.
      for (const request of this.state.live) this.state.noteClass(request, this.state.now)
      this.transfers.start(next)
    }
  }

  /** Whether anything is running or could start by itself: a visit drains until this is false. */
  get busy(): boolean {
    if (this.decoding.decodes.busy || this.state.cutting > 0) return true
    for (const request of this.state.live) if (!request.parked) return true
    return false
  }

  /** Whether the network is reported to be gone. */
  get offline(): boolean {
    return this.state.offline
  }

  /** Bytes that a running request has received by now. */
  receivedOf(request: RunningRequest): number {
    return this.state.parts.world.network.received(request.transfer)
  }

  /** Bytes that transfers in progress hold. */
  bufferBytes(): number {
    if (this.state.active === 0) return 0
    let sum = 0
    for (const request of this.state.live)
      if (running(request)) sum += this.state.parts.world.network.received(request.transfer)
    return sum
  }

  decodeOnMain(spent: (us: Us) => void): void {
    this.decoding.decodes.decodeOnMain(spent)
  }

  /** The largest other rendition of the same asset that memory has, as a stand-in; null: there is none. */
  standInFor(rendition: number): number | null {
    const { table } = this.state.parts
    const px = (each: number) => table.renditions[each]!.width * table.renditions[each]!.height
    let best: number | null = null
    for (const other of table.renditionsOf(table.assetOf(rendition)))
      if (other !== rendition && this.state.memory.has(other) && (best === null || px(other) > px(best))) best = other
    return best
  }

  /** A failed asset may be requested again: by hand. */
  forgetFailure(asset: number): void {
    this.state.failures.delete(asset)
  }

  /** Why an asset is known to fail, which is remembered across bindings; undefined: it is not. */
  failureOf(asset: number): FailReason | undefined {
    return this.state.failures.get(asset)?.reason
  }

  /** The HTTP status that an asset failed with; undefined: it has not failed. */
  statusOf(asset: number): number | undefined {
    return this.state.failures.get(asset)?.status
  }

  /** Nothing may start: the list moves too fast for it. */
  get restrained(): boolean {
    const { startBelowDpPerS } = this.state.parts.policy
    return startBelowDpPerS !== null && this.state.speed >= startBelowDpPerS
  }

  /** The app is paused, or the list's screen is left or closed: what happens to requests by the policy. */
  suspend(how: Loading['cancel']['whenPaused'], why: 'paused' | 'left' | 'closed'): void {
    this.lettingGo.suspend(how, why)
  }

  resume(): void {
    this.state.suspension = null
    this.pump()
  }

  /** The network is gone: nothing starts, and what is queued waits for its return. */
  networkLost(): void {
    this.state.offline = true
    this.pump()
  }

  /** The network is back: what waited for it starts again, and what failed without it is forgotten. */
  networkReturned(): void {
    this.state.offline = false
    for (const request of this.state.live) {
      if (!request.parked) continue
      request.parked = false
      this.state.parts.log.events.unpark(this.state.now, { request: request.id })
      for (const claim of request.claims) {
        if (claim.state !== 'failed') continue
        claim.state = 'open'
        this.state.parts.owner.waiting(claim)
      }
    }
    this.pump()
  }

  /** The visit ends: what running transfers have received so far. */
  noteOpen(): void {
    const { log, world } = this.state.parts
    for (const { transfer } of this.state.live)
      if (transfer !== null) log.events.progress(this.state.now, { transfer, bytes: world.network.received(transfer) })
  }

  /** Memory pressure: gives back what no cell holds. */
  relieve(): void {
    this.state.parts.log.events.relief(this.state.now)
    this.state.memory.clear()
  }

  private attach(claim: Claim, refused: FailReason | null): void {
    const shared = this.state.parts.policy.share ? this.state.byAsset.get(claim.asset) : undefined
    const request = shared && !ended(shared) ? shared : this.requests.open(claim.asset)
    claim.request = request
    // Most requests have one claim: a list that is made for one has no spare room.
    if (request.claims.length === 0) request.claims = [claim]
    else request.claims.push(claim)
    this.state.parts.log.events.join(this.state.now, { claim: claim.id, request: request.id })
    this.state.noteClass(request, this.state.now)
    const reason = refused ?? this.refusal(request)
    if (shared === request) {
      if (request.state === 'decoding') this.decoding.wantDecode(request, claim.rendition)
      if (request.parked) {
        claim.state = 'failed'
        this.state.parts.owner.failed(claim, 'offline')
      }
    } else if (reason !== null) this.fail(request, reason, 0, null)
    else if (isLocal(this.state.parts.table.hrefs[request.asset]!)) this.reads.readLocal(request)
    else this.reads.tryDisk(request)
  }

  private refusal(request: Request): FailReason | null {
    const { policy, table, granted } = this.state.parts
    return refusalOf(table.hrefs[request.asset]!, request.host, policy, granted)
  }

  /** The end of a request for good. `transfer` null: it failed without one; bytes: those not logged before. */
  private fail(request: Request, reason: FailReason, bytes: number, transfer: number | null): void {
    const { log, owner, world } = this.state.parts
    log.events.fail(this.state.now, { transfer, request: request.id, bytes, reason, status: request.status })
    this.decoding.decodes.drop(request, null)
    this.requests.end(request, 'failed')
    // A copy that could not be revalidated can still be shown.
    if (!request.behind) this.state.failures.set(request.asset, { reason, status: request.status })
    world.decoder.dropBody(request.id)
    for (const claim of request.claims) {
      if (claim.state !== 'open' && claim.state !== 'failed') continue
      claim.state = 'failed'
      owner.failed(claim, reason)
    }
  }
}
