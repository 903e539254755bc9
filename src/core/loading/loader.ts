import type { Device, Loading } from '../project/types.ts'
import { K } from '../log/event-kinds.ts'
import type { RunLog } from '../log/run-log.ts'
import { draw } from '../numbers/draw.ts'
import type { DecodeResult, FailReason, ReplyHead, Us, World } from '../worlds/ports.ts'
import type { AssetTable } from './asset-table.ts'
import { DecodeQueue } from './decode-queue.ts'
import { DiskTier } from './disk-tier.ts'
import { hostMatches } from './hosts.ts'
import { MemoryTier } from './memory-tier.ts'
import { classOf, isBefore, rankOf, type Rank, type Viewpoint } from './rank.ts'
import { maxAssetBytes, pictureBytes } from './rendition.ts'
import { canRetry, ended, running, type Claim, type Request, type Tier } from './request.ts'

/** Whoever makes the claims: hears what becomes of them. */
export interface ClaimOwner {
  delivered(claim: Claim, tier: Tier): void
  failed(claim: Claim, reason: FailReason): void
  arriving(claim: Claim, bytes: number, total: number | null): void
  /** A failed claim waits again: the network is back. */
  waiting(claim: Claim): void
  needFrame(): void
}

export interface ClaimOrder {
  rendition: number
  cell: number
  slot: number
  index: number
  row: number
  priority: number
  /** The address is known to be wrong before anything loads. */
  refused: FailReason | null
}

/** What the tiers hold at the end of a visit, for the next one. */
export interface KeptTiers {
  disk: ReturnType<DiskTier['list']>
  memory: {
    identity: string; host: string; target: AssetTable['targets'][number]; bytes: number; width: number; height: number
    sourceWidth: number; sourceHeight: number; assetBytes: number
  }[]
}

interface LoaderParts {
  world: Pick<World, 'clock' | 'network' | 'decoder' | 'disk' | 'heap'>
  log: RunLog
  policy: Loading
  granted: Device['granted']
  seed: number
  table: AssetTable
  owner: ClaimOwner
  /** ms of the world's calendar at instant 0 of this visit: what freshness is judged by. */
  epochMs: number
}

/**
 * Starts, ranks, shares and lets go of requests so that the claims get their pictures. It knows no browser and
 * no clock of its own. Invariants: each request ends exactly once; transfers that run ≤ slots, in all and to a
 * host; a claim is delivered at most once, and with the guard on never after its release.
 */
export class Loader {
  readonly memory: MemoryTier
  readonly diskTier: DiskTier
  readonly live = new Set<Request>()
  private readonly parts: LoaderParts
  private readonly decodes: DecodeQueue
  private readonly byAsset = new Map<number, Request>()
  private readonly byTransfer = new Map<number, Request>()
  private readonly failures = new Map<number, FailReason>()
  private readonly perHost = new Map<string, number>()
  private lettingGo = new Set<Request>()
  private active = 0
  private cutting = 0
  private claims = 0
  private requests = 0
  private transfers = 0
  private retries = 0
  private speed = 0
  private offline = false
  /** How requests are treated while the screen is paused or left; null: it is active. */
  private suspension: Loading['cancel']['whenPaused'] | null = null
  private view: Viewpoint = { centre: 0, direction: 1, centreOfRow: () => 0 }

  constructor(parts: LoaderParts) {
    this.parts = parts
    const { policy, world, log } = parts
    const { clock } = world
    this.memory = new MemoryTier(policy.memoryMb * 1e6, (rendition, bytes, evicted) => {
      world.heap.churn(bytes)
      world.decoder.drop(rendition)
      if (evicted) log.write(K.evict, clock.now(), rendition)
    })
    const room = parts.granted.storage ? policy.diskMb * 1e6 : 0
    this.diskTier = new DiskTier(room, policy.diskFreshness, () => parts.epochMs + clock.now() / 1000, (asset, bytes) => {
      world.disk.remove(asset)
      log.write(K.diskEvict, clock.now(), asset, bytes)
    })
    this.decodes = new DecodeQueue({
      decoder: world.decoder, clock, log, workers: policy.decodeWorkers, onMain: policy.decodeOn === 'main',
      rank: (request) => this.rank(request),
      ended: (job, result) => this.decoded(job.request, job.rendition, result),
      needFrame: () => parts.owner.needFrame(),
    })
    world.network.listen({
      connected: (transfer) => this.connected(transfer),
      firstByte: (transfer, head) => this.firstByte(transfer, head),
      progress: (transfer, bytes) => this.progress(transfer, bytes),
      done: (transfer, bytes) => this.done(transfer, bytes),
      failed: (transfer, bytes, reason) => this.transferFailed(transfer, bytes, reason),
    })
  }

