import Router from '@koa/router'
import type { Context } from 'koa'
import { LRUCache } from 'lru-cache'
import { isMadeUp, madeUpFeeds, madeUpPage } from '../../core/feed/made-up.ts'
import { archiveBase, readTile, type TileAddress } from '../../core/feed/tiles.ts'
import { flowOf, emptyReply, plainReply, type Reply } from '../../core/network/reply.ts'
import { hashText } from '../../core/numbers/draw.ts'
import type { PictureFolder } from './folder.ts'
import { sendPaced, type PacedBody } from './send-paced.ts'
import type { OriginSession } from './session.ts'
import type { OriginSessions } from './sessions.ts'
import { tilePicture } from './tile-pictures.ts'
import { readTransfer } from './transfer-name.ts'

const host = new URL(archiveBase).host
const noHints = { bytes: null, widthPx: null, heightPx: null }
/** The reply for an address that the origin does not have. */
const nothingThere = plainReply(`${archiveBase}nothing`, noHints, null, null)

/** Serves the made-up archive: pictures, feeds and the user's own folder, each within a session. */
export function originRoutes(sessions: OriginSessions, folder: PictureFolder | null): Router {
  return archiveRoutes('/origin', (ctx, id) => sessions.of(ctx, id), folder)
}

/** The same under another path, within sessions that are found another way. */
export function archiveRoutes(
  path: string,
  find: (ctx: Context, id: string) => OriginSession,
  folder: PictureFolder | null,
): Router {
  const router = new Router({ prefix: `${path}/:session` })
  const within = (serve: (ctx: Context, session: OriginSession) => Promise<void>) => async (ctx: Context) => {
    await serve(ctx, find(ctx, readTransfer((ctx.params as { session: string }).session).id))
  }
  router.get('/tiles/:n', within(sendTile))
  router.get(
    '/pictures/:name',
    within((ctx, session) => sendOwn(ctx, session, folder)),
  )
  router.get(
    '/feeds/:name',
    within((ctx, session) => sendFeed(ctx, session, folder)),
  )
  router.get(
    '/{*rest}',
    within((ctx, session) => sendReply(ctx, session, nothingThere, Buffer.alloc(0))),
  )
  return router
}

const wholeAddress = (ctx: Context) => ctx.href.replace(/~\d+(?=\/)/, '')

/** The address as the core knows it, whatever port it came over. */
const symbolic = (ctx: Context) => archiveBase + ctx.path.split('/').slice(3).join('/') + ctx.search

async function sendTile(ctx: Context, session: OriginSession): Promise<void> {
  const etag = ctx.get('if-none-match') || null
  const { reply, tile } = tileAt(symbolic(ctx), `tiles/${(ctx.params as { n: string }).n}`, ctx.querystring, etag)
  const wanted = () => !ctx.res.destroyed
  await sendReply(ctx, session, reply, tile && reply.status === 200 ? tilePicture(tile, wanted) : Buffer.alloc(0))
}

const known = new LRUCache<string, { reply: Reply; tile: TileAddress | null }>({ max: 20_000 })

/** The plain reply for a tile's address; the same address is requested again and again. */
function tileAt(
  address: string,
  path: string,
  query: string,
  etag: string | null,
): { reply: Reply; tile: TileAddress | null } {
  const found = etag === null ? known.get(address) : undefined
  if (found) return found
  const made = { reply: plainReply(address, noHints, etag, null), tile: readTile(path, query) }
  if (etag === null) known.set(address, made)
  return made
}

async function sendOwn(ctx: Context, session: OriginSession, folder: PictureFolder | null): Promise<void> {
  const { name } = ctx.params as { name: string }
  if (!folder?.has(name)) return sendReply(ctx, session, nothingThere, Buffer.alloc(0))
  const picture = await folder.picture(name, new URLSearchParams(ctx.querystring))
  if (!picture) return sendReply(ctx, session, nothingThere, Buffer.alloc(0))
  const etag = `"${hashText(name + ctx.querystring).toString(16)}-${picture.bytes.length}"`
  const fresh = ctx.get('if-none-match') === etag
  const headers = { 'cache-control': 'public, max-age=86400', etag }
  const reply: Reply = {
    status: fresh ? 304 : 200,
    type: picture.type,
    bytes: fresh ? 0 : picture.bytes.length,
    headers,
    width: 0,
    height: 0,
    codec: 'jpeg',
    fault: null,
  }
  await sendReply(ctx, session, reply, fresh ? Buffer.alloc(0) : picture.bytes)
}

async function sendFeed(ctx: Context, session: OriginSession, folder: PictureFolder | null): Promise<void> {
  const { name } = ctx.params as { name: string }
  const page = ctx.query.page === undefined ? 1 : Number(ctx.query.page)
  if (name === 'folder' && !folder)
    return ctx.throw(404, 'no folder of pictures was named at start; start with TUG_PICTURES=some/folder npm start')
  if (name !== 'folder' && !isMadeUp(name))
    return ctx.throw(404, `there is no feed "${name}"; there are ${Object.keys(madeUpFeeds).join(', ')} and folder`)
  const found = isMadeUp(name) ? madeUpPage(name, page) : folder!.page(page)
  if (!found)
    return ctx.throw(404, `the feed "${name}" has no page ${String(ctx.query.page)}; pages are counted from 1`)
  const body = Buffer.from(JSON.stringify(found))
  const plain: Reply = {
    ...emptyReply(200),
    type: 'application/json; charset=utf-8',
    bytes: body.length,
    headers: { 'cache-control': 'no-store' },
  }
  await sendReply(ctx, session, plain, body)
}

/** Plays a reply, with the fault that strikes it, on the wire. */
async function sendReply(
  ctx: Context,
  session: OriginSession,
  plain: Reply,
  picture: PacedBody['body'],
): Promise<void> {
  const reply = session.spoil(symbolic(ctx), session.refuses(host) && isPicture(plain) ? emptyReply(401) : plain)
  const kind = reply.fault?.kind
  const flow = flowOf(reply)
  // A fault has a body of its own; what is sent whole is the picture, or the page of a feed.
  const isMistake = reply.status !== 200 && reply.status !== 304
  const filled =
    isMistake || kind === 'broken' || kind === 'huge'
      ? Buffer.alloc(Math.min(reply.bytes, 64_000_000), isMistake ? ' ' : 'x')
      : picture
  const body = kind === 'empty' ? Buffer.alloc(0) : filled
  const redirect = kind === 'redirect-loop'
  ctx.respond = false
  await sendPaced(session, ctx.res, {
    address: wholeAddress(ctx),
    transfer: readTransfer((ctx.params as { session: string }).session).transfer,
    host,
    status: redirect ? 302 : reply.status,
    headers: replyHeaders(ctx, {
      ...reply.headers,
      ...(reply.type ? { 'content-type': reply.type } : {}),
      ...(redirect ? { location: ctx.href } : {}),
    }),
    flow,
    declared: reply.status === 304 ? null : reply.bytes,
    body: redirect ? Buffer.alloc(0) : body,
    breakOff: kind === 'truncate',
  })
}

/** Headers with secrets apply to pictures: the archive's feeds are for everyone. */
const isPicture = ({ type }: Reply) => !type.startsWith('application/json')

/** Headers that the guard has set on the context are sent with a raw response too. */
function replyHeaders(ctx: Context, own: Record<string, string>): Record<string, string> {
  const set = ctx.response.headers as Record<string, string>
  return { ...set, ...own }
}
