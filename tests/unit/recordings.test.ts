import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { EventSender } from '../../src/cli/demo-app/event-sender.ts'
import { phone, PhoneApp } from '../../src/cli/demo-app/phone-app.ts'
import { proveAll } from '../../src/core/compare/prove.ts'
import { feedAddresses } from '../../src/core/evidence/feed-addresses.ts'
import { fitWorld, projectOfRun } from '../../src/core/evidence/fitted-project.ts'
import { importRun } from '../../src/core/evidence/import-run.ts'
import { knownItems } from '../../src/core/feed/known-items.ts'
import { suspicionsOf } from '../../src/core/profile/findings/findings.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { AppClock } from '../../src/server/recordings/app-clock.ts'
import type { RunningServer } from '../../src/server/server.ts'
import { profileRun, readEvents } from '../support/evidence.ts'
import { serverAt } from '../support/servers.ts'
import { inVirtualTime } from '../support/virtual-time.ts'

interface Place {
  id: string
  base: string
  events: string
  stream: string
}

let folder: string
let server: RunningServer
const at = (path: string) => `http://127.0.0.1:${server.port}${path}`
const begin = async (order: object = { upstream: 'origin' }): Promise<Place> => {
  const answer = await post(at('/api/recordings'), order)
  expect(answer.status).toBe(201)
  return (await answer.json()) as Place
}
const post = (url: string, body: unknown, headers: Record<string, string> = {}) =>
  fetch(url, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...headers },
    body: typeof body === 'string' ? body : JSON.stringify(body),
  })
const said = async (answer: Response) => [answer.status, ((await answer.json()) as { error: string }).error] as const

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'tug-recordings-'))
})
afterAll(() => rm(folder, { recursive: true }))
const open = async () => {
  server = await serverAt(0, [], folder)
}
beforeAll(open)
afterAll(() => server.close())

