import { draw } from '../numbers/draw.ts'
import type { FailReason, ReplyHead } from '../worlds/ports.ts'
import type { Decoding } from './decoding.ts'
import type { DiskReads } from './disk-reads.ts'
import type { LoaderActions, LoaderState } from './loader-state.ts'
import type { Renewals } from './renewals.ts'
import { maxAssetBytes } from './rendition.ts'
import { canRetry, noHeaders, type Request } from './request.ts'

/** Takes over when a body is complete. */
interface Collaborators {
  decoding: Decoding
  reads: DiskReads
  renewals: Renewals
}

/**
 * Transfers from their start to their end: time-outs, wrong answers, retries, and the wait for a network that is gone.
 */
export class Transfers {
  private readonly byTransfer = new Map<number, Request>()
  private readonly state: LoaderState
  private readonly actions: LoaderActions
  private readonly with: Collaborators
  private transferCount = 0
  private retries = 0
  /** Transfers that were cut and still count as running until that is confirmed. */
  private readonly beingCut = new Set<number>()
  /** Whether a timer is set that looks for stalled ones. */
  private looks = false

  constructor(state: LoaderState, actions: LoaderActions, collaborators: Collaborators) {
    this.state = state
    this.actions = actions
    this.with = collaborators
    state.parts.world.network.listen({
      connected: (transfer) => this.connected(transfer),
      firstByte: (transfer, head) => this.firstByte(transfer, head),
      progress: (transfer, bytes) => this.progress(transfer, bytes),
      done: (transfer, bytes) => this.done(transfer, bytes),
      failed: (transfer, bytes, reason) => this.transferFailed(transfer, bytes, reason),
    })
  }

  start(request: Request): void {
    const { world, log, table } = this.state.parts
    const transfer = this.transferCount++
    // Reported before anything changes: step mode, which stops here, shows the state before it.
    log.events.start(this.state.now, {
      request: request.id,
      transfer,
      attempt: request.attempt,
      conditional: request.etag !== null,
    })
    request.transfer = transfer
    request.state = 'connecting'
    request.lastByteAt = this.state.now
    // The answer to the former try is not one to this try.
    request.total = null
    request.status = 0
    request.headers = noHeaders
    request.retryAfterUs = 0
    request.credential = this.with.renewals.current(request.host)
    this.byTransfer.set(transfer, request)
    this.state.active++
    request.hostLoad.running++
    if (!this.looks) {
      this.looks = true
      world.clock.at(this.state.now + this.state.parts.policy.timeoutMs * 1000, this.look)
    }
    const { asset, host, etag } = request
    world.network.start({
      transfer,
      request: request.id,
      asset,
      address: table.hrefs[asset]!,
      host,
      hints: table.hints[asset]!,
      etag,
    })
  }

  /**
   * A transfer that brings no byte for the time-out fails: counted from its last byte, whenever it is checked. One
   * timer for all that are running, set for the first that may be due: most transfers are long over by then, and what
   * timers of their own would hold on to is not.
   */
  private readonly look = (): void => {
    const limit = this.state.parts.policy.timeoutMs * 1000
    const { clock, network } = this.state.parts.world
    let next = Infinity
    for (const [transfer, request] of this.byTransfer) {
      if (this.beingCut.has(transfer)) continue
      request.lastByteAt = Math.max(request.lastByteAt, network.lastByteAt(transfer))
      if (clock.now() - request.lastByteAt >= limit)
        this.cutOff(transfer, (bytes) => this.transferFailed(transfer, bytes, 'timeout'))
      else next = Math.min(next, request.lastByteAt + limit)
    }
    this.looks = next < Infinity
    if (this.looks) clock.at(next, this.look)
  }

  private connected(transfer: number): void {
    const request = this.byTransfer.get(transfer)!
    request.state = 'sent'
    this.state.parts.log.events.connected(this.state.now, { transfer })
  }

  private firstByte(transfer: number, head: ReplyHead): void {
    const request = this.byTransfer.get(transfer)!
    const { log } = this.state.parts
    request.state = 'receiving'
    request.lastByteAt = this.state.now
    request.total = head.total
    request.status = head.status
    request.headers = head.headers
    const wait = Number(head.headers['retry-after'])
    request.retryAfterUs = wait > 0 ? wait * 1e6 : 0
    log.events.firstByte(this.state.now, { transfer, status: head.status, total: head.total })
    if (head.status < 200 || head.status >= 300) return
    const refused = refusalOf(head)
    if (refused) {
      this.cutOff(transfer, (bytes) => this.transferFailed(transfer, bytes, refused))
    } else
      for (const claim of request.claims)
        if (claim.state === 'open') this.state.parts.owner.arriving(claim, 0, head.total)
  }

  private progress(transfer: number, bytes: number): void {
    const request = this.byTransfer.get(transfer)!
    request.lastByteAt = this.state.now
    this.state.parts.log.events.progress(this.state.now, { transfer, bytes })
    for (const claim of request.claims)
      if (claim.state === 'open') this.state.parts.owner.arriving(claim, bytes, request.total)
  }

