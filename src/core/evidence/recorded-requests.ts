import type { RunLog } from '../log/run-log.ts'
import type { Exchange } from './evidence.ts'
import { hostOf } from './plain-address.ts'

/** One address while a run is assembled. */
export interface Asset {
  id: number
  rendition: number
  address: string
  /** The request that is under way. */
  open: OpenRequest | null
  last: number | null
  /** Claims on it, delivered ones too, until they are released. */
  claims: Set<number>
  class: number
  /** Classes are reported by the app itself. */
  priority: boolean
  /** Whether its exchanges come from the network's side; then the app's byte counts are not added. */
  onNetwork: boolean
  complete: boolean
}

/** A request that has begun; it ends once. */
export interface OpenRequest {
  id: number
  /** The transfer that is running for it. */
  transfer: number | null
  attempts: number
  ended: boolean
}

/** A transfer and the request that it is for. */
export interface Running {
  transfer: number
  request: OpenRequest
}

/** The class of a request that nothing on screen waits for, as far as is known. */
export const laterClass = 2

/** The requests of a recorded run, made from what the network and the app report of each address. */
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
    return asset.open ?? this.open(t, asset)
  }

  join(t: number, claim: number, asset: Asset): void {
    if (!asset.open || this.joined.has(claim)) return
    this.joined.add(claim)
    this.log.events.join(t, { claim, request: asset.open.id })
  }

  /** Joins a claim to the request that has brought its picture. */
  joinLast(t: number, claim: number, asset: Asset): void {
    if (asset.last === null || this.joined.has(claim)) return
    this.joined.add(claim)
    this.log.events.join(t, { claim, request: asset.last })
  }

  rank(t: number, asset: Asset, rank: number): void {
    if (asset.class === rank) return
    asset.class = rank
    if (asset.open) this.log.events.rank(t, { request: asset.open.id, class: rank })
  }

  /** A transfer starts: for the request that waits, or, where one is running already, for another of its own. */
  start(t: number, asset: Asset, conditional: boolean): Running {
    const waiting = this.want(t, asset)
    const request = waiting.transfer === null ? waiting : this.open(t, asset)
    const transfer = this.transfers++
    request.transfer = transfer
    this.log.events.start(t, { request: request.id, transfer, attempt: ++request.attempts, conditional })
    return { transfer, request }
  }

  connected(t: number, { transfer }: Running): void {
    this.log.events.connected(t, { transfer })
  }

  firstByte(t: number, { transfer }: Running, status: number): void {
    this.log.events.firstByte(t, { transfer, status, total: null })
  }

  /** It was still open when the source ended, with so many bytes. */
  progress(t: number, { transfer }: Running, bytes: number): void {
    this.log.events.progress(t, { transfer, bytes })
  }

  received(t: number, asset: Asset, { transfer, request }: Running, bytes: number): void {
    this.log.events.received(t, { transfer, bytes })
    if (bytes > 0) this.log.assets[asset.id]!.bytes = bytes
    this.ready(t, asset, request)
  }

  /** `transfer` null: none had begun. */
  cancel(t: number, asset: Asset, request: OpenRequest, bytes: number): void {
    if (request.ended) return
    this.log.events.cancel(t, {
      transfer: request.transfer,
      request: request.id,
      bytes,
      inFlight: 0,
      why: 'recorded',
    })
    this.end(asset, request)
  }

  /** `retried`: the request continues with another try. */
  fail(
    t: number,
    asset: Asset,
    request: OpenRequest,
    { reason, status, bytes }: Pick<Exchange, 'reason' | 'status'> & { bytes: number },
    retried: boolean,
  ): void {
    if (request.ended) return
    const { transfer } = request
    if (retried && transfer !== null) {
      this.log.events.fail(t, { transfer, request: null, bytes, reason, status })
      this.log.events.retry(t, { request: request.id, at: t })
      request.transfer = null
      asset.open ??= request
      return
    }
    this.log.events.fail(t, { transfer, request: request.id, bytes, reason, status })
    this.end(asset, request)
  }

  fromDisk(t: number, asset: Asset): void {
    const request = this.want(t, asset)
    if (request.transfer !== null) return
    this.log.events.diskRead(t, { asset: asset.id, bytes: this.log.assets[asset.id]!.bytes, request: request.id })
    this.ready(t, asset, request)
  }

  private ready(t: number, asset: Asset, request: OpenRequest): void {
    if (request.ended) return
    this.log.events.ready(t, { request: request.id })
    asset.complete = true
    this.end(asset, request)
  }

  private end(asset: Asset, request: OpenRequest): void {
    request.ended = true
    if (asset.open === request) asset.open = null
  }

  private open(t: number, asset: Asset): OpenRequest {
    const id = this.requests++
    asset.open = { id, transfer: null, attempts: 0, ended: false }
    asset.last = id
    this.log.events.queue(t, { request: id, asset: asset.id })
    for (const claim of asset.claims) this.join(t, claim, asset)
    if (asset.class < 3) this.log.events.rank(t, { request: id, class: asset.class })
    return asset.open
  }
}
