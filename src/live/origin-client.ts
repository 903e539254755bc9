import { archiveBase, cleartextHost } from '../core/feed/tiles.ts'
import { hostMatches } from '../core/loading/hosts.ts'
import { sessionLost, sessionLostHeader } from '../core/network/origin-headers.ts'
import type { Item, NetworkSettings } from '../core/project/types.ts'
import { HTTPError } from 'ky'
import { ownServer, ServerAway, serverFailure } from './own-server.ts'

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

/** What a session is opened with; a lost one is opened again with the same. */
interface SessionOrder {
  network: NetworkSettings
  seed: number
  headers: readonly SessionHeader[]
  lasting: readonly { host: string; lastsS: number | null }[]
}

interface Session {
  id: string
  base: string
  bases: string[]
  /** Real hosts that the relay may ask, as named when the server was started. */
  relay: string[]
}

/** So long the ledger is waited for when a run is over, ms: the run is kept without it. */
const ledgerMs = 3000

/**
 * One origin session: where its pictures and feeds are, and which port has a connection free. A session that the
 * server has forgotten is opened again in its place, once for all who meet that.
 */
export class OriginClient {
  private readonly order: SessionOrder
  private session: Session
  private ports: { base: string; active: number }[]
  private renewing: Promise<void> | null = null
  private renewed = 0

  private constructor(order: SessionOrder, session: Session) {
    this.order = order
    this.session = session
    this.ports = portsOf(session)
  }

  /** Throws with what a person can do when the server gives none. */
  static async open(
    network: NetworkSettings,
    seed: number,
    headers: readonly SessionHeader[] = [],
    lasting: readonly { host: string; lastsS: number | null }[] = [],
    signal?: AbortSignal,
  ): Promise<OriginClient> {
    const order = { network, seed, headers, lasting: lasting.map(({ host, lastsS }) => ({ host, lastsS })) }
    return new OriginClient(order, await openSession(order, signal))
  }

  /** A session that is not paced and meets no fault: for samples, not for runs. */
  static unpaced(headers: readonly SessionHeader[] = []): Promise<OriginClient> {
    return OriginClient.open(unpaced, 1, headers)
  }

  get id(): string {
    return this.session.id
  }

  /** Whether a host is the archive's own, and so served by the origin, or one that the relay may ask. */
  serves(host: string): boolean {
    return isArchive(host) || this.session.relay.some((pattern) => hostMatches(pattern, host))
  }

  /** The real address on a port with a free connection, and what gives the connection back. `transfer`: its number, by which it can be let go. */
  take(address: string, transfer: number | null = null): { url: string; release: () => void } {
    const port = this.ports.find((each) => each.active < connectionsPerPort) ?? this.ports[0]!
    port.active++
    let held = true
    return {
      url: urlOf(address, transfer === null ? port.base : `${port.base}~${transfer}`),
      release: () => {
        if (held) port.active--
        held = false
      },
    }
  }

  /** Opens another session in the place of one that the server has forgotten. */
  renewSession(): Promise<void> {
    this.renewing ??= openSession(this.order)
      .then((session) => {
        this.ports = portsOf(session)
        this.session = session
        this.renewed++
      })
      .finally(() => (this.renewing = null))
    return this.renewing
  }

  /** Whether the server still has this session; null: it does not answer. */
  async isKnown(): Promise<boolean | null> {
    try {
      await ownServer.get(`/api/origin/sessions/${this.id}`, { cache: 'no-store', retry: 0 })
      return true
    } catch (error) {
      return error instanceof HTTPError && isLost(error.response) ? false : null
    }
  }

  /** Asks for an address from the page itself, over its own port; a session that was lost is renewed and asked again. */
  async ask(address: string, init: RequestInit): Promise<Response> {
    const once = () => fetch(urlOf(address, this.session.base), init)
    const reply = await once()
    if (!isLost(reply)) return reply
    await this.renewSession()
    return once()
  }

  /** The text of a feed at a real address, through the relay; throws with what was wrong. */
  async text(address: string, signal: AbortSignal): Promise<Blob> {
    const reply = await this.ask(address, { signal, cache: 'no-store' }).catch(awayOrAborted)
    if (reply.ok) return reply.blob()
    throw new Error((await saidBy(reply)) ?? `${new URL(address).host} answers with status ${reply.status}`)
  }

  /** Where transfers are let go. */
  get letGoUrl(): string {
    return `/api/origin/sessions/${this.id}/let-go`
  }

  /** One page of a feed; throws with the origin's own words when there is none. */
  async page(feed: string, page: number, signal: AbortSignal): Promise<{ items: Item[]; more: boolean }> {
    const address = `${archiveBase}feeds/${encodeURIComponent(feed)}?page=${page}`
    const reply = await this.ask(address, { signal, cache: 'no-store' }).catch(awayOrAborted)
    if (!reply.ok) throw new Error((await saidBy(reply)) ?? `status ${reply.status}`)
    const { items, next } = (await reply.json()) as { items: Item[]; next: string | null }
    return { items, more: next !== null }
  }

  /** Asks for new credentials with the headers as they are known now; whether they were given. */
  async renew(host: string, headers: readonly SessionHeader[]): Promise<boolean> {
    const reply = await ownServer.post(`/api/origin/sessions/${this.id}/renew`, { json: { host, headers } }).json()
    return (reply as { renewed: boolean }).renewed
  }

  /** What the origin says it has really written for pictures; null: it does not say, or not of the whole run. */
  async ledger(timeoutMs = ledgerMs): Promise<LedgerResponse[] | null> {
    if (this.renewed > 0) return null
    const path = `/api/origin/sessions/${this.id}/ledger`
    const reply = await ownServer
      .get(path, { timeout: timeoutMs, retry: 0 })
      .json<{ responses: LedgerResponse[] }>()
      // A run is worth keeping without it: its figures are then not observed.
      .catch(() => null)
    return reply && reply.responses.filter(({ address }) => !address.includes('/feeds/'))
  }
}

async function openSession(order: SessionOrder, signal?: AbortSignal): Promise<Session> {
  try {
    return await ownServer.post('/api/origin/sessions', { json: order, ...(signal && { signal }) }).json<Session>()
  } catch (error) {
    throw await serverFailure(error)
  }
}

const portsOf = (session: Session) => session.bases.map((base) => ({ base, active: 0 }))

/** Where an address of the archive, or of a host behind the relay, is found within a session. */
function urlOf(address: string, session: string): string {
  const { host, pathname, search } = new URL(address)
  if (isArchive(host)) return session + pathname + search
  return `${session.replace('/origin/', '/relay/')}?u=${encodeURIComponent(address)}`
}

/** The server has no such session any more. */
const isLost = (reply: Response) => reply.status === 404 && reply.headers.get(sessionLostHeader) === sessionLost

function awayOrAborted(error: unknown): never {
  throw error instanceof TypeError ? new ServerAway() : error
}

/** What our own server says was wrong; null when the answer is not ours. */
async function saidBy(reply: Response): Promise<string | null> {
  if (!reply.headers.get('content-type')?.startsWith('application/json')) return null
  const said = (await reply.json().catch(() => null)) as { error?: unknown } | null
  return typeof said?.error === 'string' ? said.error : null
}
