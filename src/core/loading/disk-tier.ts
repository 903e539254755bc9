import CachePolicy from 'http-cache-semantics'
import type { Loading } from '../project/types.ts'

/** An entry of the index across visits. */
export interface DiskEntry {
  identity: string
  host: string
  bytes: number
  etag: string | null
  writtenMs: number
  headers: Record<string, string>
}

/** `mayServeStale`: stale, but it may be served while it is revalidated (RFC 5861). */
export type DiskHit = { fresh: true } | { fresh: false; etag: string | null; mayServeStale: boolean }

/**
 * The index of encoded pictures on disk: least recently used out first, never over its byte budget. Freshness comes
 * from the reply's headers (RFC 9111), or from an age or a count where the project says so.
 */
export class DiskTier {
  private readonly entries = new Map<number, DiskEntry & { uses: number }>()
  private readonly rules = new Map<string, Rule>()
  readonly budget: number
  private readonly freshness: Loading['diskFreshness']
  private readonly nowMs: () => number
  private readonly evicted: (asset: number, bytes: number) => void
  private sum = 0

  constructor(
    budgetBytes: number,
    freshness: Loading['diskFreshness'],
    nowMs: () => number,
    evicted: (asset: number, bytes: number) => void,
  ) {
    this.budget = budgetBytes
    this.freshness = freshness
    this.nowMs = nowMs
    this.evicted = evicted
  }

  get bytes(): number {
    return this.sum
  }

  /** Looks an asset up and marks it used; null when it is not there. */
  look(asset: number): (DiskHit & { bytes: number }) | null {
    const entry = this.entries.get(asset)
    if (!entry) return null
    this.entries.delete(asset)
    this.entries.set(asset, entry)
    entry.uses++
    const { bytes, etag } = entry
    return this.isFresh(entry)
      ? { fresh: true, bytes }
      : { fresh: false, etag, bytes, mayServeStale: this.mayServeStale(entry) }
  }

  /** Whether a reply may be stored at all. */
  storable(address: string, status: number, headers: Record<string, string>): boolean {
    if (this.budget < 1 || status !== 200) return false
    return this.freshness.type !== 'headers' || this.ruleOf(address, headers).storable
  }

  put(asset: number, entry: DiskEntry): void {
    const before = this.entries.get(asset)
    this.drop(asset)
    if (before) this.evicted(asset, before.bytes)
    if (entry.bytes > this.budget) return
    this.entries.set(asset, Object.assign(plainEntry(entry), { uses: 0 }))
    this.sum += entry.bytes
    if (this.sum <= this.budget) return
    for (const [oldest, { bytes }] of this.entries) {
      if (this.sum <= this.budget) break
      this.drop(oldest)
      this.evicted(oldest, bytes)
    }
  }

  /** A 304: the copy is as good as new. */
  renew(asset: number, headers: Record<string, string>): void {
    const entry = this.entries.get(asset)
    if (!entry) return
    entry.writtenMs = this.nowMs()
    entry.headers = { ...entry.headers, ...headers }
    entry.uses = 0
  }

  drop(asset: number): void {
    const entry = this.entries.get(asset)
    if (!entry) return
    this.entries.delete(asset)
    this.sum -= entry.bytes
  }

  /** What is kept of an asset. */
  entry(asset: number): DiskEntry | undefined {
    const entry = this.entries.get(asset)
    return entry && plainEntry(entry)
  }

  /** The entries, least recently used first; for the next visit. */
  list(): DiskEntry[] {
    return [...this.entries.values()].map(plainEntry)
  }

  private mayServeStale(entry: DiskEntry): boolean {
    if (this.freshness.type !== 'headers') return false
    const { freshMs, staleMs } = this.ruleOf(entry.identity, entry.headers)
    return this.nowMs() - entry.writtenMs < freshMs + staleMs
  }

  private isFresh(entry: DiskEntry & { uses: number }): boolean {
    switch (this.freshness.type) {
      case 'age':
        return this.nowMs() - entry.writtenMs <= this.freshness.s * 1000
      case 'count':
        return entry.uses <= this.freshness.n
      case 'headers':
        return this.nowMs() - entry.writtenMs < this.ruleOf(entry.identity, entry.headers).freshMs
    }
  }

  /** The freshness that a reply's headers give; computed once for all replies with the same ones. */
  private ruleOf(address: string, headers: Record<string, string>): Rule {
    const name = ruledBy(headers)
    let rule = this.rules.get(name)
    if (!rule) {
      const policy = new PolicyAtZero(
        { url: address, headers: {} },
        { status: 200, headers: pick(headers) },
        { shared: false },
      )
      const stale = /(?:^|[,\s])stale-while-revalidate=(\d{1,9})/i.exec(headers['cache-control'] ?? '')?.[1]
      this.rules.set(
        name,
        (rule = {
          storable: policy.storable(),
          freshMs: 1000 * Math.max(0, policy.maxAge() - policy.age()),
          staleMs: 1000 * Number(stale ?? 0),
        }),
      )
    }
    return rule
  }
}

const plainEntry = ({ identity, host, bytes, etag, writtenMs, headers }: DiskEntry): DiskEntry => ({
  identity,
  host,
  bytes,
  etag,
  writtenMs,
  headers,
})

interface Rule {
  storable: boolean
  /** How long a copy is fresh after it was written, ms. */
  freshMs: number
  /** How long after that it may be served while it is revalidated, ms. */
  staleMs: number
}

/** The headers by which RFC 9111 decides whether and how long a reply may be stored. */
const ruling = ['cache-control', 'expires', 'date', 'age', 'pragma', 'vary', 'last-modified'] as const

/**
 * One text for all headers with which replies are treated alike. Most replies have only one of them, which is that
 * text.
 */
function ruledBy(headers: Record<string, string>): string {
  for (const header of ruling)
    if (header !== 'cache-control' && headers[header] !== undefined)
      return ruling.map((each) => headers[each] ?? '').join('\n')
  return headers['cache-control'] ?? ''
}

const pick = (headers: Record<string, string>) =>
  Object.fromEntries(ruling.flatMap((name) => (headers[name] === undefined ? [] : [[name, headers[name]]])))

/** The policy's clock is at the moment of the reply, so that its time to live is the whole one. */
class PolicyAtZero extends CachePolicy {
  now(): number {
    return 0
  }
}
