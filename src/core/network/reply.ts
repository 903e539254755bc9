import { archiveBase, cleartextHost, readTile, tileBytes, tileFrameMs, type Codec } from '../feed/tiles.ts'
import type { Fault } from '../project/types.ts'
import { draw, hashText } from '../numbers/draw.ts'
import { matchesGlob } from './glob.ts'
import type { Hints } from '../worlds/ports.ts'

/** What a server answers: the same plan drives the virtual network and the origin. */
export interface Reply {
  status: number
  type: string
  bytes: number
  headers: Record<string, string>
  /** px of the picture, 0 × 0 when there is none. */
  width: number
  height: number
  codec: Codec
  /** Of a moving picture; each is shown for `frameMs`. */
  frames?: number
  frameMs?: number
  fault: Fault | null
}

/** What a live run has observed of an address, preferred over any estimate. */
export interface Seen {
  bytes: number
  width: number
  height: number
}

/** A page of a feed with more bytes than this is not read. */
export const mostPageBytes = 32 * 1024 * 1024

const maxAge = 'public, max-age=86400'
const mistakeBytes = 120
/** Bytes a px of a picture of unknown size. */
const unknownBytesPerPx = 0.2

/**
 * Whole replies for made-up tiles, by address: a tile's reply follows from its address alone, and while a handle moves
 * the same tiles are requested in run after run. Replies are never changed.
 */
const tileReplies = new Map<string, Readonly<Reply>>()
const mostKept = 20_000

/** What the address alone determines of a picture that is not made up: computed once, as above. */
interface AddressFacts {
  /** Of the archive's own hosts: the query, which may set a size. */
  query: string | null
  codec: Codec
  etag: string
}

const factsByAddress = new Map<string, AddressFacts>()

function readAddress(address: string, query: string | null): AddressFacts {
  const facts = { query, codec: codecOf(address), etag: `"${hashText(address).toString(16)}"` }
  if (factsByAddress.size >= mostKept) factsByAddress.clear()
  factsByAddress.set(address, facts)
  return facts
}

const unchanged = (reply: Reply): Reply => ({ ...reply, status: 304, type: '', bytes: 0 })

/** The reply for a picture's address before any fault. */
export function plainReply(address: string, hints: Hints, etag: string | null, seen: Seen | null): Reply {
  const known = tileReplies.get(address)
  if (known) return known.headers.etag === etag ? unchanged(known) : known
  const facts = factsByAddress.get(address)
  const own = facts ? null : ownPath(address)
  if (own && !own.path.startsWith('pictures/')) {
    const tile = readTile(own.path, own.query)
    if (!tile) return emptyReply(404)
    const headers = {
      'cache-control': freshnessOf(own.query),
      etag: `"${hashText(own.path + own.query).toString(16)}"`,
    }
    const reply: Reply = {
      status: 200,
      type: `image/${tile.as}`,
      bytes: tileBytes(tile.n, tile.width, tile.height, tile.as, tile.frames),
      headers,
      width: tile.width,
      height: tile.height,
      codec: tile.as,
      fault: null,
      ...(tile.frames > 1 ? { frames: tile.frames, frameMs: tileFrameMs } : {}),
    }
    if (tileReplies.size >= mostKept) tileReplies.clear()
    tileReplies.set(address, reply)
    return etag === headers.etag ? unchanged(reply) : reply
  }
  return pictureReply(facts ?? readAddress(address, own?.query ?? null), hints, etag, seen)
}

/** The reply for a picture that is not made up. */
function pictureReply(facts: AddressFacts, hints: Hints, etag: string | null, seen: Seen | null): Reply {
  const { query, codec, etag: tag } = facts
  const source = { width: hints.widthPx ?? 1200, height: hints.heightPx ?? hints.widthPx ?? 1200 }
  const requested = query === null ? source : askedSize(query, source)
  const width = seen?.width ?? requested.width
  const height = seen?.height ?? requested.height
  const share = (width * height) / (source.width * source.height)
  const bytes =
    etag === tag
      ? 0
      : (seen?.bytes ??
        Math.max(1, Math.round(hints.bytes === null ? width * height * unknownBytesPerPx : hints.bytes * share)))
  return {
    status: etag === tag ? 304 : 200,
    type: `image/${codec}`,
    bytes,
    headers: { 'cache-control': maxAge, etag: tag },
    width,
    height,
    codec,
    fault: null,
  }
}