  /** Makes a claim. When memory has the rendition the owner hears of it before this returns. */
  claim(order: ClaimOrder, onScreen: boolean): Claim {
    const { log, table, owner } = this.parts
    const claim: Claim = {
      id: this.claims++, rendition: order.rendition, asset: table.assetOf(order.rendition),
      cell: order.cell, slot: order.slot, index: order.index, row: order.row, priority: order.priority,
      state: 'open', onScreen, leftAt: -1, held: false, request: null,
    }
    log.write(K.claim, this.now, claim.id, claim.rendition, claim.cell, claim.slot, claim.index)
    const failure = this.failures.get(claim.asset)
    if (this.memory.has(claim.rendition)) this.deliver(claim, 'memory')
    else if (failure !== undefined) {
      claim.state = 'failed'
      owner.failed(claim, failure)
    } else this.attach(claim, order.refused)
    return claim
  }

  /** Ends a claim. What becomes of a request without claims is decided at the end of the frame's work. */
  release(claim: Claim, why: string): void {
    if (claim.state === 'released') return
    const { log, policy } = this.parts
    log.write(K.release, this.now, claim.id, log.text(why))
    const { request } = claim
    const wasDelivered = claim.state === 'delivered'
    claim.state = 'released'
    if (wasDelivered && claim.cell >= 0) this.memory.letGo(claim.rendition)
    if (!request || ended(request)) return
    if (policy.guard) request.claims = request.claims.filter((each) => each !== claim)
    if (!request.claims.some((each) => each.state !== 'released')) this.lettingGo.add(request)
  }

  /** The window moved: ranks change with it. */
  rerank(view: Viewpoint, speed: number): void {
    this.view = view
    this.speed = Math.abs(speed)
    const now = this.now
    for (const request of this.live) this.noteClass(request, now)
  }

  /** The end of a frame's work: cancels leave the main thread, then starts. */
  settle(): void {
    const going = this.lettingGo
    if (going.size > 0) {
      this.lettingGo = new Set()
      for (const request of going)
        if (!ended(request) && !request.claims.some((each) => each.state !== 'released')) this.letGo(request, 'recycle')
    }
    this.pump()
  }

  /** Starts what may start, best rank first. */
  pump(): void {
    const { policy } = this.parts
    if (this.offline) {
      for (const request of this.live) if (request.state === 'queued' && !request.parked) this.park(request)
      return
    }
    const restrained = policy.startBelowDpPerS !== null && this.speed >= policy.startBelowDpPerS
    if (restrained || (this.suspension !== null && this.suspension !== 'carry-on')) return
    while (this.active < policy.fetchSlots) {
      const next = this.nextToStart()
      if (!next) return
      this.start(next)
    }
  }

  /** Whether anything still runs or could start by itself: a visit drains until this is false. */
  get busy(): boolean {
    if (this.decodes.busy || this.cutting > 0) return true
    for (const request of this.live) if (!request.parked) return true
    return false
  }

  /** Bytes that transfers in progress hold. */
  bufferBytes(): number {
    let sum = 0
    for (const request of this.live) if (running(request)) sum += this.parts.world.network.received(request.transfer)
    return sum
  }

  decodeOnMain(spent: (us: Us) => void): void {
    this.decodes.decodeOnMain(spent)
  }

  /** Whether an asset failed in a way that is remembered across bindings. */
  isKnownToFail(asset: number): boolean {
    return this.failures.has(asset)
  }

  /** The screen is paused, left or closed: what happens to requests by the policy's word. */
  suspend(how: Loading['cancel']['whenPaused'], why: string): void {
    this.suspension = how
    for (const request of [...this.live]) {
      if (ended(request)) continue
      if (how === 'let-go') this.cancel(request, why)
    }
  }

  resume(): void {
    this.suspension = null
    this.pump()
  }

  /** The network is gone: nothing starts, and what is in line waits for its return. */
  networkLost(): void {
    this.offline = true
    this.pump()
  }

