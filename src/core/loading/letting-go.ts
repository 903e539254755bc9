import type { Loading } from '../project/types.ts'
import type { Decoding } from './decoding.ts'
import type { LoaderState } from './loader-state.ts'
import type { OpenRequests } from './open-requests.ts'
import { ended, running, type Request } from './request.ts'
import type { Transfers } from './transfers.ts'

interface LettingGoParts {
  requests: OpenRequests
  decoding: Decoding
  transfers: Transfers
}

const isWanted = (request: Request) => request.claims.some((each) => each.state !== 'released')

/** Requests without claims: by policy they are cut off, or finish. */
export class LettingGo {
  private readonly state: LoaderState
  private readonly parts: LettingGoParts
  private going = new Set<Request>()

  constructor(state: LoaderState, parts: LettingGoParts) {
    this.state = state
    this.parts = parts
  }

  /** A claim of a request was released: whether the request goes is decided at the end of the frame's work. */
  note(request: Request): void {
    if (!isWanted(request)) this.going.add(request)
  }

  settle(): void {
    const { going } = this
    if (going.size === 0) return
    this.going = new Set()
    for (const request of going) if (!ended(request) && !isWanted(request)) this.letGo(request, 'recycle')
  }

  /** The app is paused, or the list's screen is left or closed: what happens to requests by the policy. */
  suspend(how: Loading['cancel']['whenPaused'], why: 'paused' | 'left' | 'closed'): void {
    this.state.suspension = { how, whole: why === 'paused' }
    for (const request of [...this.state.live])
      if (how === 'let-go' && !ended(request) && this.state.isSuspended(request)) this.cancel(request, why)
  }

  /** No claim is left: by policy let go now, or finish. */
  private letGo(request: Request, why: string): void {
    const { cancel } = this.state.parts.policy
    const { decoding } = this.parts
    if (request.state === 'decoding') {
      request.decodes -= decoding.decodes.drop(request, null)
      if (request.decodes === 0) decoding.finish(request)
      return
    }
    const suspended = this.state.isSuspended(request) ? this.state.suspension!.how : null
    if (suspended === 'carry-on') return
    if (suspended === 'finish-running' && request.state !== 'queued') return
    if (cancel.when === 'never' && suspended === null) return
    if (running(request) && request.total !== null && request.total > 0) {
      const share = this.state.parts.world.network.received(request.transfer) / request.total
      if (share >= cancel.keepAbove) return
    } else if (running(request) && cancel.keepAbove === 0) return
    this.cancel(request, why)
  }

  private cancel(request: Request, why: string): void {
    const { world, log, owner } = this.state.parts
    const { requests, decoding, transfers } = this.parts
    const { transfer } = request
    const note = (bytes: number, inFlight: number) => {
      world.heap.churn(bytes)
      log.events.cancel(this.state.now, { transfer, request: request.id, bytes, inFlight, why })
    }
    if (transfer !== null) {
      log.events.cut(this.state.now, { transfer, request: request.id })
      transfers.endTransfer(request)
      transfers.cutOff(transfer, note)
    } else note(0, 0)
    decoding.decodes.drop(request, null)
    world.decoder.dropBody(request.id)
    requests.end(request, 'cancelled')
    for (const claim of request.claims) if (claim.state === 'open') owner.waiting(claim)
  }
}
