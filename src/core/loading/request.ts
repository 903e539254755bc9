import type { ClaimScope } from '../log/claim-place.ts'
import type { FailReason, Us } from '../worlds/ports.ts'

export type Tier = 'memory' | 'disk' | 'network' | 'local'

/** An interest in one rendition: made at bind or by looking ahead, released at recycle. */
export interface Claim {
  readonly id: number
  readonly rendition: number
  readonly asset: number
  /** null: no cell's of the list, looking ahead or for another scope. */
  readonly cell: number | null
  /** null: of no slot of the list. */
  readonly slot: number | null
  /** The feed index of the item, null for none of the list’s; and the row it is in. */
  readonly index: number | null
  row: number
  readonly scope: ClaimScope
  /** Made long before it can be seen: it waits behind all else. */
  readonly later: boolean
  /** 0 high, 1 normal, 2 low. */
  readonly priority: number
  state: 'open' | 'delivered' | 'failed' | 'released'
  onScreen: boolean
  /** When it left the screen; null while it has not been there. */
  leftAt: Us | null
  held: boolean
  request: Request | null
}

/** A claim that a cell of the list made. */
export type CellClaim = Claim & { readonly cell: number; readonly slot: number }

export const isOfCell = (claim: Claim): claim is CellClaim => claim.cell !== null && claim.slot !== null

/** Exactly the states of engine.md; the last three are ends and are reached once. */
export type RequestState =
  'queued' | 'disk' | 'connecting' | 'sent' | 'receiving' | 'decoding' | 'ready' | 'cancelled' | 'failed'

/** Transfers that are running to a host. */
export interface HostLoad {
  running: number
}

/** The loader's one job to satisfy all claims on an asset. */
export interface Request {
  readonly id: number
  readonly asset: number
  readonly host: string
  readonly hostLoad: HostLoad
  /** Claims that are not released; with the guard off also released ones that still await their picture. */
  claims: Claim[]
  state: RequestState
  /** The transfer that is running, null between transfers. */
  transfer: number | null
  /** Its transfer before, null before the first has ended. */
  lastTransfer: number | null
  attempt: number
  queuedAt: Us
  /** Not started before this instant: a retry's back-off. */
  notBefore: Us
  /** The network is gone: waits until it returns. */
  parked: boolean
  etag: string | null
  fromDisk: boolean
  /** It is in the app's package, and is read without network. */
  local: boolean
  total: number | null
  status: number
  headers: Readonly<Record<string, string>>
  lastByteAt: Us
  /** Renditions still to be decoded or being decoded: how many, and which. */
  decodes: number
  wanted: number[]
  /** As last logged, null before. */
  class: number | null
  retryAfterUs: Us
  /**
   * Which of its host's credentials it was sent with; how often they were renewed for it, and whether it waits for new
   * ones.
   */
  credential: number
  renewals: number
  awaitsRenewal: boolean
  /** It revalidates a stale copy that was served already: it has no claims. */
  behind: boolean
}

/** Of a request without an answer yet. */
export const noHeaders: Readonly<Record<string, string>> = Object.freeze({})

const worthRetrying = new Set([408, 425, 429, 500, 502, 503, 504])

/** Whether trying again can help (engine.md, Loading 9). */
export function canRetry(reason: FailReason, status: number): boolean {
  if (reason === 'timeout' || reason === 'truncated' || reason === 'offline') return true
  return reason === 'status' && worthRetrying.has(status)
}

export const ended = (request: Request) =>
  request.state === 'ready' || request.state === 'cancelled' || request.state === 'failed'

export type RunningRequest = Request & { transfer: number }

export const running = (request: Request): request is RunningRequest => request.transfer !== null