  private done(transfer: number, bytes: number): void {
    const request = this.byTransfer.get(transfer)!
    const { status } = request
    if (status === 304) {
      this.state.parts.log.events.received(this.state.now, { transfer, bytes })
      this.endTransfer(request)
      this.state.diskTier.renew(request.asset, request.headers)
      this.state.parts.world.disk.renew(request.asset)
      if (request.behind) {
        this.with.decoding.finish(request)
        this.actions.pump()
        return
      }
      const hit = this.state.diskTier.look(request.asset)
      this.with.reads.readDisk(request, hit?.bytes ?? 0)
      this.actions.pump()
      return
    }
    if (status < 200 || status >= 300) {
      this.transferFailed(transfer, bytes, status === 401 ? 'unauthorized' : 'status')
      return
    }
    this.state.parts.log.events.received(this.state.now, { transfer, bytes })
    this.endTransfer(request)
    this.state.parts.world.heap.churn(bytes)
    this.state.parts.table.assets[request.asset]!.bytes = bytes
    this.with.reads.writeDisk(request, bytes)
    this.with.decoding.beginDecoding(request)
    this.actions.pump()
  }

  private transferFailed(transfer: number, bytes: number, reason: FailReason): void {
    const request = this.byTransfer.get(transfer)
    if (!request) return
    this.endTransfer(request)
    if (reason === 'offline') {
      this.state.parts.log.events.fail(this.state.now, { transfer, request: null, bytes, reason: 'offline', status: 0 })
      this.park(request)
    } else if (
      reason === 'unauthorized' &&
      request.claims.some((each) => each.state === 'open') &&
      this.with.renewals.refused(request)
    )
      this.askAgain(request, transfer, bytes)
    else if (this.mayRetry(request, reason)) this.retry(request, transfer, bytes, reason)
    else this.actions.fail(request, reason, bytes, transfer)
    this.actions.pump()
  }

  park(request: Request): void {
    const { log, owner } = this.state.parts
    log.events.park(this.state.now, { request: request.id })
    request.state = 'queued'
    request.queuedAt = this.state.now
    request.parked = true
    for (const claim of request.claims) {
      if (claim.state !== 'open') continue
      claim.state = 'failed'
      owner.failed(claim, 'offline')
    }
  }

  private mayRetry(request: Request, reason: FailReason): boolean {
    const wanted = request.claims.some((each) => each.state === 'open')
    return wanted && canRetry(reason, request.status) && request.attempt < this.state.parts.policy.retry.attempts
  }

  /** Refused for its credentials: queued again, until there are new ones. */
  private askAgain(request: Request, transfer: number, bytes: number): void {
    const { log } = this.state.parts
    log.events.fail(this.state.now, { transfer, request: null, bytes, reason: 'unauthorized', status: request.status })
    log.events.refused(this.state.now, { request: request.id })
    request.state = 'queued'
    request.queuedAt = this.state.now
  }

  private retry(request: Request, transfer: number, bytes: number, reason: FailReason): void {
    const { log, policy, world, seed } = this.state.parts
    const { firstMs, factor, jitter } = policy.retry
    log.events.fail(this.state.now, { transfer, request: null, bytes, reason, status: request.status })
    let wait = firstMs * 1000
    for (let n = 0; n < request.attempt; n++) wait *= factor
    wait *= 1 + (2 * draw(seed, 'retry', this.retries++) - 1) * jitter
    request.attempt++
    request.state = 'queued'
    request.queuedAt = this.state.now
    request.notBefore = this.state.now + Math.round(Math.max(request.retryAfterUs, wait))
    log.events.retry(this.state.now, { request: request.id, at: request.notBefore })
    world.clock.at(request.notBefore, () => this.actions.pump())
  }

  /** Cuts a transfer off; until it is known how much had arrived, the visit does not end. */
  cutOff(transfer: number, onCut: (bytes: number, inFlight: number) => void): void {
    this.state.cutting++
    this.beingCut.add(transfer)
    this.state.parts.world.network.abort(transfer, (bytes, inFlight) => {
      this.state.cutting--
      this.beingCut.delete(transfer)
      onCut(bytes, inFlight)
    })
  }

  endTransfer(request: Request): void {
    const { transfer } = request
    if (transfer === null) throw new Error(`request ${request.id} has no transfer that could end`)
    request.lastTransfer = transfer
    this.byTransfer.delete(transfer)
    request.transfer = null
    this.state.active--
    request.hostLoad.running--
  }
}

/** Why a reply is not read on, judging by its head. */
function refusalOf({ type, total }: ReplyHead): FailReason | null {
  if (!type.startsWith('image/')) return 'not-a-picture'
  return (total ?? 0) > maxAssetBytes ? 'too-large' : null
}