describe('a recording', () => {
  it('gives the app what the archive has, and keeps what was really written', async () => {
    const { id, base } = await begin({ upstream: 'origin', name: 'first' })
    const whole = await fetch(`${base}/tiles/3?width=200&as=webp`)
    const bytes = (await whole.arrayBuffer()).byteLength
    expect([whole.status, whole.headers.get('content-type')]).toEqual([200, 'image/webp'])
    const again = await fetch(`${base}/tiles/3?width=200&as=webp`, {
      headers: { 'If-None-Match': whole.headers.get('etag')! },
    })
    expect(again.status).toBe(304)
    expect((await fetch(`${base}/tiles/x`)).status).toBe(404)
    const { responses } = (await (await fetch(at(`/api/recordings/${id}/ledger`))).json()) as {
      responses: Record<string, unknown>[]
    }
    expect(responses).toMatchObject([
      { address: `${base}/tiles/3?width=200&as=webp`, status: 200, bodyBytes: bytes, aborted: false },
      { status: 304, bodyBytes: 0 },
      { status: 404 },
    ])
    const run = profileRun(importRun([readEvents(await eventsOf(id))], new Map(), { project: 'x', screen: 'x' }).log)
    expect(run.metrics).toMatchObject({ 'requests.total': 3, 'bytes.unknown': bytes, 'requests.failed': 1 })
  })

  it('keeps what an app leaves behind when it goes away in the middle', async () => {
    const { id, base } = await begin({ upstream: 'origin', network: { rttMs: 5, downKbps: 2000, slowStart: false } })
    const controller = new AbortController()
    const answer = await fetch(`${base}/tiles/1?width=1200&as=webp`, { signal: controller.signal })
    let came = 0
    for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
      came += part.length
      if (came > 10_000) break
    }
    controller.abort()
    await expect.poll(() => eventsOf(id)).toContain('"aborted":true')
    const { metrics } = profileRun(
      importRun([readEvents(await eventsOf(id))], new Map(), { project: 'x', screen: 'x' }).log,
    )
    expect(metrics['requests.cutOff']).toBe(1)
    expect(metrics['bytes.cutOff']).toBeGreaterThanOrEqual(came)
  })

  it('lets what is under way through when it ends', async () => {
    const { id, base } = await begin({ upstream: 'origin', network: { rttMs: 5, downKbps: 50, slowStart: false } })
    const answer = await fetch(`${base}/tiles/2?width=1200&as=webp`)
    await post(at(`/api/recordings/${id}/end`), {})
    const { byteLength } = await answer.arrayBuffer()
    expect(byteLength).toBe(Number(answer.headers.get('content-length')))
    const { metrics } = profileRun(
      importRun([readEvents(await eventsOf(id))], new Map(), { project: 'x', screen: 'x' }).log,
    )
    expect([metrics['bytes.received'], metrics['requests.open']]).toEqual([byteLength, 0])
  })

  it('takes events in batches, on its own clock by the quickest round trip, and reports them as they come', async () => {
    const { id, events, stream } = await begin()
    const heard = listen(stream)
    const head = { format: 'tile-tug/app-events', version: 1, app: 'Kiln app', clockMs: 5_000_000 }
    const lines = [
      head,
      { t: 5_000_010, event: 'mark', text: 'here' },
      { t: 1, event: 'response', address: 'x', status: 200, bytes: 9 },
      'junk',
    ]
    // The recording's own time before the batch, and when it was answered.
    const { clockMs: sinceMs } = (await (
      await post(events, JSON.stringify({ ...head, clockMs: undefined }))
    ).json()) as { clockMs: number }
    const answer = await post(
      events,
      lines.map((line) => (typeof line === 'string' ? line : JSON.stringify(line))).join('\n'),
    )
    const { clockMs, ...counts } = (await answer.json()) as Record<string, number>
    expect(counts).toEqual({ taken: 1, skipped: 2 })
    await post(events, JSON.stringify({ ...head, clockMs: 5_000_000 - 400, rttMs: 8 }))
    await post(at(`/api/recordings/${id}/mark`), { text: 'now' })
    await expect.poll(() => heard.text).toContain('"text":"now"')
    heard.stop()
    expect(heard.text).toContain('"text":"here"')
    expect(heard.text).toContain('"errorMs":4')
    const read = readEvents(await eventsOf(id))
    expect(read.head?.app).toBe('Kiln app')
    // What was sent at 5,000,000 came then, half a round trip before.
    const cameMs = read.events.find((event) => event.event === 'mark' && event.text === 'here')!.t - 10 + 4
    expect(cameMs).toBeGreaterThanOrEqual(sinceMs)
    expect(cameMs).toBeLessThanOrEqual(clockMs!)
  })

  it('outlives the server: what had come is there, and it goes on', async () => {
    const { id, events, base } = await begin({ upstream: 'origin', name: 'kept' })
    await fetch(`${base}/tiles/5?width=100`).then((answer) => answer.arrayBuffer())
    await post(events, JSON.stringify({ t: 1, event: 'mark', text: 'before' }))
    await expect.poll(() => eventsOf(id)).toContain('tiles/5')
    // A picture that is under way when the server ends is kept as far as it had come.
    const slow = await begin({ upstream: 'origin', network: { rttMs: 5, downKbps: 500, slowStart: false } })
    const running = await fetch(`${slow.base}/tiles/1?width=1200&as=webp`)
    await server.close()
    await running.arrayBuffer().catch(() => undefined)
    await open()
    expect(await eventsOf(slow.id)).toContain('"aborted":true')
    const path = (url: string) => at(new URL(url).pathname)
    // Whoever asks first, and whoever asks at the same time: it is one recording.
    const [first, , again] = await Promise.all([
      eventsOf(id),
      post(path(events), JSON.stringify({ t: 2, event: 'mark', text: 'during' })),
      eventsOf(id),
    ])
    expect([first.includes('"text":"before"'), again.includes('"text":"before"')]).toEqual([true, true])
    expect(await eventsOf(id)).toContain('"text":"during"')
    await fetch(`${path(base)}/tiles/6?width=100`).then((answer) => answer.arrayBuffer())
    await expect.poll(() => eventsOf(id)).toContain('tiles/6')
    const ended = await post(at(`/api/recordings/${id}/end`), {})
    expect(await ended.json()).toMatchObject({ name: 'kept', ended: true, responses: 2, counts: { mark: 2 } })
    expect(await said(await fetch(`${path(base)}/tiles/6`))).toEqual([410, 'this recording has ended'])
    expect((await post(path(events), '{}')).status).toBe(410)
  })

  it('says when what comes cannot be kept', async () => {
    const blocked = join(folder, 'blocked')
    const other = await serverAt(0, [], blocked)
    try {
      const own = (path: string) => `http://127.0.0.1:${other.port}${path}`
      const { id } = (await (await post(own('/api/recordings'), { upstream: 'origin' })).json()) as Place
      await rm(blocked, { recursive: true })
      const answer = await post(own(`/api/recordings/${id}/events`), JSON.stringify({ t: 1, event: 'mark', text: 'x' }))
      expect(await answer.json()).toMatchObject({ taken: 1 })
      const standing = (await (await fetch(own(`/api/recordings/${id}`))).json()) as { trouble: string }
      expect(standing.trouble).toContain('not kept on disk (ENOENT)')
    } finally {
      await other.close()
    }
  })

  it('refuses what is too much, malformed, or not from this machine', async () => {
    const { events, base } = await begin()
    expect(await said(await post(events, ' '.repeat(4_000_001)))).toEqual([
      413,
      expect.stringContaining('send it in several'),
    ])
    expect(await said(await post(at('/api/recordings'), { upstream: 'ftp://x' }))).toEqual([
      400,
      expect.stringContaining('/upstream'),
    ])
    expect(await said(await post(at('/api/recordings'), { upstream: 'https://img.example.test' }))).toEqual([
      400,
      expect.stringContaining('TUG_RELAY_HOSTS'),
    ])
    expect((await fetch(at('/api/recordings/0123456789abcdef'))).status).toBe(404)
    expect((await fetch(`${base}/tiles/1`, { headers: { Origin: 'https://elsewhere.example.test' } })).status).toBe(403)
  })
})

