import { Readable } from 'node:stream'
import Router from '@koa/router'
import { bodyParser } from '@koa/bodyparser'
import { createSession } from 'better-sse'
import type { Context } from 'koa'
import { letGoBody, markBody, readBody, recordingBody } from '../bodies.ts'
import type { PictureFolder } from '../origin/folder.ts'
import { archiveRoutes } from '../origin/origin-routes.ts'
import type { OriginSession } from '../origin/session.ts'
import { readTransfer } from '../origin/transfer-name.ts'
import { answerFromHost, type Relay } from '../relay/relay-routes.ts'
import { allowedUrl, Refusal } from '../relay/relay-rules.ts'
import type { Recording } from './recording.ts'
import type { Recordings } from './recordings.ts'

/** The largest batch of app events, bytes. */
const mostOfBatch = 4_000_000
/** How often the stream sends new events, ms, and how many at once. */
const streamMs = 250
const mostAtOnce = 500

/** `/recordings/ID/…`, from which an app loads its pictures; `/api/recordings`, the calls of the page and the app. */
export function recordingRoutes(
  recordings: Recordings,
  { folder, relay }: { folder: PictureFolder | null; relay: Relay },
): { base: Router; api: Router } {
  const base = new Router()
  base.get('/recordings/:session/{*rest}', async (ctx, next) => {
    const { id, transfer } = readTransfer((ctx.params as { session: string }).session)
    const recording = await recordings.of(ctx, id)
    if (recording.endedMs !== null) return ctx.throw(410, 'this recording has ended')
    if (recording.order.upstream === 'origin') return next()
    const path = ctx.path.split('/').slice(3).join('/')
    await answerFromHost(ctx, recording.session, relay, {
      url: `${recording.order.upstream}/${path}${ctx.search}`,
      address: ctx.href.replace(/~\d+(?=\/)/, ''),
      transfer,
    })
  })
  const archive = archiveRoutes('/recordings', (ctx, id) => sessionOf(ctx, recordings, id), folder)
  base.use(archive.routes())
  return { base, api: apiRoutes(recordings, relay) }
}

function sessionOf(ctx: Context, recordings: Recordings, id: string): OriginSession {
  return recordings.held(id)?.session ?? ctx.throw(404, 'there is no such recording; start another')
}

function apiRoutes(recordings: Recordings, relay: Relay): Router {
  const router = new Router({ prefix: '/api/recordings' })
  const json = bodyParser({ jsonLimit: '1mb', enableTypes: ['json'] })
  const placeOf = (ctx: Context, recording: Recording) => ({
    ...recording.standing,
    base: `http://${ctx.host}/recordings/${recording.id}`,
    events: `http://${ctx.host}/api/recordings/${recording.id}/events`,
    stream: `http://${ctx.host}/api/recordings/${recording.id}/stream`,
  })
  const idOf = (ctx: Context) => (ctx.params as { id: string }).id
  router.post('/', json, (ctx) => {
    const order = readBody(ctx, recordingBody)
    if (order.upstream !== 'origin') checkUpstream(ctx, order.upstream, relay)
    const recording = recordings.create(order)
    if (!recording) return ctx.throw(429, 'twenty recordings are under way; end one of them')
    ctx.status = 201
    ctx.body = placeOf(ctx, recording)
  })
  router.get('/', (ctx) => {
    ctx.body = { recordings: recordings.list().map((recording) => placeOf(ctx, recording)) }
  })
  router.get('/:id', async (ctx) => {
    ctx.body = placeOf(ctx, await recordings.of(ctx, idOf(ctx)))
  })
  router.post('/:id/events', async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    if (recording.endedMs !== null) return ctx.throw(410, 'this recording has ended')
    if (!recording.mayTake()) return ctx.throw(429, 'more than 200 batches in a second; put more events into each')
    const text = await textOf(ctx)
    const { taken, skipped } = recording.take(text)
    // The response is kept, whatever happens to the server then.
    await recordings.written()
    ctx.body = { clockMs: recording.nowMs(), taken, skipped }
  })
  router.post('/:id/mark', json, async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    if (recording.endedMs !== null) return ctx.throw(410, 'this recording has ended')
    recording.mark(readBody(ctx, markBody).text)
    ctx.body = recording.standing
  })
  router.post('/:id/let-go', json, async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    const { transfers } = readBody(ctx, letGoBody)
    ctx.body = { written: transfers.map((transfer) => recording.session.letGo(transfer)) }
  })
  router.post('/:id/end', async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    recording.end()
    await recordings.written()
    ctx.body = recording.standing
  })
  router.get('/:id/ledger', async (ctx) => {
    const { session } = await recordings.of(ctx, idOf(ctx))
    ctx.body = { responses: session.responses }
  })
  router.get('/:id/events.ndjson', async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    recording.collect()
    ctx.type = 'application/x-ndjson; charset=utf-8'
    ctx.set('Cache-Control', 'no-store')
    ctx.body = Readable.from(recording.ndjson())
  })
  router.get('/:id/stream', async (ctx) => {
    const recording = await recordings.of(ctx, idOf(ctx))
    ctx.respond = false
    await stream(ctx, recording)
  })
  return router
}

/** A host that the relay may not contact is refused before anything is recorded. */
function checkUpstream(ctx: Context, upstream: string, { rules }: Relay): void {
  if (rules.hosts.length === 0)
    ctx.throw(
      400,
      '/upstream: real hosts are asked only when they were named at start: TUG_RELAY_HOSTS=img.example.com npm start',
    )
  try {
    allowedUrl(upstream, rules)
  } catch (error) {
    if (error instanceof Refusal) ctx.throw(400, `/upstream: ${error.message}`)
    throw error
  }
}

/** Streams a recording as it grows: its state, and what is new since the client was last sent it. */
async function stream(ctx: Context, recording: Recording): Promise<void> {
  // Koa answers 404 unless the status is set.
  ctx.res.statusCode = 200
  const client = await createSession(ctx.req, ctx.res, {
    headers: Object.fromEntries(Object.entries(ctx.response.headers).map(([name, value]) => [name, String(value)])),
  })
  let at = Math.max(0, Math.floor(Number(client.lastId)) || 0)
  const sendEvents = () => {
    do {
      const events = recording.eventsFrom(at, mostAtOnce)
      at += events.length
      client.push({ ...recording.standing, events }, 'grow', String(at))
    } while (at < recording.lines.length)
  }
  sendEvents()
  let hasNew = false
  const forget = recording.onChange(() => (hasNew = true))
  const ticking = setInterval(() => {
    if (!hasNew || !client.isConnected) return
    hasNew = false
    sendEvents()
  }, streamMs)
  client.once('disconnected', () => {
    forget()
    clearInterval(ticking)
  })
}

/** The body of a request as text, up to the size of a batch. */
async function textOf(ctx: Context): Promise<string> {
  const parts: Buffer[] = []
  let bytes = 0
  for await (const part of ctx.req as AsyncIterable<Buffer>) {
    bytes += part.length
    if (bytes > mostOfBatch) return ctx.throw(413, `a batch has at most ${mostOfBatch} bytes; send it in several`)
    parts.push(part)
  }
  return Buffer.concat(parts).toString('utf8')
}
