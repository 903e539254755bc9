import { version } from '../core/version.ts'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { bodyParser } from '@koa/bodyparser'
import Router from '@koa/router'
import Koa, { type Context } from 'koa'
import conditional from 'koa-conditional-get'
import etag from '@koa/etag'
import { pino, type Logger } from 'pino'
import { guard } from './guard.ts'
import { PictureFolder } from './origin/folder.ts'
import { originRoutes } from './origin/origin-routes.ts'
import { OriginSessions } from './origin/sessions.ts'
import { pages } from './pages.ts'
import { recordingRoutes } from './recordings/recording-routes.ts'
import { Recordings } from './recordings/recordings.ts'
import { resolveByDns } from './relay/relay-fetch.ts'
import { relayRoutes, relayTimeoutMs, type Relay } from './relay/relay-routes.ts'
import { letGoBody, readBody, renewBody, sessionBody } from './bodies.ts'

/** A browser opens six connections to a host; this many extra ports carry the most fetch slots that can be set. */
const extraPorts = 11
/** Extra ports are taken from this number on where they are free, the same ones for the same port of the app. */
const extraFrom = 20_000
const extraBlocks = 1000
/** The error of a compressed body that is not one. */
const brokenBody = /^(Z_|ERR__ERROR_FORMAT)/
/** The error of a response whose client goes away. */
const clientLeft = new Set(['ECONNRESET', 'EPIPE', 'ERR_STREAM_PREMATURE_CLOSE'])

export interface ServerOptions {
  port: number
  /** The built app. */
  dist: string
  /** A folder of the user's own pictures. */
  pictures: string | null
  log?: Logger
  /** Real hosts that the relay may contact; by default it is off. */
  relay?: Relay
  /** Where recordings are kept, so that they outlive the server; null: only in memory. */
  recordings?: string | null
  /** Where the extra origin ports should be; one that is taken is replaced by any free one. */
  extraPorts?: readonly number[]
}

export interface RunningServer {
  port: number
  address: string
  folder: { count: number; skipped: string[] } | null
  close(): Promise<void>
}

