import { lookup as dnsLookup } from 'node:dns/promises'
import { request as httpRequest, type IncomingMessage } from 'node:http'
import { request as httpsRequest } from 'node:https'
import { isIP } from 'node:net'
import { brotliDecompressSync, gunzipSync, inflateSync } from 'node:zlib'
import { hostMatches } from '../../core/loading/hosts.ts'
import { maxAssetBytes } from '../../core/loading/rendition.ts'
import { allowedUrl, checkAddress, Refusal, type RelayRules } from './relay-rules.ts'

/** A header that is sent to hosts of one pattern and to no other; its value is a secret. */
export interface SecretHeader {
  host: string
  name: string
  value: string
}

export interface RelayReply {
  status: number
  type: string
  headers: Record<string, string>
  /** Whether the host sent a Content-Length; if it did not, the client gets none either. */
  hasLength: boolean
  body: Buffer
}

/** All addresses of a host name. */
export type Resolve = (host: string) => Promise<string[]>

export interface RelayOrder {
  url: string
  rules: RelayRules
  secrets: readonly SecretHeader[]
  etag: string | null
  resolve: Resolve
  timeoutMs: number
}

const mostRedirects = 5
/**
 * What the relay passes on: pictures, and texts that a feed may be. SVG and texts are served so that no page can run
 * them.
 */
const allowedTypes =
  /^(image\/(jpeg|png|webp|avif|gif|svg\+xml|apng)|application\/(json|[a-z0-9.+-]+\+json|x-ndjson)|text\/(csv|plain|json|tab-separated-values))$/
const passedOn = ['etag', 'cache-control', 'expires', 'last-modified', 'age', 'date', 'retry-after', 'vary']

export const resolveByDns: Resolve = async (host) =>
  (await dnsLookup(host, { all: true, verbatim: true })).map(({ address }) => address)

/** Requests an address of a real host by the relay's rules; every redirect is checked as the first address was. */
export async function askThroughRelay(order: RelayOrder): Promise<RelayReply> {
  const signal = AbortSignal.timeout(order.timeoutMs)
  let url = allowedUrl(order.url, order.rules)
  for (let hop = 0; hop <= mostRedirects; hop++) {
    const reply = await askOnce(url, order, signal)
    const { statusCode = 502, headers } = reply
    if (![301, 302, 303, 307, 308].includes(statusCode) || headers.location === undefined)
      return readReply(reply, signal)
    reply.destroy()
    let next: string
    try {
      next = new URL(headers.location, url).href
    } catch {
      throw new Refusal(502, `${url.host} redirects to "${headers.location.slice(0, 200)}", which is not an address`)
    }
    url = allowedUrl(next, order.rules)
  }
  throw new Refusal(502, `more than ${mostRedirects} redirects, the last to ${url.host}`)
}

/** One exchange with an address that was resolved once, checked, and is then used as checked. */
async function askOnce(
  url: URL,
  { rules, secrets, etag, resolve }: RelayOrder,
  signal: AbortSignal,
): Promise<IncomingMessage> {
  const address = await onlyAddress(url, rules, resolve)
  const family = isIP(address)
  const own = Object.fromEntries(
    secrets.filter(({ host }) => hostMatches(host, url.host)).map(({ name, value }) => [name, value]),
  )
  const ask = url.protocol === 'https:' ? httpsRequest : httpRequest
  return new Promise((done, failed) => {
    const request = ask(url, {
      method: 'GET',
      agent: false,
      signal,
      headers: {
        accept: '*/*',
        'accept-encoding': 'identity',
        ...(etag === null ? {} : { 'if-none-match': etag }),
        ...own,
      },
      // The name is never looked up again: what was checked is what is asked.
      lookup: (_host, options, reply) =>
        options.all ? reply(null, [{ address, family }]) : reply(null, address, family),
    })
    request.on('response', done)
    request.on('error', (error) => failed(asRefusal(error, url.host, signal)))
    request.end()
  })
}

async function onlyAddress(url: URL, rules: RelayRules, resolve: Resolve): Promise<string> {
  const host = url.hostname.replace(/^\[|\]$/g, '')
  let all: string[]
  try {
    all = isIP(host) ? [host] : await resolve(host)
  } catch {
    throw new Refusal(502, `the name ${host} does not resolve`)
  }
  if (all.length === 0) throw new Refusal(502, `the name ${host} does not resolve`)
  for (const address of all) checkAddress(address, rules)
  return all[0]!
}

async function readReply(reply: IncomingMessage, signal: AbortSignal): Promise<RelayReply> {
  const { statusCode: status = 502, headers } = reply
  const type = (headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase()
  const passed = Object.fromEntries(
    passedOn.flatMap((name) => (typeof headers[name] === 'string' ? [[name, headers[name]]] : [])),
  )
  if (status !== 200) {
    reply.destroy()
    return { status, type: '', headers: passed, hasLength: true, body: Buffer.alloc(0) }
  }
  if (!allowedTypes.test(type)) {
    reply.destroy()
    throw new Refusal(415, `the answer is ${type === '' ? 'of no type' : type}; the relay passes on pictures and feeds`)
  }
  const tooLarge = () => new Refusal(413, `the answer is larger than ${maxAssetBytes / 1024 / 1024} MiB`)
  const parts: Buffer[] = []
  let bytes = 0
  try {
    for await (const part of reply as AsyncIterable<Buffer>) {
      bytes += part.length
      if (bytes > maxAssetBytes) throw tooLarge()
      parts.push(part)
    }
  } catch (error) {
    reply.destroy()
    throw error instanceof Refusal ? error : asRefusal(error as Error, 'the host', signal)
  }
  const hasLength = headers['content-length'] !== undefined
  return {
    status,
    type,
    headers: passed,
    hasLength,
    body: expand(Buffer.concat(parts), headers['content-encoding'] ?? 'identity', tooLarge),
  }
}

/** Undoes an encoding that the host applied though it was asked not to. */
function expand(body: Buffer, encoding: string, tooLarge: () => Refusal): Buffer {
  const undo = { gzip: gunzipSync, deflate: inflateSync, br: brotliDecompressSync }[encoding]
  if (encoding === 'identity') return body
  if (!undo) throw new Refusal(502, `the answer is encoded as ${encoding}, which the relay does not read`)
  try {
    return undo(body, { maxOutputLength: maxAssetBytes })
  } catch (error) {
    throw (error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE'
      ? tooLarge()
      : new Refusal(502, `the answer says it is ${encoding}, but is not`)
  }
}

function asRefusal(error: Error, host: string, signal: AbortSignal): Refusal {
  if (signal.aborted) return new Refusal(504, `${host} did not answer in time`)
  return new Refusal(502, `${host} could not be asked: ${(error as NodeJS.ErrnoException).code ?? error.message}`)
}
