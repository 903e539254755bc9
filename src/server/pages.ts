import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import type { Middleware } from 'koa'
import send from 'koa-send'

const yearMs = 31_536_000_000

/**
 * The build's folder for the scripts of workers. The policy of a worker is that of its own response, also a year later.
 */
const workerPath = /^\/assets\/workers\//
/** The only one that contacts the extra ports, which need not be the same after each start. */
const fetchWorker = /^\/assets\/workers\/fetch-worker-/
/** The others compute, and contact nothing. */
const computesOnly = "default-src 'none'; script-src 'self'"

/**
 * Serves the built app; every path that names no file is a view of the app. What is cached for long carries nothing
 * that changes between two starts: the pages, and the worker whose policy names the extra ports, are revalidated at
 * each use (docs/decisions/020-policy-of-the-fetch-worker.md).
 */
export function pages(folder: string, extraPorts: () => readonly number[]): Middleware {
  const root = resolve(folder)
  return async (ctx) => {
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD') return ctx.throw(405, 'only GET')
    ctx.set('Cross-Origin-Opener-Policy', 'same-origin')
    ctx.set('Cross-Origin-Embedder-Policy', 'require-corp')
    const connects = fetchWorker.test(ctx.path)
    const isAsset = ctx.path.startsWith('/assets/')
    const isFile = isAsset || isFileOf(root, ctx.path)
    if (!isFile && !existsSync(resolve(root, 'index.html')))
      return ctx.throw(503, 'the app is not built; run npm start')
    if (connects) ctx.set('Content-Security-Policy', policy(extraPorts()))
    else if (workerPath.test(ctx.path)) ctx.set('Content-Security-Policy', computesOnly)
    else if (!isAsset) ctx.set('Content-Security-Policy', policy([]))
    const path = isFile ? ctx.path : '/index.html'
    const forLong = isAsset && !connects
    // The build puts compressed files beside the plain ones (scripts/set-up.mjs); koa-send sends one that the client
    // accepts.
    ctx.vary('Accept-Encoding')
    await send(ctx, path, {
      root,
      setHeaders: (res) => {
        res.setHeader('Cache-Control', forLong ? `public, max-age=${yearMs / 1000}, immutable` : 'no-cache')
      },
    })
  }
}

function isFileOf(root: string, path: string): boolean {
  let file: string
  try {
    file = resolve(root, `.${decodeURIComponent(path)}`)
  } catch {
    return false
  }
  return path.length > 1 && !path.endsWith('/') && file.startsWith(root) && existsSync(file)
}

/** Pictures come over the extra ports, and only workers fetch them. */
function policy(ports: readonly number[]): string {
  const origins = ports.flatMap((port) => [`http://127.0.0.1:${port}`, `http://localhost:${port}`])
  return [
    "default-src 'self'",
    "script-src 'self'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    'media-src blob:',
    "font-src 'self'",
    ["connect-src 'self'", ...origins].join(' '),
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; ')
}