/** Starts the server on 127.0.0.1: the app, the origin, and the extra origin ports. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const log = options.log ?? pino({ level: 'warn' }, pino.destination(2))
  const sessions = new OriginSessions()
  const folder = options.pictures === null ? null : new PictureFolder(options.pictures)
  const found = folder ? await folder.open() : null
  const ports = { app: 0, all: [] as number[] }
  const extra = () => ports.all.filter((port) => port !== ports.app)

  const app = new Koa()
  app.on('error', (error: NodeJS.ErrnoException) => {
    // A client that goes away while it is answered is not an error of ours: a cancelled request does just that.
    if (!clientLeft.has(error.code ?? '')) log.error(error)
  })
  app.use(async (ctx, next) => {
    try {
      await next()
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException
      if (brokenBody.test(code ?? '')) {
        ctx.status = 400
        ctx.body = { error: 'the body is not what its Content-Encoding says' }
        return
      }
      const { status = 500, expose = false, message } = error as { status?: number; expose?: boolean; message: string }
      if (status >= 500 && !expose) log.error(error)
      if (ctx.headerSent) return
      ctx.status = status
      ctx.body = { error: expose || status < 500 ? message : 'the server has failed; its log says more' }
    }
  })
  app.use(guard(() => ports))
  const relay = options.relay ?? {
    rules: { hosts: [], loopback: false },
    resolve: resolveByDns,
    timeoutMs: relayTimeoutMs,
  }
  const api = apiRoutes({ sessions, extra, pictures: found?.count ?? null, relayHosts: relay.rules.hosts })
  const origin = originRoutes(sessions, folder)
  const recordings = new Recordings(options.recordings ?? null)
  const recorded = recordingRoutes(recordings, { folder, relay })
  app.use(origin.routes())
  app.use(recorded.base.routes())
  app.use(recorded.api.routes())
  app.use(relayRoutes(sessions, relay).routes())
  app.use(bodyParser({ jsonLimit: '1mb', enableTypes: ['json'] }))
  app.use(api.routes())
  app.use(async (ctx, next) => {
    if (/^\/(relay|origin|recordings)\//.test(ctx.path)) return ctx.throw(404, `there is nothing at ${ctx.path}`)
    await next()
  })
  app.use(conditional())
  app.use(etag())
  app.use(pages(options.dist, extra))

  const handle = app.callback()
  const servers: Server[] = []
  ports.app = await listen(servers, handle, options.port)
  ports.all.push(ports.app)
  for (const wanted of options.extraPorts ?? usualPorts(ports.app))
    ports.all.push(await listenNear(servers, handle, wanted))
  return {
    port: ports.app,
    address: `http://127.0.0.1:${ports.app}/`,
    folder: found,
    async close() {
      sessions.closeAll()
      await Promise.all(
        servers.map(
          (server) =>
            new Promise((resolve) => {
              server.close(resolve)
              server.closeAllConnections()
            }),
        ),
      )
      await recordings.close()
    },
  }
}

interface ApiParts {
  sessions: OriginSessions
  extra: () => readonly number[]
  pictures: number | null
  relayHosts: readonly string[]
}

function apiRoutes({ sessions, extra, pictures, relayHosts }: ApiParts): Router {
  const router = new Router({ prefix: '/api' })
  const placeOf = (ctx: Context, { id }: { id: string }) => ({
    id,
    base: `http://${ctx.host}/origin/${id}`,
    bases: extra().map((port) => `http://${ctx.hostname}:${port}/origin/${id}`),
    relay: relayHosts,
  })
  router.get('/health', (ctx) => {
    ctx.body = { ok: true, version }
  })
  router.get('/origin/folder', (ctx) => {
    ctx.body = { pictures }
  })
  router.post('/origin/sessions', (ctx) => {
    const { network, seed, headers, lasting } = readBody(ctx, sessionBody)
    const session = sessions.create(network, seed, headers, lasting)
    if (!session) return ctx.throw(429, 'a hundred origin sessions are in use; try again when one is idle')
    ctx.status = 201
    ctx.body = placeOf(ctx, session)
  })
  router.get('/origin/sessions/:id', (ctx) => {
    ctx.body = placeOf(ctx, sessions.of(ctx, ctx.params.id!))
  })
  router.delete('/origin/sessions/:id', (ctx) => {
    sessions.close(ctx.params.id!)
    ctx.status = 204
  })
  router.get('/origin/sessions/:id/ledger', (ctx) => {
    const session = sessions.of(ctx, ctx.params.id!)
    ctx.body = { responses: session.responses }
  })
  router.post('/origin/sessions/:id/let-go', (ctx) => {
    const session = sessions.of(ctx, ctx.params.id!)
    const { transfers } = readBody(ctx, letGoBody)
    ctx.body = { written: transfers.map((transfer) => session.letGo(transfer)) }
  })
  router.post('/origin/sessions/:id/renew', async (ctx) => {
    const session = sessions.of(ctx, ctx.params.id!)
    const { host, headers } = readBody(ctx, renewBody)
    ctx.body = { renewed: await session.renew(host, headers) }
  })
  router.all('/{*rest}', (ctx) => ctx.throw(404, `there is nothing at ${ctx.path}`))
  return router
}

/**
 * The extra ports of an app's port: the same after each start, so that what an open tab knows stays true. Nothing
 * depends on it (docs/decisions/020-policy-of-the-fetch-worker.md).
 */
function usualPorts(app: number): number[] {
  const from = extraFrom + (app % extraBlocks) * extraPorts
  return Array.from({ length: extraPorts }, (_, i) => from + i)
}

async function listenNear(servers: Server[], handle: ReturnType<Koa['callback']>, port: number): Promise<number> {
  try {
    return await listen(servers, handle, port)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE') throw error
    return listen(servers, handle, 0)
  }
}

/**
 * How many connections wait while this process is busy. A list that flies past cuts hundreds of requests a second, each
 * with its connection; one for which there is no room is not refused, but retried by the system after a second, then
 * two, then four: the pictures of a whole drive came ten seconds late.
 */
const waitingConnections = 4096

function listen(servers: Server[], handle: ReturnType<Koa['callback']>, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = createServer({ keepAliveTimeout: 65_000 }, (req, res) => void handle(req, res))
    server.on('error', reject)
    server.listen({ port, host: '127.0.0.1', backlog: waitingConnections }, () => {
      servers.push(server)
      resolve((server.address() as AddressInfo).port)
    })
  })
}
