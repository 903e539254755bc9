import { archiveBase, isArchive } from '../core/feed/tiles.ts'
import { hostMatches } from '../core/loading/hosts.ts'
import { sessionLost, sessionLostHeader } from '../core/network/origin-headers.ts'
import { mostPageBytes } from '../core/network/reply.ts'
import type { Item, NetworkSettings } from '../core/project/types.ts'
import { HTTPError } from 'ky'
import { z } from 'zod'
import { ownServer, serverFailure } from './own-server.ts'
import { ServerAway } from './server-away.ts'

/** The most connections that a browser opens to one host and port. */
const connectionsPerPort = 6
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

const ledgerSchema = z.object({
  responses: z.array(z.object({ address: z.string(), status: z.int(), bodyBytes: z.int(), aborted: z.boolean() })),
})
export type LedgerResponse = z.output<typeof ledgerSchema>['responses'][number]

const renewedSchema = z.object({ renewed: z.boolean() })

/** A header that the relay sends to hosts of a pattern; its value is a secret. */
export interface SessionHeader {
  host: string
  name: string
  value: string
}

/** How an address is read: time-outs and cancelling. */
export interface ReadLimits {
  /** It is not wanted any more. */
  signal: AbortSignal
  /** The network is gone. */
  outage: AbortSignal
  /** It has failed when no byte comes for so long, ms. */
  stallMs: number
}

/** Samples and feeds that are opened by hand: outages do not apply to them. */
export const byHand = (signal: AbortSignal): ReadLimits => ({
  signal,
  outage: new AbortController().signal,
  stallMs: 15_000,
})

/** A page of a feed that cannot be loaded: the reason for the log, and more words for a person. */
export class PageFailure extends Error {
  readonly reason: string

  constructor(reason: string, message: string) {
    super(message)
    this.reason = reason
  }
}

const pageSchema = z.object({
  items: z.array(z.record(z.string(), z.unknown())),
  next: z.string().nullable(),
})

/** The options of a session; a lost one is opened again with the same. */
interface SessionOrder {
  network: NetworkSettings
  seed: number
  headers: readonly SessionHeader[]
  lasting: readonly { host: string; lastsS: number | null }[]
}

const sessionSchema = z.object({
  id: z.string(),
  base: z.string(),
  bases: z.array(z.string()).min(1),
  /** Real hosts that the relay may contact, as named when the server was started. */
  relay: z.array(z.string()),
})
type Session = z.output<typeof sessionSchema>

/** How long the ledger is waited for when a run is over, ms: then the run is kept without it. */
const ledgerMs = 3000

/**
 * One origin session: where its pictures and feeds are, and which port has a connection free. A session that the server
 * has forgotten is opened again in its place, once for all callers.
 */
export class OriginClient {
  private readonly order: SessionOrder
  private session: Session
  private ports: { base: string; active: number }[]
  private renewing: Promise<void> | null = null
  private renewed = 0
  private closed = false
  /** Calls to the server about this session: it has to be there until they are answered. */
  private readonly calls = new Set<Promise<unknown>>()

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

  /** A session without pacing and faults: for samples, not for runs. */
  static unpaced(headers: readonly SessionHeader[] = []): Promise<OriginClient> {
    return OriginClient.open(unpaced, 1, headers)
  }

  get id(): string {
    return this.session.id
  }

  /** Patterns of the real hosts that the relay may contact. */
  get relay(): readonly string[] {
    return this.session.relay
  }

  /** Whether a host is the archive's own, and so served by the origin, or one that the relay may contact. */
  serves(host: string): boolean {
    return isArchive(host) || this.session.relay.some((pattern) => hostMatches(pattern, host))
  }

  /**
   * The real address on a port with a free connection, and a function that frees the connection. `transfer`: its
   * number, by which it can be let go.
   */
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

  /**
   * Gives the session back to the server, which has room for a hundred of them; pending calls about the run are
   * answered first. A server that does not get the message forgets the session by itself.
   */
  async close(): Promise<void> {
    if (this.closed) return
    this.closed = true
    await Promise.allSettled([...this.calls, this.renewing])
    await ownServer
      .delete(`/api/origin/sessions/${this.id}`, { keepalive: true })
      // The answer is not awaited.
      .catch(() => undefined)
  }

  /** Opens another session in place of one that the server has forgotten. */
  renewSession(): Promise<void> {
    if (this.closed) return Promise.resolve()
    this.renewing ??= openSession(this.order)
      .then((session) => {
        this.ports = portsOf(session)
        this.session = session
        this.renewed++
      })
      .finally(() => (this.renewing = null))
    return this.renewing
  }

  /** Whether the server still has this session; null: it does not answer, or the session has been given back. */
  async isKnown(): Promise<boolean | null> {
    if (this.closed) return null
    try {
      await this.call(ownServer.get(`/api/origin/sessions/${this.id}`, { cache: 'no-store', retry: 0 }))
      return true
    } catch (error) {
      return error instanceof HTTPError && isLost(error.response) ? false : null
    }
  }

  /**
   * Requests an address from the page itself, over its own port; a session that was lost is renewed and the request
   * repeated.
   */
  async ask(address: string, init: RequestInit): Promise<Response> {
    const once = () => fetch(urlOf(address, this.session.base), init)
    const reply = await once()
    if (!isLost(reply)) return reply
    await this.renewSession()
    return once()
  }

