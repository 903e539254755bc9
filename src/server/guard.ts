import type { Middleware } from 'koa'
import { sessionLostHeader } from '../core/network/origin-headers.ts'

/** Pictures, feeds, responses of real hosts, and answers to the app's calls. */
const notTheApp = /^\/(origin|relay|recordings|api)(\/|$)/

/**
 * Only this machine's own pages may call: the Host header must name one of our ports, an Origin header the
 * app itself. Everything else gets 403, so that a foreign page cannot use the origin or the relay.
 */
export function guard(ports: () => { app: number; all: readonly number[] }): Middleware {
  let known = 0
  let hosts = new Set<string>()
  let origins = new Set<string>()
  return async (ctx, next) => {
    const { app, all } = ports()
    if (all.length !== known) {
      known = all.length
      hosts = new Set(all.flatMap((port) => [`127.0.0.1:${port}`, `localhost:${port}`]))
      origins = new Set([`http://127.0.0.1:${app}`, `http://localhost:${app}`])
    }
    const origin = ctx.get('origin')
    if (!hosts.has(ctx.get('host').toLowerCase()) || (origin !== '' && !origins.has(origin.toLowerCase()))) {
      ctx.status = 403
      ctx.body = { error: 'only the app itself may call this server' }
      return
    }
    ctx.set('X-Content-Type-Options', 'nosniff')
    ctx.set('Referrer-Policy', 'no-referrer')
    ctx.set('Cross-Origin-Resource-Policy', 'cross-origin')
    // Responses that are not the app itself are never a page of it: opened as one, it runs nothing and reaches nothing.
    if (notTheApp.test(ctx.path)) ctx.set('Content-Security-Policy', "sandbox; default-src 'none'")
    if (origin !== '') {
      ctx.set('Access-Control-Allow-Origin', origin)
      ctx.set('Access-Control-Expose-Headers', `ETag, Retry-After, Content-Length, Cache-Control, ${sessionLostHeader}`)
      ctx.vary('Origin')
    }
    if (ctx.method === 'OPTIONS') {
      ctx.set('Access-Control-Allow-Headers', 'If-None-Match, Content-Type, Authorization')
      ctx.set('Access-Control-Allow-Methods', 'GET, POST')
      ctx.set('Access-Control-Max-Age', '600')
      ctx.status = 204
      return
    }
    await next()
  }
}