/** Freshness of a tile: a day, or as its address sets: `fresh` and `stale` (while it is revalidated), in s. */
function freshnessOf(query: string): string {
  const seconds = (name: string) => new RegExp(`(?:^|&)${name}=(\\d{1,9})(?:&|$)`).exec(query)?.[1]
  const [fresh, stale] = [seconds('fresh'), seconds('stale')]
  if (fresh === undefined && stale === undefined) return maxAge
  return `public, max-age=${fresh ?? 0}${stale === undefined ? '' : `, stale-while-revalidate=${stale}`}`
}

/** The px that the origin resizes one of the user's own pictures to: enough to cover the requested size. */
function askedSize(query: string, source: { width: number; height: number }): { width: number; height: number } {
  const side = (name: string) => Number(new RegExp(`(?:^|&)${name}=(\\d{1,5})(?:&|$)`).exec(query)?.[1] ?? 0)
  const width = side('width')
  const height = side('height')
  if (width === 0 && height === 0) return source
  const scale = Math.min(1, Math.max(width / source.width, height / source.height))
  const made = {
    width: Math.max(1, Math.round(source.width * scale)),
    height: Math.max(1, Math.round(source.height * scale)),
  }
  return {
    width: width === 0 ? made.width : Math.min(width, made.width),
    height: height === 0 ? made.height : Math.min(height, made.height),
  }
}

/** The path and query after the archive's symbolic hosts, null for any other host. */
function ownPath(address: string): { path: string; query: string } | null {
  const match = /^https?:\/\/([^/?#]+)\/([^?#]*)\??([^#]*)/.exec(address)
  if (!match) return null
  const host = match[1]!.toLowerCase()
  if (host !== cleartextHost && !archiveBase.includes(`//${host}/`)) return null
  return { path: match[2]!, query: match[3]! }
}

export function emptyReply(status: number): Reply {
  return {
    status,
    type: 'text/plain',
    bytes: mistakeBytes,
    headers: {},
    width: 0,
    height: 0,
    codec: 'jpeg',
    fault: null,
  }
}

function codecOf(address: string): Codec {
  const ending = /\.(jpe?g|png|webp|avif)(?:[?#]|$)/i.exec(address)?.[1]?.toLowerCase()
  return ending === 'png' || ending === 'webp' || ending === 'avif' ? ending : 'jpeg'
}

/** Decides which fault, if any, strikes a request; counts how often each has. */
export class FaultPlan {
  private readonly faults: { fault: Fault; strikes: Map<string, number> }[]
  private readonly seed: number
  private draws = 0

  constructor(faults: readonly Fault[], seed: number) {
    this.seed = seed
    this.faults = faults.map((fault) => ({ fault, strikes: new Map() }))
  }

  /** `ms`: since the visit began. */
  apply(address: string, reply: Reply, ms: number): Reply {
    for (const { fault, strikes } of this.faults) {
      if (ms < fault.fromMs || (fault.toMs !== null && ms >= fault.toMs) || !matchesGlob(fault.match, address)) continue
      if (fault.rate < 1 && draw(this.seed, 'fault', this.draws++) >= fault.rate) continue
      const struck = strikes.get(address) ?? 0
      if (fault.times !== null && struck >= fault.times) continue
      strikes.set(address, struck + 1)
      return spoil(reply, fault)
    }
    return reply
  }
}

function spoil(reply: Reply, fault: Fault): Reply {
  switch (fault.kind) {
    case 'status': {
      const headers: Record<string, string> =
        fault.retryAfterS === null ? {} : { 'retry-after': String(fault.retryAfterS) }
      return { ...emptyReply(fault.status), headers, fault }
    }
    case 'wrong-type':
      return { ...reply, type: 'text/html', fault }
    case 'huge':
      return { ...reply, bytes: 40 * 1024 * 1024, fault }
    case 'empty':
      return { ...reply, bytes: 0, fault }
    case 'timeout':
    case 'stall':
    case 'truncate':
    case 'broken':
    case 'redirect-loop':
    case 'drip':
      return { ...reply, fault }
  }
}

/** How the fluid model plays a reply: bytes to send, where it stalls, how slowly it drips. */
export function flowOf(reply: Reply): { bytes: number; silent: boolean; stallAt?: number; cap?: number } {
  const { fault, bytes } = reply
  if (!fault) return { bytes, silent: false }
  switch (fault.kind) {
    case 'timeout':
      return { bytes, silent: true }
    case 'stall':
      return { bytes, silent: false, stallAt: Math.min(fault.afterBytes, Math.max(0, bytes - 1)) }
    case 'truncate':
      return { bytes: Math.min(bytes, fault.afterBytes || Math.floor(bytes / 2)), silent: false }
    case 'drip':
      return { bytes, silent: false, cap: 0.001 }
    case 'redirect-loop':
      return { bytes: 0, silent: false }
    default:
      return { bytes, silent: false }
  }
}
