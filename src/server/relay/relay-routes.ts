import Router from '@koa/router'
import type { Context } from 'koa'
import { sendPaced } from '../origin/send-paced.ts'
import type { OriginSession } from '../origin/session.ts'
import type { OriginSessions } from '../origin/sessions.ts'
import { readTransfer } from '../origin/transfer-name.ts'
import { askThroughRelay, type RelayReply, type Resolve } from './relay-fetch.ts'
import { Refusal, type RelayRules } from './relay-rules.ts'

/** How long a host may take in all, redirects included, ms. */
export const relayTimeoutMs = 15_000

export interface Relay {
  rules: RelayRules
  resolve: Resolve
  timeoutMs: number
}

/**
 * `GET /relay/SESSION?u=ADDRESS`: a picture or feed of a host that was named at start, paced and in the ledger like the
 * origin's.
 */
export function relayRoutes(sessions: OriginSessions, { rules, resolve, timeoutMs }: Relay): Router {
  const router = new Router({ prefix: '/relay/:session' })
  router.get('/', async (ctx) => {
    if (rules.hosts.length === 0)
      return ctx.throw(404, 'the relay is off; name hosts when starting: TUG_RELAY_HOSTS=img.example.com npm start')
    const { id, transfer } = readTransfer((ctx.params as { session: string }).session)
    const session = sessions.of(ctx, id)
    const { u } = ctx.query
    if (typeof u !== 'string') return ctx.throw(400, 'u: allowed: one absolute address')
    await answerFromHost(ctx, session, { rules, resolve, timeoutMs }, { url: u, address: u, transfer })
  })
  router.all('/', (ctx) => ctx.throw(405, 'the relay answers GET'))
  return router
}

interface HostOrder {
  url: string
  /** As it is in the ledger. */
  address: string
  transfer: number | null
}

/** Answers with the response of a real host, by the relay's rules, at the session's pace and in its ledger. */
export async function answerFromHost(
  ctx: Context,
  session: OriginSession,
  { rules, resolve, timeoutMs }: Relay,
  { url, address, transfer }: HostOrder,
): Promise<void> {
  const etag = ctx.get('if-none-match') || null
  let reply: RelayReply
  try {
    reply = await askThroughRelay({ url, rules, secrets: session.secrets, etag, resolve, timeoutMs })
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    ctx.status = error.status
    ctx.body = { error: error.message }
    return
  }
  ctx.respond = false
  const { status, type, headers, body, hasLength } = reply
  await sendPaced(session, ctx.res, {
    address,
    host: new URL(url).host,
    transfer,
    status,
    headers: {
      ...(ctx.response.headers as Record<string, string>),
      ...headers,
      ...(type === '' ? {} : { 'content-type': type }),
      // Whatever the type, no page of ours runs it.
      'content-security-policy': "sandbox; default-src 'none'",
    },
    flow: { bytes: body.length },
    declared: status === 304 || !hasLength ? null : body.length,
    body,
    breakOff: false,
  })
}