  /** The network is back: what waited for it starts again, and what failed for want of it is forgotten. */
  networkReturned(): void {
    this.offline = false
    for (const request of this.live) {
      if (!request.parked) continue
      request.parked = false
      for (const claim of request.claims) {
        if (claim.state !== 'failed') continue
        claim.state = 'open'
        this.parts.owner.waiting(claim)
      }
    }
    this.pump()
  }

  /** The visit ends: what running transfers have received so far. */
  noteOpen(): void {
    const { log, world } = this.parts
    for (const { transfer } of this.live)
      if (transfer >= 0) log.write(K.progress, this.now, transfer, world.network.received(transfer))
  }

  /** Memory pressure: gives back what no cell holds. */
  relieve(): void {
    this.parts.log.write(K.relief, this.now)
    this.memory.clear()
  }

  private get now(): Us {
    return this.parts.world.clock.now()
  }

  private rank(request: Request): Rank {
    return rankOf(request, this.now, this.view, this.parts.policy)
  }

  private attach(claim: Claim, refused: FailReason | null): void {
    const shared = this.parts.policy.share ? this.byAsset.get(claim.asset) : undefined
    const request = shared && !ended(shared) ? shared : this.newRequest(claim.asset)
    claim.request = request
    request.claims.push(claim)
    this.parts.log.write(K.join, this.now, claim.id, request.id)
    this.noteClass(request, this.now)
    const reason = refused ?? this.refusal(request)
    if (shared === request) {
      if (request.state === 'decoding') this.wantDecode(request, claim.rendition)
      if (request.parked) {
        claim.state = 'failed'
        this.parts.owner.failed(claim, 'offline')
      }
    } else if (reason !== null) this.fail(request, reason, 0, -1)
    else if (isLocal(this.parts.table.hrefs[request.asset]!)) this.readLocal(request)
    else this.tryDisk(request)
  }

  private newRequest(asset: number): Request {
    const { log, table } = this.parts
    const request: Request = {
      id: this.requests++, asset, host: table.assets[asset]!.host, claims: [], state: 'queued', transfer: -1,
      attempt: 0, queuedAt: this.now, notBefore: 0, parked: false, etag: null, fromDisk: false, local: false, total: null,
      status: 0, headers: {}, lastByteAt: 0, decodes: 0, class: -1, retryAfterUs: 0,
    }
    this.live.add(request)
    this.byAsset.set(asset, request)
    log.write(K.queue, this.now, request.id, asset)
    return request
  }

  private refusal(request: Request): FailReason | null {
    const { policy, table, granted } = this.parts
    const address = table.hrefs[request.asset]!
    const clear = /^http:/i.test(address) && !policy.cleartextHosts.some((host) => hostMatches(host, request.host))
    if (clear) return 'cleartext'
    return granted.network || isLocal(address) ? null : 'not-granted'
  }

  private tryDisk(request: Request): void {
    const hit = this.diskTier.look(request.asset)
    if (!hit) return
    if (hit.fresh) this.readDisk(request, hit.bytes)
    else request.etag = hit.etag
  }

  private readDisk(request: Request, bytes: number): void {
    request.state = 'disk'
    request.fromDisk = true
    this.parts.log.write(K.diskAsk, this.now, request.id)
    const { disk } = this.parts.world
    disk.read(request.asset, request.id, bytes, (ok) => {
      if (ended(request)) return
      if (ok) {
        this.parts.log.write(K.diskRead, this.now, request.asset, bytes, request.id)
        this.beginDecoding(request)
      } else {
        this.diskTier.drop(request.asset)
        this.parts.log.write(K.diskEvict, this.now, request.asset, bytes)
        this.parts.log.write(K.diskMiss, this.now, request.id)
        request.fromDisk = false
        request.etag = null
        request.state = 'queued'
        this.pump()
      }
    })
  }

  private readLocal(request: Request): void {
    const { world, log, table } = this.parts
    request.state = 'disk'
    request.local = true
    log.write(K.diskAsk, this.now, request.id)
    world.disk.local(request.asset, request.id, table.hints[request.asset]!.bytes ?? 0, (ok) => {
      if (ended(request)) return
      if (ok) this.beginDecoding(request)
      else this.fail(request, 'bad-address', 0, -1)
    })
  }