const eventsOf = async (id: string) => (await fetch(at(`/api/recordings/${id}/events.ndjson`))).text()

function listen(url: string): { text: string; stop: () => void } {
  const controller = new AbortController()
  const heard = { text: '', stop: () => controller.abort() }
  void fetch(url, { signal: controller.signal })
    .then(async ({ status, headers, body }) => {
      expect([status, headers.get('content-type')]).toEqual([200, 'text/event-stream'])
      for await (const part of body as unknown as AsyncIterable<Uint8Array>) heard.text += Buffer.from(part).toString()
    })
    .catch((error: unknown) => {
      if (!controller.signal.aborted) throw error
    })
  return heard
}

describe('an app’s clock', () => {
  // The recording is 5,000 ms ahead of the app's clock, and its machine holds every batch up.
  const heldUp = () => {
    const clock = new AppClock()
    for (const [sent, took] of [
      [100, 420],
      [1100, 380],
      [2100, 500],
    ] as const)
      clock.arrived(sent, sent + took + 5000, 400)
    return clock
  }
  it('is held against what the app was asked for, where every batch was held up: no request is asked before it is started', () => {
    const clock = heldUp()
    expect(clock.alignment).toEqual({ offsetMs: 5000 + 380 - 200, errorMs: 200, samples: 3 })
    clock.starts('a', 200)
    clock.asks('a', 5204)
    clock.starts('b', 300)
    clock.asks('b', 5390)
    expect(clock.alignment.offsetMs).toBe(5004)
  })
  it('takes no request for another of the same address, which the app did not tell of', () => {
    const clock = heldUp()
    clock.asks('a', 5100)
    clock.starts('a', 1900)
    clock.asks('a', 6910)
    expect(clock.alignment.offsetMs).toBe(5180)
  })
})

