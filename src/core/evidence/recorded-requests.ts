import type { RunLog } from '../log/run-log.ts'
import type { Exchange } from './evidence.ts'
import { hostOf } from './plain-address.ts'

/** One address while a run is put together. */
export interface Asset {
  id: number
  rendition: number
  address: string
  /** The request that is under way. */
  open: OpenRequest | null
  last: number | null
  /** Claims that want it, delivered ones too, until they are released. */
  claims: Set<number>
  class: number
  /** Classes are told by the app itself. */
  priority: boolean
  /** Whether its exchanges come from the network's side; then what the app says of bytes is not counted again. */
  onNetwork: boolean
  complete: boolean
}

interface OpenRequest {
  id: number
  transfer: number | null
  attempts: number
}

/** The class of a request that nobody on screen waits for, as far as is known. */
export const laterClass = 2

/** The requests of a recorded run: made of what the network and the app tell of each address. */
export class RecordedRequests {
  private readonly log: RunLog
  private readonly assets = new Map<string, Asset>()
  private readonly joined = new Set<number>()
  private requests = 0
  private transfers = 0

  constructor(log: RunLog) {
    this.log = log
  }

  of(address: string): Asset {
    let asset = this.assets.get(address)
    if (asset) return asset
    const { log } = this
    const id = log.assets.push({ address, host: hostOf(address), sourceWidth: 0, sourceHeight: 0, bytes: 0 }) - 1
    const rendition =
      log.renditions.push({ asset: id, targetWidth: 0, targetHeight: 0, fit: 'cover', width: 0, height: 0 }) - 1
    asset = {
      id,
      rendition,
      address,
      open: null,
      last: null,
      claims: new Set(),
      class: 3,
      priority: false,
      onNetwork: false,
      complete: false,
    }
    this.assets.set(address, asset)
    return asset
  }

  /** The request that is under way for an address, or a new one. */
  want(t: number, asset: Asset): OpenRequest {
    if (asset.open) return asset.open
    const id = this.requests++
    asset.open = { id, transfer: null, attempts: 0 }
    asset.last = id
    this.log.events.queue(t, { request: id, asset: asset.id })
    for (const claim of asset.claims) this.join(t, claim, asset)
    if (asset.class < 3) this.log.events.rank(t, { request: id, class: asset.class })
    return asset.open
  }

  join(t: number, claim: number, asset: Asset): void {
    if (!asset.open || this.joined.has(claim)) return
    this.joined.add(claim)
    this.log.events.join(t, { claim, request: asset.open.id })
  }

  rank(t: number, asset: Asset, rank: number): void {
    if (asset.class === rank) return
    asset.class = rank
    if (asset.open) this.log.events.rank(t, { request: asset.open.id, class: rank })
  }

  start(t: number, asset: Asset, conditional: boolean): number {
    const request = this.want(t, asset)
    const transfer = this.transfers++
    request.transfer = transfer
    this.log.events.start(t, { request: request.id, transfer, attempt: ++request.attempts, conditional })
    return transfer
  }

  connected(t: number, transfer: number): void {
    this.log.events.connected(t, { transfer })
  }

  firstByte(t: number, transfer: number, status: number): void {
    this.log.events.firstByte(t, { transfer, status, total: -1 })
  }

  received(t: number, asset: Asset, transfer: number, bytes: number): void {
    this.log.events.received(t, { transfer, bytes })
    if (bytes > 0) this.log.assets[asset.id]!.bytes = bytes
    this.ready(t, asset)
  }

  ready(t: number, asset: Asset): void {
    if (!asset.open) return
    this.log.events.ready(t, { request: asset.open.id })
    asset.complete = true
    asset.open = null
  }

  /** `transfer` null: none had begun. */
  cancel(t: number, asset: Asset, transfer: number | null, bytes: number): void {
    if (!asset.open) return
    this.log.events.cancel(t, { transfer: transfer ?? -1, request: asset.open.id, bytes, inFlight: 0, why: 'recorded' })
    asset.open = null
  }

  /** `retried`: the request goes on with another try. */
  fail(
    t: number,
    asset: Asset,
    transfer: number | null,
    end: Pick<Exchange, 'reason' | 'status'> & { bytes: number },
    retried: boolean,
  ): void {
    if (!asset.open) return
    const { reason, status, bytes } = end
    const request = asset.open.id
    if (retried && transfer !== null) {
      this.log.events.fail(t, { transfer, request: -1, bytes, reason, status })
      this.log.events.retry(t, { request, at: t })
      asset.open.transfer = null
      return
    }
    this.log.events.fail(t, { transfer: transfer ?? -1, request, bytes, reason, status })
    asset.open = null
  }

  fromDisk(t: number, asset: Asset): void {
    const request = this.want(t, asset)
    this.log.events.diskRead(t, { asset: asset.id, bytes: this.log.assets[asset.id]!.bytes, request: request.id })
    this.ready(t, asset)
  }
}