  /** The text of a feed at a real address, through the relay; throws a description of the error. */
  async text(address: string, limits: ReadLimits): Promise<Blob> {
    return (await this.read(address, limits)).body
  }

  /** The address to which transfers that are let go are sent. */
  get letGoUrl(): string {
    return `/api/origin/sessions/${this.id}/let-go`
  }

  /** One page of a feed; throws a PageFailure when there is none. */
  async page(feed: string, page: number, limits: ReadLimits): Promise<{ items: Item[]; more: boolean }> {
    const { body, type } = await this.read(`${archiveBase}feeds/${encodeURIComponent(feed)}?page=${page}`, limits)
    const read = pageSchema.safeParse(type.includes('json') ? parsed(await body.text()) : null)
    if (!read.success) throw new PageFailure('not a feed', 'what came is not a page of a feed')
    return { items: read.data.items, more: read.data.next !== null }
  }

  /** Reads an address to its end; one that brings no byte for too long has failed. Throws a PageFailure. */
  private async read(address: string, { signal, outage, stallMs }: ReadLimits): Promise<{ body: Blob; type: string }> {
    const stall = new AbortController()
    let timer: ReturnType<typeof setTimeout> | undefined
    const wait = () => {
      clearTimeout(timer)
      timer = setTimeout(() => stall.abort(), stallMs)
    }
    let began = false
    try {
      wait()
      const any = AbortSignal.any([signal, outage, stall.signal])
      const reply = await this.ask(address, { signal: any, cache: 'no-store', redirect: 'manual' })
      began = true
      if (reply.type === 'opaqueredirect') throw new PageFailure('redirects', 'it redirects too often')
      if (!reply.ok)
        throw new PageFailure(`status ${reply.status}`, (await errorOf(reply)) ?? statusWords(address, reply))
      if (Number(reply.headers.get('content-length') ?? 0) > mostPageBytes) {
        await reply.body?.cancel()
        throw new PageFailure('too-large', `it has more than ${mostPageBytes} bytes`)
      }
      const type = reply.headers.get('content-type') ?? ''
      const parts: Uint8Array<ArrayBuffer>[] = []
      const reader = reply.body?.getReader()
      for (let part = await reader?.read(); part && !part.done; part = await reader!.read()) {
        wait()
        parts.push(part.value as Uint8Array<ArrayBuffer>)
      }
      return { body: new Blob(parts, { type }), type }
    } catch (error) {
      if (error instanceof PageFailure || signal.aborted) throw error
      if (outage.aborted) throw new PageFailure('offline', 'there is no network')
      if (stall.signal.aborted) throw new PageFailure('timeout', `no answer within ${stallMs / 1000} s`)
      if (began) throw new PageFailure('truncated', 'it ended before its end')
      throw new PageFailure('offline', new ServerAway().message)
    } finally {
      clearTimeout(timer)
    }
  }

  /**
   * Requests new credentials with the present headers; returns whether they were issued. None are once the session has
   * been given back.
   */
  async renew(host: string, headers: readonly SessionHeader[]): Promise<boolean> {
    if (this.closed) return false
    const path = `/api/origin/sessions/${this.id}/renew`
    return renewedSchema.parse(await this.call(ownServer.post(path, { json: { host, headers } }).json())).renewed
  }

  /** What the origin reports to have written for pictures; null: no report, or not of the whole run. */
  async ledger(timeoutMs = ledgerMs): Promise<LedgerResponse[] | null> {
    if (this.renewed > 0) return null
    const path = `/api/origin/sessions/${this.id}/ledger`
    const reply = await this.call(ownServer.get(path, { timeout: timeoutMs, retry: 0 }).json())
      .then((said) => ledgerSchema.parse(said))
      // A run is worth keeping without it: its figures are then not observed.
      .catch(() => null)
    return reply && reply.responses.filter(({ address }) => !address.includes('/feeds/'))
  }

  /** A call about this session: the session is not given back before it is answered. */
  private async call<Reply>(reply: Promise<Reply>): Promise<Reply> {
    this.calls.add(reply)
    try {
      return await reply
    } finally {
      this.calls.delete(reply)
    }
  }
}

async function openSession(order: SessionOrder, signal?: AbortSignal): Promise<Session> {
  try {
    const said = await ownServer.post('/api/origin/sessions', { json: order, ...(signal && { signal }) }).json()
    return sessionSchema.parse(said)
  } catch (error) {
    throw await serverFailure(error)
  }
}

const portsOf = (session: Session) => session.bases.map((base) => ({ base, active: 0 }))

/** The path of an address of the archive, or of a host behind the relay, within a session. */
function urlOf(address: string, session: string): string {
  const { host, pathname, search } = new URL(address)
  if (isArchive(host)) return session + pathname + search
  return `${session.replace('/origin/', '/relay/')}?u=${encodeURIComponent(address)}`
}

/** The server has no such session any more. */
const isLost = (reply: Response) => reply.status === 404 && reply.headers.get(sessionLostHeader) === sessionLost

const statusWords = (address: string, { status }: Response) => `${new URL(address).host} answers with status ${status}`

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

/** The error that our own server reports; null when the answer is not ours. */
async function errorOf(reply: Response): Promise<string | null> {
  if (!reply.headers.get('content-type')?.startsWith('application/json')) return null
  const said = (await reply.json().catch(() => null)) as { error?: unknown } | null
  return typeof said?.error === 'string' ? said.error : null
}
