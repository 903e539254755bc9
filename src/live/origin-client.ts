import { archiveBase, cleartextHost } from '../core/feed/tiles.ts'
import type { Item, NetworkSettings } from '../core/project/types.ts'

/** A browser opens so many connections to one host and port. */
const connectionsPerPort = 6
const archiveHost = new URL(archiveBase).host

export interface LedgerResponse {
  address: string
  status: number
  bodyBytes: number
  aborted: boolean
}

/** One origin session: where its pictures and feeds are, and which port has a connection free. */
export class OriginClient {
  readonly id: string
  private readonly base: string
  private readonly ports: { base: string; active: number }[]

  private constructor(id: string, base: string, bases: readonly string[]) {
    this.id = id
    this.base = base
    this.ports = bases.map((each) => ({ base: each, active: 0 }))
  }

  static async open(network: NetworkSettings, seed: number): Promise<OriginClient> {
    const reply = await fetch('/api/origin/sessions', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ network, seed }),
    })
    const told = (await reply.json()) as { id: string; base: string; bases: string[]; error?: string }
    if (!reply.ok) throw new Error(`The origin gave no session: ${told.error ?? reply.status}`)
    return new OriginClient(told.id, told.base, told.bases)
  }

  /** Whether an address is one of the archive's, and so served by the origin. */
  serves(host: string): boolean {
    return host === archiveHost || host === cleartextHost
  }

  /** The real address on a port with a free connection, and what gives the connection back. `transfer`: its number, by which it can be let go. */
  take(address: string, transfer: number | null = null): { url: string; release: () => void } {
    const port = this.ports.find((each) => each.active < connectionsPerPort) ?? this.ports[0]!
    port.active++
    const { pathname, search } = new URL(address)
    let held = true
    return {
      url: `${port.base}${transfer === null ? '' : `~${transfer}`}${pathname}${search}`,
      release: () => {
        if (held) port.active--
        held = false
      },
    }
  }

  /** Where transfers are let go. */
  get letGoUrl(): string {
    return `/api/origin/sessions/${this.id}/let-go`
  }

  /** One page of a feed; throws with the origin's own words when there is none. */
  async page(feed: string, page: number, signal: AbortSignal): Promise<{ items: Item[]; more: boolean }> {
    const reply = await fetch(`${this.base}/feeds/${encodeURIComponent(feed)}?page=${page}`, { signal, cache: 'no-store' })
    const told = (await reply.json()) as { items: Item[]; next: string | null; error?: string }
    if (!reply.ok) throw new Error(told.error ?? `status ${reply.status}`)
    return { items: told.items, more: told.next !== null }
  }

  /** What the origin says it has really written for pictures. */
  async ledger(): Promise<LedgerResponse[]> {
    const reply = await fetch(`/api/origin/sessions/${this.id}/ledger`)
    const { responses } = (await reply.json()) as { responses: LedgerResponse[] }
    return responses.filter(({ address }) => !address.includes('/feeds/'))
  }
}
