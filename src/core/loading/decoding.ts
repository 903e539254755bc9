import type { DecodeResult } from '../worlds/ports.ts'
import { DecodeQueue } from './decode-queue.ts'
import type { LoaderActions, LoaderState } from './loader-state.ts'
import { pictureBytes } from './rendition.ts'
import { ended, isOfCell, type Claim, type Request, type Tier } from './request.ts'

/**
 * From bytes to pictures: each rendition that is wanted is decoded once and delivered to the claims that are not
 * released.
 */
export class Decoding {
  readonly decodes: DecodeQueue
  private readonly state: LoaderState
  private readonly actions: LoaderActions

  constructor(state: LoaderState, actions: LoaderActions) {
    this.state = state
    this.actions = actions
    const { world, log, policy, owner } = state.parts
    this.decodes = new DecodeQueue({
      decoder: world.decoder,
      clock: world.clock,
      log,
      workers: policy.decodeWorkers,
      onMain: policy.decodeOn === 'main',
      rank: (request) => state.rank(request),
      ended: (job, result) => this.decoded(job.request, job.rendition, result),
      needFrame: () => owner.needFrame(),
    })
  }

  beginDecoding(request: Request): void {
    request.state = 'decoding'
    const { claims } = request
    if (claims.length === 0) this.finish(request)
    for (const { rendition } of claims) this.wantDecode(request, rendition)
  }

  wantDecode(request: Request, rendition: number): void {
    if (request.wanted.includes(rendition)) return
    request.wanted = [...request.wanted, rendition]
    request.decodes++
    this.decodes.add(request, rendition)
  }

  private decoded(request: Request, rendition: number, result: DecodeResult): void {
    if (ended(request)) {
      if (result.ok) this.keepUnwanted(rendition, result)
      return
    }
    if (!result.ok) {
      this.actions.fail(request, result.reason, 0, request.lastTransfer)
      return
    }
    request.wanted = request.wanted.filter((each) => each !== rendition)
    const waiting = request.claims.filter((claim) => claim.rendition === rendition && claim.state !== 'delivered')
    this.describe(rendition, result)
    if (!waiting.some((claim) => claim.state === 'open')) this.state.memory.keep(rendition, pictureBytes(result))
    for (const claim of waiting) this.deliver(claim, originOf(request))
    // Without the guard a released claim gets its picture all the same, but once.
    if (request.claims.some((claim) => claim.state === 'released'))
      request.claims = request.claims.filter((claim) => !(claim.state === 'released' && claim.rendition === rendition))
    if (--request.decodes === 0) this.finish(request)
  }

  private keepUnwanted(rendition: number, result: Extract<DecodeResult, { ok: true }>): void {
    this.describe(rendition, result)
    this.state.memory.keep(rendition, pictureBytes(result))
  }

  private describe(rendition: number, result: Extract<DecodeResult, { ok: true }>): void {
    const row = this.state.parts.table.renditions[rendition]!
    row.width = result.width
    row.height = result.height
    if (result.frames !== undefined && result.frames > 1)
      Object.assign(row, { frames: result.frames, frameMs: result.frameMs ?? 100 })
    const asset = this.state.parts.table.assets[row.asset]!
    asset.sourceWidth = result.sourceWidth
    asset.sourceHeight = result.sourceHeight
  }

  deliver(claim: Claim, tier: Tier): void {
    const { log, owner, table } = this.state.parts
    const stale = claim.state === 'released'
    if (!stale) {
      claim.state = 'delivered'
      const bytes = pictureBytes(table.renditions[claim.rendition]!)
      if (isOfCell(claim)) this.state.memory.hold(claim.rendition, bytes)
      else this.state.memory.keep(claim.rendition, bytes)
    }
    log.events.deliver(this.state.now, { claim: claim.id, tier, rendition: claim.rendition })
    owner.delivered(claim, tier)
  }

  finish(request: Request): void {
    this.state.parts.log.events.ready(this.state.now, { request: request.id })
    this.state.parts.world.decoder.dropBody(request.id)
    this.actions.end(request, 'ready')
  }
}

/** Where a request's bytes were. */
function originOf(request: Request): Tier {
  if (request.local) return 'local'
  return request.fromDisk ? 'disk' : 'network'
}