describe('the demo app, recorded', () => {
  const network = { rttMs: 60, downKbps: 1600 }
  const rows = 30
  const pictures = Array.from({ length: rows }, (_, n) => `/tiles/${n}?width=360&as=webp`)
  const record = (seed: number, cancels: 'never' | 'recycle') =>
    // Both ends are in this process: what the app meets is the link's doing, and never the machine's.
    inVirtualTime(async () => {
      const { id, base, events } = await begin({ upstream: 'origin', network })
      const now = () => performance.now() + 1_000_000
      const sender = new EventSender(events, { app: 'Demo app', ...phone }, now)
      const addresses = pictures.map((picture) => base + picture)
      const app = new PhoneApp(
        { base, letGo: at(`/api/recordings/${id}/let-go`), addresses, seed, cancels, now },
        sender,
      )
      const counts = await app.run()
      const run = importRun([readEvents(await eventsOf(id))], new Map(), { project: 'x', screen: 'x' })
      return { counts, profile: profileRun(run.log) }
    })
  type Recorded = Awaited<ReturnType<typeof record>>
  /** Of three flicks, each once without cancelling and once with it. */
  const pairs: { never: Recorded; recycle: Recorded }[] = []
  beforeAll(async () => {
    // Made beforehand: a picture that is still drawn would come at the machine's pace.
    const { base } = await begin({ upstream: 'origin' })
    await Promise.all(pictures.map(async (picture) => (await fetch(base + picture)).arrayBuffer()))
    for (const seed of [1, 2, 3])
      pairs.push({ never: await record(seed, 'never'), recycle: await record(seed, 'recycle') })
  }, 170_000)

  it('agrees with the ledger and the import to the byte, whether it cancels or not', () => {
    for (const { counts, profile } of pairs.flatMap(({ never, recycle }) => [never, recycle])) {
      const { metrics, facts } = profile
      expect([facts.transfers.length, metrics['bytes.received'], metrics['requests.failed']]).toEqual([
        counts.requests,
        counts.bytes,
        0,
      ])
    }
    for (const { never, recycle } of pairs) {
      expect(never.counts.cancelled).toBe(0)
      expect(recycle.counts.cancelled).toBeGreaterThan(0)
    }
  })

  /** What the fitted world's best finding foretells that the app receives when it is fixed, in bytes. */
  const foretold = async ({ profile }: Recorded): Promise<number> => {
    const raw = projectOfRun(profile.facts)
    const parsed = parsedOf(raw)
    const screen = parsed.screens[0]!
    const feed = feedAddresses(parsed, screen, knownItems(screen.feed)!)
    const world = fitWorld(profile.facts, { raw, project: parsed, screen, feed })
    expect((world.raw.loading as { cancel: { when: string } }).cancel.when).toBe('never')
    const project = parsedOf(world.raw)
    const order = {
      raw: world.raw,
      screen: screen.id,
      script: project.script!,
      seed: 1,
      visit: 'first' as const,
      items: null,
      seen: new Map(),
    }
    const proven = await proveAll(order, suspicionsOf(profile, project), {
      rest: () => Promise.resolve(),
      cancelled: () => false,
      progress: () => undefined,
    })
    expect(proven!.findings[0]!.id).toBe('no-cancelling')
    const fixed = applyPatch(world.raw, proven!.findings[0]!.patch)
    if (!fixed.ok) throw new Error(fixed.message)
    return profileRun(simulate(parsedOf(fixed.raw)).log).metrics['bytes.received']!
  }

  it('is fitted to a world in which not cancelling is the top finding, and fixing it does what the app then does', async () => {
    for (const { never, recycle } of pairs) {
      const then = recycle.counts.bytes
      expect(Math.abs((await foretold(never)) / then - 1)).toBeLessThan(0.1)
    }
  })
})

function parsedOf(raw: Raw) {
  const outcome = parseProject(raw)
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project
}