  private nextToStart(): Request | null {
    const { policy } = this.parts
    const now = this.now
    let best: Request | null = null
    let bestRank: Rank | null = null
    let screenWaits: boolean | null = null
    for (const request of this.live) {
      if (request.state !== 'queued' || request.parked || request.notBefore > now) continue
      if ((this.perHost.get(request.host) ?? 0) >= policy.fetchSlotsPerHost) continue
      if (policy.ahead.onlyWhenIdle && onlyAhead(request)) {
        screenWaits ??= this.screenWaits(now)
        if (screenWaits) continue
      }
      const rank = this.rank(request)
      if (bestRank === null || isBefore(rank, bestRank)) {
        best = request
        bestRank = rank
      }
    }
    return best
  }

  private screenWaits(now: Us): boolean {
    for (const request of this.live)
      if (request.state !== 'decoding' && !request.parked && request.notBefore <= now && classOf(request, now) === 0) return true
    return false
  }

  private start(request: Request): void {
    const { world, log, table } = this.parts
    const transfer = this.transfers++
    request.transfer = transfer
    request.state = 'connecting'
    request.lastByteAt = this.now
    this.byTransfer.set(transfer, request)
    this.active++
    this.perHost.set(request.host, (this.perHost.get(request.host) ?? 0) + 1)
    log.write(K.start, this.now, request.id, transfer, request.attempt, request.etag === null ? 0 : 1)
    this.watch(request, transfer)
    const { asset, host, etag } = request
    world.network.start({ transfer, request: request.id, asset, address: table.hrefs[asset]!, host, hints: table.hints[asset]!, etag })
  }

  /** A transfer that brings no byte for the time-out fails. */
  private watch(request: Request, transfer: number): void {
    const limit = this.parts.policy.timeoutMs * 1000
    const { clock, network } = this.parts.world
    let seen = 0
    const look = () => {
      if (request.transfer !== transfer) return
      const bytes = network.received(transfer)
      if (bytes > seen) {
        seen = bytes
        request.lastByteAt = clock.now()
      }
      if (clock.now() - request.lastByteAt >= limit) {
        this.cutOff(transfer, (bytes) => this.transferFailed(transfer, bytes, 'timeout'))
      } else clock.at(clock.now() + limit, look)
    }
    clock.at(this.now + limit, look)
  }

  private connected(transfer: number): void {
    const request = this.byTransfer.get(transfer)!
    request.state = 'sent'
    this.parts.log.write(K.connected, this.now, transfer)
  }

  private firstByte(transfer: number, head: ReplyHead): void {
    const request = this.byTransfer.get(transfer)!
    const { log } = this.parts
    request.state = 'receiving'
    request.lastByteAt = this.now
    request.total = head.total
    request.status = head.status
    request.headers = head.headers
    const wait = Number(head.headers['retry-after'])
    request.retryAfterUs = wait > 0 ? wait * 1e6 : 0
    log.write(K.firstByte, this.now, transfer, head.status, head.total ?? -1)
    if (head.status < 200 || head.status >= 300) return
    const refused = !head.type.startsWith('image/') ? 'not-a-picture' : (head.total ?? 0) > maxAssetBytes ? 'too-large' : null
    if (refused) {
      this.cutOff(transfer, (bytes) => this.transferFailed(transfer, bytes, refused))
    } else for (const claim of request.claims) if (claim.state === 'open') this.parts.owner.arriving(claim, 0, head.total)
  }

  private progress(transfer: number, bytes: number): void {
    const request = this.byTransfer.get(transfer)!
    request.lastByteAt = this.now
    this.parts.log.write(K.progress, this.now, transfer, bytes)
    for (const claim of request.claims) if (claim.state === 'open') this.parts.owner.arriving(claim, bytes, request.total)
  }

  private done(transfer: number, bytes: number): void {
    const request = this.byTransfer.get(transfer)!
    const { status } = request
    if (status === 304) {
      this.endTransfer(request)
      this.parts.log.write(K.received, this.now, transfer, bytes)
      this.diskTier.renew(request.asset, request.headers)
      const hit = this.diskTier.look(request.asset)
      this.readDisk(request, hit?.bytes ?? 0)
      this.pump()
      return
    }
    if (status < 200 || status >= 300) {
      this.transferFailed(transfer, bytes, status === 401 ? 'unauthorized' : 'status')
      return
    }
    this.endTransfer(request)
    this.parts.log.write(K.received, this.now, transfer, bytes)
    this.parts.world.heap.churn(bytes)
    this.parts.table.assets[request.asset]!.bytes = bytes
    this.writeDisk(request, bytes)
    this.beginDecoding(request)
    this.pump()
  }

