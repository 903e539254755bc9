import type { LoaderState } from './loader-state.ts'
import { ended, noHeaders, type Request } from './request.ts'

/** Requests from their first line in the log to their end, which each has exactly once. */
export class OpenRequests {
  private readonly state: LoaderState
  /** Assets that are revalidated behind a stale copy. */
  private readonly revalidating = new Set<number>()
  private count = 0

  constructor(state: LoaderState) {
    this.state = state
  }

  /** `behind`: it revalidates a stale copy; no claim joins it. */
  open(asset: number, behind = false): Request {
    const { log, table } = this.state.parts
    const { host } = table.assets[asset]!
    const request: Request = {
      id: this.count++,
      asset,
      host,
      hostLoad: this.state.loadOf(host),
      claims: [],
      state: 'queued',
      transfer: null,
      lastTransfer: null,
      attempt: 0,
      queuedAt: this.state.now,
      notBefore: 0,
      parked: false,
      etag: null,
      fromDisk: false,
      local: false,
      total: null,
      status: 0,
      headers: noHeaders,
      lastByteAt: 0,
      decodes: 0,
      wanted: [],
      class: null,
      retryAfterUs: 0,
      credential: 0,
      renewals: 0,
      awaitsRenewal: false,
      behind,
    }
    this.state.live.add(request)
    if (!behind) this.state.byAsset.set(asset, request)
    log.events.queue(this.state.now, { request: request.id, asset })
    return request
  }

  /** Revalidates a stale copy; once at a time for an asset. */
  revalidate(asset: number, etag: string | null): void {
    if (this.revalidating.has(asset)) return
    this.revalidating.add(asset)
    const request = this.open(asset, true)
    request.etag = etag
    this.state.noteClass(request, this.state.now)
  }

  end(request: Request, state: 'ready' | 'cancelled' | 'failed'): void {
    if (ended(request)) throw new Error(`request ${request.id} ends twice`)
    request.state = state
    this.state.live.delete(request)
    if (request.behind) this.revalidating.delete(request.asset)
    if (this.state.byAsset.get(request.asset) === request) this.state.byAsset.delete(request.asset)
  }
}
