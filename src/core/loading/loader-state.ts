import type { ClaimScope } from '../log/claim-place.ts'
import type { RunLog } from '../log/run-log.ts'
import type { Device, Loading } from '../project/types.ts'
import type { FailReason, Us, World } from '../worlds/ports.ts'
import type { AssetTable } from './asset-table.ts'
import type { DiskTier } from './disk-tier.ts'
import type { MemoryTier } from './memory-tier.ts'
import { classOf, rankOf, type Rank, type Viewpoint } from './rank.ts'
import type { Claim, HostLoad, Request, Tier } from './request.ts'

/** The owner of claims: is called with their results. */
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
  cell: number | null
  slot: number | null
  /** null: it is for no item of the list. */
  index: number | null
  row: number
  priority: number
  /** The address is known to be wrong before anything loads. */
  refused: FailReason | null
  /** The list's by default. */
  scope?: ClaimScope
  later?: boolean
}

/** Contents of the tiers at the end of a visit, for the next one. */
export interface KeptTiers {
  disk: ReturnType<DiskTier['list']>
  memory: {
    identity: string
    host: string
    target: AssetTable['targets'][number]
    bytes: number
    width: number
    height: number
    sourceWidth: number
    sourceHeight: number
    assetBytes: number
    frames?: number
    frameMs?: number
  }[]
}

export interface LoaderParts {
  world: Pick<World, 'clock' | 'network' | 'decoder' | 'disk' | 'heap'>
  log: RunLog
  policy: Loading
  granted: Device['granted']
  seed: number
  table: AssetTable
  owner: ClaimOwner
  /** ms of the world's calendar at instant 0 of this visit: freshness is judged by it. */
  epochMs: number
}

/** What the parts of the loader ask of the whole. */
export interface LoaderActions {
  /** Starts what may start, best rank first. */
  pump(): void
  /** The end of a request for good. `transfer` null: it failed without one; bytes: those not logged before. */
  fail(request: Request, reason: FailReason, bytes: number, transfer: number | null): void
  end(request: Request, how: 'ready' | 'cancelled' | 'failed'): void
  /** Revalidates a stale copy that was served. */
  revalidate(asset: number, etag: string | null): void
}

/** What the parts of the loader share: requests, tiers, and the conditions that hold for all of them now. */
export class LoaderState {
  readonly parts: LoaderParts
  readonly memory: MemoryTier
  readonly diskTier: DiskTier
  /** Transfers that are running; those that were cut and are not confirmed yet. */
  active = 0
  cutting = 0
  private readonly hosts = new Map<string, HostLoad>()
  readonly live = new Set<Request>()
  readonly byAsset = new Map<number, Request>()
  readonly failures = new Map<number, { reason: FailReason; status: number }>()
  speed = 0
  offline = false
  /** How requests are treated while the whole app is paused, or the list's screen is left; null: it is active. */
  suspension: { how: Loading['cancel']['whenPaused']; whole: boolean } | null = null
  view: Viewpoint = { centre: 0, direction: 1, centreOfRow: () => 0 }

  constructor(parts: LoaderParts, memory: MemoryTier, diskTier: DiskTier) {
    this.parts = parts
    this.memory = memory
    this.diskTier = diskTier
  }

  /** Transfers running to a host; the same object for all of its requests. */
  loadOf(host: string): HostLoad {
    let load = this.hosts.get(host)
    if (!load) this.hosts.set(host, (load = { running: 0 }))
    return load
  }

  get now(): Us {
    return this.parts.world.clock.now()
  }

  /** Whether a request belongs to what is suspended, with no other claims. */
  isSuspended(request: Request): boolean {
    if (this.suspension === null) return false
    return (
      this.suspension.whole || !request.claims.some((claim) => claim.state !== 'released' && claim.scope !== 'list')
    )
  }

  rank(request: Request): Rank {
    return rankOf(request, this.now, this.view, this.parts.policy)
  }

  noteClass(request: Request, now: Us): void {
    const rank = classOf(request, now)
    if (rank === request.class) return
    request.class = rank
    this.parts.log.events.rank(now, { request: request.id, class: rank })
  }
}