  private writeDisk(request: Request, bytes: number): void {
    const { table, world, log, epochMs } = this.parts
    const identity = table.assets[request.asset]!.address
    if (!this.diskTier.storable(identity, request.status, request.headers)) return
    const { headers } = request
    if (bytes > this.diskTier.budget) return
    this.diskTier.put(request.asset, { identity, host: request.host, bytes, etag: headers.etag ?? null, writtenMs: epochMs + this.now / 1000, headers })
    log.write(K.diskWrite, this.now, request.asset, bytes)
    world.disk.write(request.asset, request.id, bytes)
  }

  private transferFailed(transfer: number, bytes: number, reason: FailReason): void {
    const request = this.byTransfer.get(transfer)
    if (!request) return
    this.endTransfer(request)
    if (reason === 'offline') {
      this.parts.log.write(K.fail, this.now, transfer, -1, bytes, this.parts.log.text('offline'), 0)
      this.park(request)
    } else if (this.mayRetry(request, reason)) this.retry(request, transfer, bytes, reason)
    else this.fail(request, reason, bytes, transfer)
    this.pump()
  }

  private park(request: Request): void {
    const { log, owner } = this.parts
    log.write(K.park, this.now, request.id)
    request.state = 'queued'
    request.queuedAt = this.now
    request.parked = true
    for (const claim of request.claims) {
      if (claim.state !== 'open') continue
      claim.state = 'failed'
      owner.failed(claim, 'offline')
    }
  }

  private mayRetry(request: Request, reason: FailReason): boolean {
    const wanted = request.claims.some((each) => each.state === 'open')
    return wanted && canRetry(reason, request.status) && request.attempt < this.parts.policy.retry.attempts
  }

  private retry(request: Request, transfer: number, bytes: number, reason: FailReason): void {
    const { log, policy, world, seed } = this.parts
    const { firstMs, factor, jitter } = policy.retry
    log.write(K.fail, this.now, transfer, -1, bytes, log.text(reason), request.status)
    let wait = firstMs * 1000
    for (let n = 0; n < request.attempt; n++) wait *= factor
    wait *= 1 + (2 * draw(seed, 'retry', this.retries++) - 1) * jitter
    request.attempt++
    request.state = 'queued'
    request.queuedAt = this.now
    request.notBefore = this.now + Math.round(Math.max(request.retryAfterUs, wait))
    log.write(K.retry, this.now, request.id, 0, 0, 0, request.notBefore)
    world.clock.at(request.notBefore, () => this.pump())
  }

  /** The end of a request for good. `transfer` −1: it failed without one; bytes: those not told of before. */
  private fail(request: Request, reason: FailReason, bytes: number, transfer: number): void {
    const { log, owner, world } = this.parts
    log.write(K.fail, this.now, transfer, request.id, bytes, log.text(reason), request.status)
    this.decodes.drop(request, null)
    this.end(request, 'failed')
    this.failures.set(request.asset, reason)
    world.decoder.dropBody(request.id)
    for (const claim of request.claims) {
      if (claim.state !== 'open' && claim.state !== 'failed') continue
      claim.state = 'failed'
      owner.failed(claim, reason)
    }
  }

  private beginDecoding(request: Request): void {
    request.state = 'decoding'
    const wanted = new Set(request.claims.map((claim) => claim.rendition))
    if (wanted.size === 0) this.finish(request)
    for (const rendition of wanted) this.wantDecode(request, rendition)
  }

  private readonly wanted = new Map<Request, Set<number>>()

  private wantDecode(request: Request, rendition: number): void {
    let known = this.wanted.get(request)
    if (!known) this.wanted.set(request, (known = new Set()))
    if (known.has(rendition)) return
    known.add(rendition)
    request.decodes++
    this.decodes.add(request, rendition)
  }

  private decoded(request: Request, rendition: number, result: DecodeResult): void {
    if (ended(request)) {
      if (result.ok) this.keepUnwanted(rendition, result)
      return
    }
    if (!result.ok) {
      this.fail(request, result.reason, 0, this.lastTransfer.get(request) ?? -1)
      return
    }
    this.wanted.get(request)?.delete(rendition)
    const waiting = request.claims.filter((claim) => claim.rendition === rendition && claim.state !== 'delivered')
    this.describe(rendition, result)
    if (!waiting.some((claim) => claim.state === 'open')) this.memory.keep(rendition, pictureBytes(result))
    for (const claim of waiting) this.deliver(claim, request.local ? 'local' : request.fromDisk ? 'disk' : 'network')
    if (--request.decodes === 0) this.finish(request)
  }

