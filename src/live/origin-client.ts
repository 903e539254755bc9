import { archiveBase, cleartextHost } from '../core/feed/tiles.ts'
import { hostMatches } from '../core/loading/hosts.ts'
import type { Item, NetworkSettings } from '../core/project/types.ts'

/** A browser opens so many connections to one host and port. */
const connectionsPerPort = 6
const archiveHost = new URL(archiveBase).host
const isArchive = (host: string) => host === archiveHost || host === cleartextHost
const unpaced: NetworkSettings = {
  name: 'unpaced',
  protocol: 'h2',
  connectionsPerHost: 6,
  setupRtts: 0,
  slowStart: false,
  metered: false,
  downKbps: 10_000_000,
  rttMs: 0,
  jitterMs: 0,
  thinkMs: 0,
  faults: [],
  offline: [],
}

export interface LedgerResponse {
  address: string
  status: number
  bodyBytes: number
  aborted: boolean
}

/** A header that the relay sends to hosts of a pattern; its value is a secret. */
export interface SessionHeader {
  host: string
  name: string
  value: string
}

/** One origin session: where its pictures and feeds are, and which port has a connection free. */
export class OriginClient {
  readonly id: string
  private readonly base: string
  private readonly ports: { base: string; active: number }[]

  /** Real hosts that the relay may ask, as named when the server was started. */
  private readonly relayed: readonly string[]

  private constructor(id: string, base: string, bases: readonly string[], relayed: readonly string[]) {
    this.relayed = relayed
    this.id = id
    this.base = base
    this.ports = bases.map((each) => ({ base: each, active: 0 }))
  }

  static async open(
    network: NetworkSettings,
    seed: number,
    headers: readonly SessionHeader[] = [],
    lasting: readonly { host: string; lastsS: number | null }[] = [],
  ): Promise<OriginClient> {
    const reply = await fetch('/api/origin/sessions', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ network, seed, headers, lasting: lasting.map(({ host, lastsS }) => ({ host, lastsS })) }),
    })
    const told = (await reply.json()) as { id: string; base: string; bases: string[]; relay: string[]; error?: string }
    if (!reply.ok) throw new Error(`The origin gave no session: ${told.error ?? reply.status}`)
    return new OriginClient(told.id, told.base, told.bases, told.relay)
  }

  /** A session that is not paced and meets no fault: for samples, not for runs. */
  static unpaced(headers: readonly SessionHeader[] = []): Promise<OriginClient> {
    return OriginClient.open(unpaced, 1, headers)
  }

  /** Whether a host is the archive's own, and so served by the origin, or one that the relay may ask. */
  serves(host: string): boolean {
    return isArchive(host) || this.relayed.some((pattern) => hostMatches(pattern, host))
  }

  /** The real address on a port with a free connection, and what gives the connection back. `transfer`: its number, by which it can be let go. */
  take(address: string, transfer: number | null = null): { url: string; release: () => void } {
    const port = this.ports.find((each) => each.active < connectionsPerPort) ?? this.ports[0]!
    port.active++
    const { host, pathname, search } = new URL(address)
    const session = transfer === null ? port.base : `${port.base}~${transfer}`
    let held = true
    return {
      url: isArchive(host)
        ? session + pathname + search
        : `${session.replace('/origin/', '/relay/')}?u=${encodeURIComponent(address)}`,
      release: () => {
        if (held) port.active--
        held = false
      },
    }
  }

  /** The text of a feed at a real address, through the relay; throws with what was wrong. */
  async text(address: string, signal: AbortSignal): Promise<Blob> {
    const { host, pathname, search } = new URL(address)
    const url = isArchive(host)
      ? this.base + pathname + search
      : `${this.base.replace('/origin/', '/relay/')}?u=${encodeURIComponent(address)}`
    const reply = await fetch(url, { signal, cache: 'no-store' })
    if (reply.ok) return reply.blob()
    const told = reply.headers.get('content-type')?.startsWith('application/json')
      ? ((await reply.json()) as { error?: string }).error
      : undefined
    throw new Error(told ?? `${host} answers with status ${reply.status}`)
  }

  /** Where transfers are let go. */
  get letGoUrl(): string {
    return `/api/origin/sessions/${this.id}/let-go`
  }

  /** One page of a feed; throws with the origin's own words when there is none. */
  async page(feed: string, page: number, signal: AbortSignal): Promise<{ items: Item[]; more: boolean }> {
    const reply = await fetch(`${this.base}/feeds/${encodeURIComponent(feed)}?page=${page}`, {
      signal,
      cache: 'no-store',
    })
    const told = (await reply.json()) as { items: Item[]; next: string | null; error?: string }
    if (!reply.ok) throw new Error(told.error ?? `status ${reply.status}`)
    return { items: told.items, more: told.next !== null }
  }

  /** Asks for new credentials with the headers as they are known now; whether they were given. */
  async renew(host: string, headers: readonly SessionHeader[]): Promise<boolean> {
    const reply = await fetch(`/api/origin/sessions/${this.id}/renew`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ host, headers }),
    })
    return reply.ok && ((await reply.json()) as { renewed: boolean }).renewed
  }

  /** What the origin says it has really written for pictures. */
  async ledger(): Promise<LedgerResponse[]> {
    const reply = await fetch(`/api/origin/sessions/${this.id}/ledger`)
    const { responses } = (await reply.json()) as { responses: LedgerResponse[] }
    return responses.filter(({ address }) => !address.includes('/feeds/'))
  }
}
