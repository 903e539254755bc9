import { spawnSync } from 'node:child_process'
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { get, request, type IncomingHttpHeaders } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brotliDecompressSync, gunzipSync } from 'node:zlib'
import { pino } from 'pino'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { compress } from '../../scripts/set-up.mjs'
import { codecs, tileBytes } from '../../src/core/feed/tiles.ts'
import { startServer, type RunningServer } from '../../src/server/server.ts'
import { readStamp } from '../support/stamp.ts'

const quick = { rttMs: 0, jitterMs: 0, thinkMs: 0, setupRtts: 0, slowStart: false, downKbps: 10_000_000 }
let server: RunningServer
let folder: string

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'tug-'))
  await sharp({ create: { width: 800, height: 600, channels: 3, background: '#336699' } })
    .jpeg()
    .toFile(join(folder, 'sea.jpg'))
  await writeFile(join(folder, 'broken.png'), 'no picture')
  await writeFile(join(folder, 'secret.txt'), 'secret')
  await writeFile(
    join(folder, 'drawn.svg'),
    '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>1</script></svg>',
  )
  const plain = sharp({ create: { width: 400, height: 300, channels: 3, background: '#993366' } })
  for (const [ending, format] of [
    ['jpg', 'jpeg'],
    ['png', 'png'],
    ['webp', 'webp'],
    ['gif', 'gif'],
  ] as const) {
    const whole = await plain.toFormat(format).toBuffer()
    await writeFile(join(folder, `cut.${ending}`), whole.subarray(0, Math.floor(whole.length * 0.7)))
  }
  // A built app as small as can be: the tests of this folder run before anything is built.
  const dist = join(folder, 'dist')
  await mkdir(join(dist, 'assets'), { recursive: true })
  await writeFile(join(dist, 'assets', 'app.js'), 'export const kiln = 1200\n'.repeat(100))
  await writeFile(join(dist, 'index.html'), '<script type="module" src="/assets/app.js"></script>')
  compress(dist)
  server = await startServer({ port: 0, dist, pictures: folder, log: pino({ level: 'silent' }) })
})
afterAll(async () => {
  await server.close()
  await rm(folder, { recursive: true })
})

interface Session {
  id: string
  base: string
  bases: string[]
}

async function open(network: object, seed = 1): Promise<Session> {
  const reply = await fetch(`${server.address}api/origin/sessions`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ network, seed }),
  })
  expect(reply.status).toBe(201)
  return (await reply.json()) as Session
}

const ledgerOf = async (session: Session) => {
  const reply = await fetch(`${server.address}api/origin/sessions/${session.id}/ledger`)
  return (
    (await reply.json()) as {
      responses: {
        address: string
        status: number
        bodyBytes: number
        aborted: boolean
        startMs: number
        endMs: number
      }[]
    }
  ).responses
}

/** A request with headers that fetch would not send. */
function raw(path: string, headers: Record<string, string>): Promise<number> {
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port: server.port, path, headers }, (reply) => resolve(reply.resume().statusCode!))
      .on('error', reject)
      .end()
  })
}