  private keepUnwanted(rendition: number, result: Extract<DecodeResult, { ok: true }>): void {
    this.describe(rendition, result)
    this.memory.keep(rendition, pictureBytes(result))
  }

  private describe(rendition: number, result: Extract<DecodeResult, { ok: true }>): void {
    const row = this.parts.table.renditions[rendition]!
    row.width = result.width
    row.height = result.height
    const asset = this.parts.table.assets[row.asset]!
    asset.sourceWidth = result.sourceWidth
    asset.sourceHeight = result.sourceHeight
  }

  private deliver(claim: Claim, tier: Tier): void {
    const { log, owner, table } = this.parts
    const stale = claim.state === 'released'
    if (!stale) {
      claim.state = 'delivered'
      const bytes = pictureBytes(table.renditions[claim.rendition]!)
      if (claim.cell >= 0) this.memory.hold(claim.rendition, bytes)
      else this.memory.keep(claim.rendition, bytes)
    }
    log.write(K.deliver, this.now, claim.id, log.text(tier), claim.rendition)
    owner.delivered(claim, tier)
  }

  private finish(request: Request): void {
    this.parts.log.write(K.ready, this.now, request.id)
    this.parts.world.decoder.dropBody(request.id)
    this.end(request, 'ready')
  }

  /** No claim is left: by policy let go now, or finish. */
  private letGo(request: Request, why: string): void {
    const { cancel } = this.parts.policy
    if (request.state === 'decoding') {
      request.decodes -= this.decodes.drop(request, null)
      if (request.decodes === 0) this.finish(request)
      return
    }
    if (this.suspension === 'carry-on') return
    if (this.suspension === 'finish-running' && request.state !== 'queued') return
    if (cancel.when === 'never' && this.suspension === null) return
    if (running(request) && request.total !== null && request.total > 0) {
      const share = this.parts.world.network.received(request.transfer) / request.total
      if (share >= cancel.keepAbove) return
    } else if (running(request) && cancel.keepAbove === 0) return
    this.cancel(request, why)
  }

  private cancel(request: Request, why: string): void {
    const { world, log } = this.parts
    const { transfer } = request
    const note = (bytes: number, inFlight: number) => {
      world.heap.churn(bytes)
      log.write(K.cancel, this.now, transfer, request.id, bytes, inFlight, log.text(why))
    }
    if (transfer >= 0) {
      log.write(K.cut, this.now, transfer, request.id)
      this.endTransfer(request)
      this.cutOff(transfer, note)
    } else note(0, 0)
    this.decodes.drop(request, null)
    world.decoder.dropBody(request.id)
    this.end(request, 'cancelled')
    for (const claim of request.claims) if (claim.state === 'open') this.parts.owner.waiting(claim)
  }

  /** Cuts a transfer off; until it is known what had come, the visit does not end. */
  private cutOff(transfer: number, told: (bytes: number, inFlight: number) => void): void {
    this.cutting++
    this.parts.world.network.abort(transfer, (bytes, inFlight) => {
      this.cutting--
      told(bytes, inFlight)
    })
  }

  private readonly lastTransfer = new Map<Request, number>()

  private endTransfer(request: Request): void {
    this.lastTransfer.set(request, request.transfer)
    this.byTransfer.delete(request.transfer)
    request.transfer = -1
    this.active--
    this.perHost.set(request.host, this.perHost.get(request.host)! - 1)
  }

  private end(request: Request, state: 'ready' | 'cancelled' | 'failed'): void {
    if (ended(request)) throw new Error(`request ${request.id} ends twice`)
    request.state = state
    this.live.delete(request)
    this.wanted.delete(request)
    this.lastTransfer.delete(request)
    if (this.byAsset.get(request.asset) === request) this.byAsset.delete(request.asset)
  }

  private noteClass(request: Request, now: Us): void {
    const rank = classOf(request, now)
    if (rank === request.class) return
    request.class = rank
    this.parts.log.write(K.rank, now, request.id, rank)
  }
}

/** Carried by the app itself. */
const isLocal = (address: string) => /^(data|packaged):/i.test(address)

const onlyAhead = (request: Request) =>
  request.claims.length > 0 && request.claims.every((claim) => (claim.cell < 0 && claim.slot >= 0) || claim.state === 'released')
