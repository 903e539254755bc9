import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import type { Middleware } from 'koa'
import send from 'koa-send'

const year = 31_536_000_000

/** Serves the built app; every path that is no file is a view of the app. */
export function pages(folder: string, connectTo: () => readonly number[]): Middleware {
  const root = resolve(folder)
  return async (ctx) => {
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD') return ctx.throw(405, 'only GET')
    ctx.set('Content-Security-Policy', policy(connectTo()))
    ctx.set('Cross-Origin-Opener-Policy', 'same-origin')
    ctx.set('Cross-Origin-Embedder-Policy', 'require-corp')
    const isFile = /\.[a-z0-9]+$/i.test(ctx.path)
    if (!isFile && !existsSync(resolve(root, 'index.html')))
      return ctx.throw(503, 'the app is not built; run npm start')
    await send(ctx, isFile ? ctx.path : '/index.html', { root, maxage: ctx.path.startsWith('/assets/') ? year : 0 })
  }
}

function policy(ports: readonly number[]): string {
  const origins = ports.flatMap((port) => [`http://127.0.0.1:${port}`, `http://localhost:${port}`]).join(' ')
  return [
    "default-src 'self'",
    "script-src 'self'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    'media-src blob:',
    "font-src 'self'",
    `connect-src 'self' ${origins}`,
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; ')
}