describe('what is not the app itself', () => {
  it('is never a document of the app’s origin: every body is sandboxed, the user’s own pictures too', async () => {
    const { base, id } = await open(quick)
    const paths = ['tiles/1?width=8', 'pictures/drawn.svg', 'feeds/wall', 'feeds/nobody', 'nothing']
    const addresses = [
      ...paths.map((path) => `${base}/${path}`),
      `${server.address}relay/${id}?u=x`,
      `${server.address}api/health`,
      `${server.address}origin/nobody/tiles/1`,
    ]
    for (const address of addresses) {
      const reply = await fetch(address)
      expect([address, reply.headers.get('content-security-policy')]).toEqual([address, "sandbox; default-src 'none'"])
      expect(reply.headers.get('x-content-type-options')).toBe('nosniff')
    }
    expect((await fetch(`${base}/pictures/drawn.svg`)).headers.get('content-type')).toBe('image/svg+xml')
  })

  it('and pages are revalidated, with a policy that names no port but their own; scripts are cached for long and have none', async () => {
    const page = await fetch(server.address)
    const policy = page.headers.get('content-security-policy')!
    expect(page.headers.get('cache-control')).toBe('no-cache')
    expect(policy).toContain("connect-src 'self';")
    const script = /src="(\/assets\/[^"]+)"/.exec(await page.text())?.[1]
    const reply = await fetch(new URL(script!, server.address))
    expect([reply.headers.get('cache-control'), reply.headers.get('content-security-policy')]).toEqual([
      'public, max-age=31536000, immutable',
      null,
    ])
    expect((await fetch(`${server.address}profile/7/1.5`)).status).toBe(200)
    expect((await fetch(`${server.address}assets/nothing.js`)).status).toBe(404)
  })

  it('comes compressed to whoever takes that, the same bytes, and not at all a second time', async () => {
    const script = new URL('/assets/app.js', server.address)
    const ask = (headers: Record<string, string>) =>
      new Promise<{ status: number; headers: IncomingHttpHeaders; body: Buffer }>((resolve, reject) => {
        get(script, { headers }, (reply) => {
          const parts: Buffer[] = []
          reply.on('data', (part: Buffer) => parts.push(part))
          reply.on('end', () =>
            resolve({ status: reply.statusCode!, headers: reply.headers, body: Buffer.concat(parts) }),
          )
        }).on('error', reject)
      })
    const plain = await ask({ 'accept-encoding': 'identity' })
    expect([plain.status, plain.headers['content-encoding'], plain.headers.vary]).toEqual([
      200,
      undefined,
      'Accept-Encoding',
    ])
    for (const [coding, open] of [['br', brotliDecompressSync] as const, ['gzip', gunzipSync] as const]) {
      const { headers, body } = await ask({ 'accept-encoding': coding })
      expect([headers['content-encoding'], headers['content-type']]).toEqual([coding, plain.headers['content-type']])
      expect(body.length).toBeLessThan(plain.body.length)
      expect(open(body).equals(plain.body)).toBe(true)
      const again = await ask({ 'accept-encoding': coding, 'if-none-match': headers.etag! })
      expect([again.status, again.body.length]).toEqual([304, 0])
    }
  })

  it('answers a broken body and a page that is no number as mistakes of the client', async () => {
    const broken = await fetch(`${server.address}api/origin/sessions`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' },
      body: '{"seed":1}',
    })
    expect(broken.status).toBe(400)
    const { base } = await open(quick)
    for (const page of ['abc', '0', '1.5']) expect((await fetch(`${base}/feeds/folder?page=${page}`)).status).toBe(404)
  })

  it('leaves out files that end before their end, and says so at start', () => {
    expect(server.folder!.skipped.sort()).toEqual(['broken.png', 'cut.gif', 'cut.jpg', 'cut.png', 'cut.webp'])
  })
})

describe('faults of a link that is not paced', () => {
  it('stall, drip and say nothing all the same', async () => {
    const fault = (kind: string, more = {}) => open({ ...quick, faults: [{ match: '*', kind, ...more }] })
    for (const [kind, more, most] of [
      ['timeout', {}, 0],
      ['stall', { afterBytes: 100 }, 100],
      ['drip', {}, 2000],
    ] as const) {
      const { base } = await fault(kind, more)
      const abort = new AbortController()
      let bytes = 0
      const reading = fetch(`${base}/tiles/1?width=300&height=300`, { signal: abort.signal })
        .then(async (reply) => {
          for await (const part of reply.body!) bytes += part.length
          return 'whole'
        })
        .catch(() => 'aborted')
      // It is let go when another session has answered whole: time enough for this one, were it not faulty.
      const other = await open(quick)
      await (await fetch(`${other.base}/tiles/2?width=300&height=300`)).arrayBuffer()
      abort.abort()
      expect([kind, await reading]).toEqual([kind, 'aborted'])
      expect(bytes).toBeLessThanOrEqual(most)
    }
  })
})

describe('the origin', () => {
  it('draws each tile in each encoding to exactly tileBytes, the same each time', async () => {
    const { base } = await open(quick)
    for (const as of codecs)
      for (const [width, height] of [
        [16, 16],
        [90, 41],
        [326, 326],
        [640, 300],
      ] as const) {
        const address = `${base}/tiles/417?width=${width}&height=${height}&as=${as}`
        const reply = await fetch(address)
        const bytes = Buffer.from(await reply.arrayBuffer())
        expect([reply.status, reply.headers.get('content-type'), bytes.length]).toEqual([
          200,
          `image/${as}`,
          tileBytes(417, width, height, as),
        ])
        expect(reply.headers.get('content-length')).toBe(String(bytes.length))
        const { width: w, height: h } = await sharp(bytes).metadata()
        expect([w, h]).toEqual([width, height])
        expect(Buffer.from(await (await fetch(address)).arrayBuffer()).equals(bytes)).toBe(true)
      }
  })

  it('refuses what it issued too long ago, and whoever has no secret; a renewal fixes the former, over the paced link', async () => {
    const post = async (path: string, body: object) => {
      const reply = await fetch(`${server.address}api/origin/${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
      return {
        status: reply.status,
        body: (await reply.json()) as { id: string; base: string; renewed: boolean; error: string },
      }
    }
    const secret = { host: '*.example.test', name: 'Authorization', value: 'Bearer clay' }
    const lasting = [{ host: 'archive.example.test', lastsS: 0.1 }]
    const [bare, known] = [
      (await post('sessions', { network: quick, lasting })).body,
      (await post('sessions', { network: { ...quick, rttMs: 80 }, lasting, headers: [secret] })).body,
    ]
    const tile = async ({ base }: { base: string }, n: number) =>
      (await fetch(`${base}/tiles/${n}?width=20&height=20`)).status
    expect(await tile(bare, 1)).toBe(401)
    await expect.poll(() => tile(known, 2)).toBe(401)
    const begun = performance.now()
    expect(
      (await post(`sessions/${known.id}/renew`, { host: 'archive.example.test', headers: [secret] })).body.renewed,
    ).toBe(true)
    expect(performance.now() - begun).toBeGreaterThan(70)
    // There is still no secret for the other one: there is nothing to renew.
    expect((await post(`sessions/${bare.id}/renew`, { host: 'archive.example.test', headers: [] })).body.renewed).toBe(
      false,
    )
    // A host that the session does not mention is never refused.
    const other = (await post('sessions', { network: quick, lasting: [{ host: 'elsewhere.test', lastsS: 0.1 }] })).body
    expect(await tile(other, 3)).toBe(200)
    expect(await post('sessions', { lasting: [{ host: 'a.test', lastsS: -1 }] })).toMatchObject({
      status: 400,
      body: { error: expect.stringContaining('/lasting/0/lastsS: ') as string },
    })
    expect((await post(`sessions/${known.id}/renew`, { host: 5 })).status).toBe(400)
    expect((await post('sessions/none/renew', { host: 'a.test' })).status).toBe(404)
  })

  it('meets a fault only in its time', async () => {
    const { base } = await open({
      ...quick,
      faults: [{ match: '*', kind: 'status', status: 503, fromMs: 150, toMs: 400 }],
    })
    const status = async () => (await fetch(`${base}/tiles/5?width=20&height=20`)).status
    expect(await status()).toBe(200)
    await expect.poll(status, { interval: 20 }).toBe(503)
    await expect.poll(status, { interval: 20 }).toBe(200)
  })

  it('draws moving tiles, to exactly their bytes too, and posters with their mark', async () => {
    const { base } = await open(quick)
    const bytes = Buffer.from(await (await fetch(`${base}/tiles/417?width=120&height=80&frames=6`)).arrayBuffer())
    expect(bytes.length).toBe(tileBytes(417, 120, 80, 'webp', 6))
    const { pages, delay, width, pageHeight } = await sharp(bytes, { pages: -1 }).metadata()
    expect([pages, width, pageHeight, new Set(delay)]).toEqual([6, 120, 80, new Set([100])])
    const frame = async (page: number) => sharp(bytes, { page }).raw().toBuffer()
    expect((await frame(0)).equals(await frame(3))).toBe(false)
    expect((await fetch(`${base}/tiles/417?as=jpeg&frames=6`)).status).toBe(404)
    const middle = async (query: string) => [
      ...(await sharp(
        Buffer.from(await (await fetch(`${base}/tiles/417?width=120&height=120&as=png${query}`)).arrayBuffer()),
      )
        .extract({ left: 58, top: 60, width: 1, height: 1 })
        .removeAlpha()
        .raw()
        .toBuffer()),
    ]
    expect((await middle('&poster=1')).every((value) => value > 230)).toBe(true)
    expect(await middle('')).not.toEqual(await middle('&poster=1'))
  })

  it('stamps the number of a tile into its pixels', async () => {
    const { base } = await open(quick)
    for (const [n, as] of [
      [0, 'png'],
      [417, 'webp'],
      [11_259_375, 'jpeg'],
    ] as const) {
      const bytes = Buffer.from(
        await (await fetch(`${base}/tiles/${n}?width=300&height=200&as=${as}&stamp=1`)).arrayBuffer(),
      )
      const { data, info } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true })
      expect(readStamp(data, info.width, info.height, 3)).toBe(n)
    }
  })

  it('answers a conditional request with 304 and no byte, and a wrong one with its status', async () => {
    const session = await open(quick)
    const { base } = session
    const first = await fetch(`${base}/tiles/5?width=64`)
    expect(first.headers.get('cache-control')).toMatch(/max-age=\d+/)
    const again = await fetch(`${base}/tiles/5?width=64`, { headers: { 'if-none-match': first.headers.get('etag')! } })
    expect([again.status, (await again.arrayBuffer()).byteLength]).toEqual([304, 0])
    for (const path of [
      'tiles/lost-7',
      'tiles/5?as=gif',
      'tiles/99999999',
      'nothing',
      'feeds/nothing',
      'feeds/wall?page=99',
      'pictures/none.jpg',
    ])
      expect([path, (await fetch(`${base}/${path}`)).status]).toEqual([path, 404])
  })

  it('paces what it sends by the model, and says in the ledger what it wrote', async () => {
    const session = await open({ ...quick, rttMs: 60, thinkMs: 20, setupRtts: 1, downKbps: 4000, protocol: 'h2' })
    const address = `${session.bases[0]}/tiles/7?width=400&height=400`
    await (await fetch(address)).arrayBuffer()
    const start = performance.now()
    const bytes = (await (await fetch(address)).arrayBuffer()).byteLength
    const ms = performance.now() - start
    const expected = 60 + 20 + (bytes * 8) / 4000
    expect(ms).toBeGreaterThan(expected - 2)
    const [, second] = await ledgerOf(session)
    expect(second).toMatchObject({ status: 200, bodyBytes: bytes, aborted: false })
    expect(second!.address).toContain('/tiles/7?width=400&height=400')
  })

  it('stops writing when the client goes away', async () => {
    const session = await open({ ...quick, downKbps: 200 })
    const abort = new AbortController()
    const reply = await fetch(`${session.bases[1]}/tiles/8?width=1200&height=1200`, { signal: abort.signal })
    const reader = reply.body!.getReader()
    let received = 0
    while (received < 10_000) received += (await reader.read()).value!.length
    abort.abort()
    await expect.poll(async () => (await ledgerOf(session))[0]!.aborted).toBe(true)
    const before = (await ledgerOf(session))[0]!.bodyBytes
    // How many are on their way depends on the machine; the whole would take many seconds.
    expect(before).toBeLessThan(Number(reply.headers.get('content-length')))
    await (await fetch(`${session.bases[2]}/tiles/9?width=32`)).arrayBuffer()
    expect((await ledgerOf(session))[0]!.bodyBytes).toBe(before)
  })

  it('stops writing a transfer that its client lets go by number, and says how far it had come', async () => {
    const session = await open({ ...quick, downKbps: 1000 })
    const letGo = async (...transfers: unknown[]) => {
      const reply = await fetch(`${server.address}api/origin/sessions/${session.id}/let-go`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ transfers }),
      })
      return ((await reply.json()) as { written?: (number | null)[] }).written
    }
    const abort = new AbortController()
    const reply = await fetch(`${session.bases[1]}~12/tiles/8?width=1200&height=1200`, { signal: abort.signal })
    const reader = reply.body!.getReader()
    let received = 0
    while (received < 20_000) received += (await reader.read()).value!.length
    const [written, unknown] = (await letGo(12, 13))!
    while (received < written!) received += (await reader.read()).value!.length
    abort.abort()
    expect([received, unknown]).toEqual([written, null])
    // One whose request comes after it was let go is not begun.
    const late = new AbortController()
    const never = fetch(`${session.bases[2]}~13/tiles/9?width=32`, { signal: late.signal })
    await expect.poll(async () => (await ledgerOf(session)).length).toBe(2)
    late.abort()
    await expect(never).rejects.toThrow()
    const [first, second] = await ledgerOf(session)
    expect(first).toMatchObject({ bodyBytes: written, aborted: true })
    expect(second).toMatchObject({ bodyBytes: 0, aborted: true })
    expect(first!.address).toContain(`${session.id}/tiles/8?`)
    // One that is over is known by what it was.
    const whole = (await (await fetch(`${session.bases[3]}~14/tiles/9?width=32`)).arrayBuffer()).byteLength
    expect(await letGo(14)).toEqual([whole])
    expect(await letGo('twelve')).toBeUndefined()
  })

  it('plays faults for real', async () => {
    const fault = (kind: string, more = {}) => ({ match: `*${kind}*`, kind, ...more })
    const { base } = await open({
      ...quick,
      downKbps: 100_000,
      faults: [
        fault('status', { status: 503, retryAfterS: 2, times: 1 }),
        fault('truncate'),
        fault('broken'),
        fault('empty'),
        fault('wrong-type'),
        fault('redirect-loop'),
      ],
    })
    const at = (kind: string) => `${base}/tiles/3?width=80&copy=${kind}`
    const first = await fetch(at('status'))
    expect([first.status, first.headers.get('retry-after')]).toEqual([503, '2'])
    expect((await fetch(at('status'))).status).toBe(200)
    await expect(fetch(at('truncate')).then((reply) => reply.arrayBuffer())).rejects.toThrow()
    await expect(sharp(Buffer.from(await (await fetch(at('broken'))).arrayBuffer())).metadata()).rejects.toThrow()
    expect((await (await fetch(at('empty'))).arrayBuffer()).byteLength).toBe(0)
    expect((await fetch(at('wrong-type'))).headers.get('content-type')).toMatch(/^text\/html/)
    expect((await fetch(at('redirect-loop'), { redirect: 'manual' })).status).toBe(302)
  })

  it('serves the folder as it is or resized, and nothing outside it', async () => {
    expect(server.folder!.count).toBe(2)
    const { base } = await open(quick)
    const page = (await (await fetch(`${base}/feeds/folder`)).json()) as { items: { photo: string; width: number }[] }
    expect(page.items).toMatchObject([
      { id: 'drawn.svg', width: 9, height: 9 },
      { id: 'sea.jpg', photo: 'pictures/sea.jpg', width: 800, height: 600 },
    ])
    const size = async (query: string) => {
      const { width, height, format } = await sharp(
        Buffer.from(await (await fetch(`${base}/pictures/sea.jpg${query}`)).arrayBuffer()),
      ).metadata()
      return [width, height, format]
    }
    expect(await size('')).toEqual([800, 600, 'jpeg'])
    expect(await size('?width=200&height=200&as=webp')).toEqual([200, 200, 'webp'])
    for (const path of [
      '/pictures/secret.txt',
      '/pictures/..%2f..%2fetc%2fpasswd',
      '/pictures/%2e%2e/sea.jpg',
      '/pictures/broken.png',
    ])
      expect(await raw(new URL(base).pathname + path, { host: `127.0.0.1:${server.port}` })).toBe(404)
  })
})

describe('the server', () => {
  it('answers only on its own names, and only its own pages', async () => {
    const host = `127.0.0.1:${server.port}`
    expect(await raw('/api/health', { host })).toBe(200)
    expect(await raw('/api/health', { host: 'tug.example.test' })).toBe(403)
    expect(await raw('/api/health', { host, origin: 'https://evil.example.test' })).toBe(403)
    expect(await raw('/api/health', { host, origin: `http://${host}` })).toBe(200)
    for (const path of ['/api/nothing', '/relay/x?u=https://a.example.test/', '/origin/x'])
      expect([path, await raw(path, { host })]).toEqual([path, 404])
  })

  it('reports what is wrong with a session that it is asked for', async () => {
    const ask = async (body: string) => {
      const reply = await fetch(`${server.address}api/origin/sessions`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
      })
      return [reply.status, ((await reply.json()) as { error: string }).error]
    }
    expect(await ask('{"network":{"downKbps":0}}')).toEqual([400, expect.stringContaining('/network/downKbps')])
    expect(await ask('{"seed":-1}')).toEqual([400, expect.stringContaining('/seed')])
    expect((await ask('{'))[0]).toBe(400)
  })

  it('lets a thousand connections wait while it is busy: none of them is told to come again later', () => {
    // They are opened by another process while this one does nothing else; it waits for the last of them.
    const opens = `
      const { connect } = require('node:net')
      let open = 0
      for (let i = 0; i < 1000; i++)
        connect(${server.port}, '127.0.0.1', () => { if (++open === 1000) process.exit(0) }).on('error', (e) => { console.error(e); process.exit(1) })`
    const seen = spawnSync(process.execPath, ['-e', opens], { timeout: 60_000, encoding: 'utf8' })
    expect([seen.status, seen.stderr]).toEqual([0, ''])
  })

  it('has room for a hundred sessions and forgets idle ones first', async () => {
    const sessions = await Promise.all(Array.from({ length: 105 }, (_, seed) => open(quick, seed)))
    expect((await fetch(`${sessions.at(-1)!.base}/tiles/1?width=8`)).status).toBe(200)
    const lost = await fetch(`${sessions[0]!.base}/tiles/1?width=8`)
    expect([lost.status, lost.headers.get('tile-tug-session')]).toEqual([404, 'lost'])
  })

  it('keeps those that are in use however many are opened, and says when there is no room', async () => {
    const own = await startServer({ port: 0, dist: 'dist', pictures: null, log: pino({ level: 'silent' }) })
    const session = () =>
      fetch(`${own.address}api/origin/sessions`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ network: quick }),
      })
    const used: Session[] = []
    for (let i = 0; i < 100; i++) {
      used.push((await (await session()).json()) as Session)
      await fetch(`${used[i]!.base}/feeds/wall`)
    }
    expect((await session()).status).toBe(429)
    for (const { base } of used) expect((await fetch(`${base}/tiles/1?width=8`)).status).toBe(200)
    // One that its client gives back makes room at once, and is nobody's any more.
    const given = `${own.address}api/origin/sessions/${used[7]!.id}`
    expect((await fetch(given, { method: 'DELETE' })).status).toBe(204)
    expect((await fetch(given)).status).toBe(404)
    expect((await session()).status).toBe(201)
    await own.close()
  })
})
