import { readFile } from 'node:fs/promises'
import type { APIRequestContext } from '@playwright/test'
import { profileRun } from '../../src/core/profile/profile.ts'
import { toNdjson } from '../../src/core/log/ndjson.ts'
import { driveLive, expect, keptLog, openProject, openShell, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as {
  screens: { cells: { slots: object[] }[] }[]
}
const wall = demo.screens[0]!
const listOf = (items: object[], more: object) => ({
  ...demo,
  device: { widthDp: 411, heightDp: 823 },
  screens: [
    {
      ...wall,
      feed: { source: { type: 'inline', items }, base: 'https://archive.example.test/' },
      cells: [
        { ...wall.cells[0], slots: [{ ...wall.cells[0]!.slots[0], address: { type: 'pointer', at: '/photo' } }] },
      ],
    },
  ],
  ...more,
})
const tile = (n: number) => ({ id: n, photo: `tiles/${n}?width=200&height=200` })

/** One response as the origin reports it; times in ms of its own clock, null while it is being sent. */
interface OriginResponse {
  address: string
  status: number
  bodyBytes: number
  aborted: boolean
  startMs: number
  endMs: number | null
}

/** Each kind of fault, and the reason that must be in the log. */
const faults: [string, string][] = [
  ['status', 'status'],
  ['timeout', 'timeout'],
  ['stall', 'timeout'],
  ['truncate', 'truncated'],
  ['wrong-type', 'not-a-picture'],
  ['broken', 'undecodable'],
  ['huge', 'too-large'],
  ['empty', 'undecodable'],
  ['redirect-loop', 'redirects'],
]
const slots = 6
/** A drip brings a byte now and then: no time-out strikes, it is only slow. */
const drip = faults.length

/** Has the server draw pictures, which it keeps: it draws one at a time for all pages, and time-outs would count it. */
async function draw(request: APIRequestContext, names: readonly string[]): Promise<void> {
  const opened = await request.post('/api/origin/sessions', { data: { network: { downKbps: 1_000_000, rttMs: 0 } } })
  expect(opened.status()).toBe(201)
  const { base } = (await opened.json()) as { base: string }
  for (const name of names) expect((await request.get(`${base}/${name}`)).status(), name).toBe(200)
}

test('every fault, live: the right visual and reason, no slot lost, no wrong picture, the others unharmed', async ({
  page,
  request,
}) => {
  await openShell(page, '/drive')
  const items = [
    ...faults.map((_, i) => tile(100 + i)),
    tile(100 + drip),
    ...Array.from({ length: 80 }, (_, i) => tile(200 + i)),
  ]
  await draw(
    request,
    items.map(({ photo }) => photo),
  )
  await openProject(
    page,
    listOf(items, {
      network: {
        downKbps: 60_000,
        rttMs: 10,
        jitterMs: 0,
        thinkMs: 5,
        faults: [...faults, ['drip']].map(([kind], i) => ({
          match: `*/tiles/${100 + i}?*`,
          kind,
          status: 503,
          afterBytes: 900,
        })),
      },
      // Long enough for every other picture, and for a drip to be heard of, on a machine that is busy with others.
      loading: { timeoutMs: 12_000, retry: { attempts: 0 }, fetchSlots: slots, fetchSlotsPerHost: slots },
      scripts: [
        {
          name: 'meet them',
          steps: [
            { do: 'wait', ms: 15_000 },
            { do: 'drag', dp: 2700, ms: 2500 },
            { do: 'wait', ms: 1500 },
          ],
        },
      ],
      script: 'meet them',
    }),
  )
  // First what does not last: a drip comes to its end, too, while time-outs are waited for.
  await expect(page.locator(`.tt-glass .tt-cell[data-index="${drip}"] .tt-slot`)).toHaveAttribute(
    'data-stage',
    'arriving',
  )
  // Under the hand each faulty picture shows its failed visual, and every other one its picture.
  for (const i of faults.keys())
    await expect(page.locator(`.tt-glass .tt-cell[data-index="${i}"] .tt-slot`), faults[i]![0]).toHaveAttribute(
      'data-stage',
      'failed',
    )
  for (const i of [11, 12, 13, 14])
    await expect(page.locator(`.tt-glass .tt-cell[data-index="${i}"] .tt-slot`)).toHaveAttribute(
      'data-stage',
      'settled',
    )
  const run = await driveLive(page)
  const log = await keptLog(page, run.id)
  const { facts, checks } = profileRun(log)
  const reasonOf = (n: number) =>
    facts.requests.find((request) => facts.log.assets[request.asset]!.address.includes(`/tiles/${100 + n}?`))?.reason
  expect(faults.map(([kind], i) => [kind, reasonOf(i)])).toEqual(faults)
  expect(['', 'recycle']).toContain(reasonOf(drip))
  expect(checks.filter((check) => !check.ok)).toEqual([])
  // The slots that the faults held are free again: what came later was shown, or had left before it could be.
  const later = facts.exposures.filter((each) => each.index >= 21)
  expect(later.length).toBeGreaterThan(50)
  const stays = later.filter((each) => !each.left)
  expect(stays.length).toBeGreaterThan(5)
  expect(run.metrics['pictures.wrong']).toBe(0)
  // The end of a request that was not shown, µs of the run: a failure says where it was held up.
  const lost = stays.filter(({ outcome }) => outcome !== 'shown')
  expect(
    lost.map(({ index, claim, enterT }) => {
      const asked = facts.requests.find(({ claims }) => claim !== null && claims.includes(claim))
      return { index, enterT, asked, transfers: asked?.transfers.map((id) => facts.transfers[id]) }
    }),
  ).toEqual([])
  // The last pictures have ten seconds, in which a busy machine may not have them: none may wait beside a slot that is
  // free.
  const waiting = facts.requests.filter(({ end, transfers }) => end === 'open' && transfers.length === 0)
  const running = facts.transfers.filter(({ end }) => end === 'open')
  expect([waiting.length, waiting.length > 0 ? running.length : slots]).toEqual([waiting.length, slots])
  const isDrained = [...toNdjson(log)].some((line) => line.includes('"why":"drained"'))
  expect(isDrained || run.metrics['requests.open'] === 0, 'open at the end of a drive that waited for all').toBe(true)
})

test('credentials that are too old are renewed once for all whom the origin refuses; without a secret they are refused', async ({
  page,
}) => {
  await openShell(page, '/feed')
  const header = (lastsS: number | null) => ({
    headers: [
      { host: 'archive.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'archive-token', lastsS },
    ],
  })
  const parts = (lastsS: number | null) =>
    listOf(
      Array.from({ length: 200 }, (_, i) => tile(3000 + i)),
      {
        network: { downKbps: 40_000, rttMs: 40, jitterMs: 0, thinkMs: 5 },
        loading: header(lastsS),
        scripts: [
          {
            name: 'later',
            steps: [
              { do: 'wait', ms: 10_000 },
              { do: 'jump', row: 30 },
              { do: 'wait', ms: 1200 },
            ],
          },
        ],
        script: 'later',
      },
    )
  // They last longer than a request takes on a machine that is busy with others, and not as long as the script waits.
  await openProject(page, parts(8))
  // There is no secret: the made-up archive answers 401, and a renewal does not help.
  await expect(page.locator('.tt-glass .tt-slot[data-stage="failed"]').first()).toBeVisible()
  await page.getByLabel('Secret “archive-token”').fill('clay')
  await page.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: 'forget “archive-token”' })).toBeVisible()
  const run = await driveLive(page)
  const log = await keptLog(page, run.id)
  const { facts, checks } = profileRun(log)
  const refused = facts.transfers.filter(({ status }) => status === 401)
  expect(refused.length).toBeGreaterThan(3)
  expect(run.metrics).toMatchObject({ 'pictures.failed': 0, 'requests.failed': 0 })
  const asked = [...toNdjson(log)].filter((line) => line.includes('"event":"renewal"') && line.includes('"asked"'))
  // Once for many: a slow machine may let the new ones age before they are used, and ask again.
  expect(asked.length).toBeGreaterThan(0)
  expect(asked.length).toBeLessThan(refused.length / 2)
  expect(checks.filter((check) => !check.ok)).toEqual([])
})

test(
  'a live drive and the origin agree on every byte; what is let go stops there within 50 ms, on recycle and when the screen is left, and a left screen receives nothing',
  { tag: '@alone' },
  async ({ page }) => {
    await openShell(page, '/drive')
    const sessions: string[] = []
    page.on('response', (reply) => {
      if (reply.url().endsWith('/api/origin/sessions') && reply.request().method() === 'POST')
        // The demo's start is given up when the project opens: its answer may never be read.
        reply.json().then(
          ({ id }: { id: string }) => sessions.push(id),
          () => undefined,
        )
    })
    await openProject(
      page,
      listOf(
        Array.from({ length: 400 }, (_, i) => ({ id: i, photo: `tiles/${1000 + i}?width=400&height=400` })),
        {
          network: { downKbps: 1500, rttMs: 30, jitterMs: 0, thinkMs: 5 },
          scripts: [
            {
              name: 'away',
              steps: [
                { do: 'wait', ms: 900 },
                { do: 'flick', dpPerS: 4000 },
                { do: 'wait', ms: 1200 },
                { do: 'flick', dpPerS: 4000 },
                { do: 'wait', ms: 1200 },
                { do: 'flick', dpPerS: 4000 },
                { do: 'wait', ms: 1200 },
                { do: 'flick', dpPerS: 4000 },
                { do: 'wait', ms: 700 },
                { do: 'leave' },
                { do: 'wait', ms: 900 },
              ],
            },
          ],
          script: 'away',
        },
      ),
    )
    const run = await driveLive(page)
    expect(run.checks.filter((check) => !check.ok)).toEqual([])
    const { facts } = profileRun(await keptLog(page, run.id))
    const ledger = await page.request.get(`/api/origin/sessions/${sessions.at(-1)!}/ledger`)
    const { responses } = (await ledger.json()) as { responses: OriginResponse[] }
    const pathOf = (address: string) => /tiles\/\d+/.exec(address)?.[0] ?? ''
    /** Each transfer with its response: the n-th for an address is the n-th. */
    const seen = new Map<string, number>()
    const pairs = facts.transfers.flatMap((transfer) => {
      const path = pathOf(facts.log.assets[transfer.asset]!.address)
      const nth = seen.get(path) ?? 0
      seen.set(path, nth + 1)
      const response = responses.filter(({ address }) => pathOf(address) === path)[nth]
      return response && response.endMs !== null ? [{ transfer, startMs: response.startMs, endMs: response.endMs }] : []
    })
    // Both clocks run on this machine; the quickest start says how far apart they began.
    const apart = Math.min(...pairs.map(({ transfer, startMs }) => startMs - transfer.startT / 1000))
    const delays = pairs
      .filter(({ transfer }) => transfer.end === 'cut')
      .map(({ transfer, endMs }) => endMs - apart - transfer.endT / 1000)
      .sort((a, b) => a - b)
    // A busy machine draws fewer frames, in which less is let go.
    expect(delays.length).toBeGreaterThan(8)
    expect(delays[Math.ceil(0.95 * delays.length) - 1]!, `of ${delays.map(Math.round).join()}`).toBeLessThan(50)
    const closed = facts.claims.filter((claim) => claim.why === 'closed')
    expect(closed.length).toBeGreaterThan(5)
    expect(closed.filter(({ deliverT, releaseT }) => deliverT !== null && deliverT > releaseT!)).toEqual([])
    // Every byte: where the two sides have different counts, the failure names the pictures.
    const known = facts.transfers.map(({ asset, bytes, inFlight, end, total }) => ({
      path: pathOf(facts.log.assets[asset]!.address),
      bytes: bytes + inFlight,
      total,
      end: `${end}, ${inFlight} of it in flight`,
    }))
    const pictures = responses.filter(({ address }) => pathOf(address))
    const onlyHere = known.map(({ path, bytes, end: how }) => `${path} ${bytes}: ${how}`)
    const onlyThere = pictures.filter(({ address }) => {
      const at = onlyHere.findIndex((line) => line.startsWith(`${pathOf(address)} `))
      if (at >= 0) onlyHere.splice(at, 1)
      return at < 0
    })
    expect(run.metrics['ledger.gapShare'], JSON.stringify({ onlyHere, onlyThere }, null, 1)).toBeLessThan(0.005)
    const totals = new Map(known.map(({ path, total }) => [path, total]))
    for (const { address, status, bodyBytes, aborted } of pictures) {
      const total = totals.get(pathOf(address))
      if (status === 200 && typeof total === 'number' && bodyBytes < total)
        expect([address, aborted]).toEqual([address, true])
    }
    // What the origin wrote to its end before it was notified of a cut arrived completely at the client too: finished,
    // or read on.
    let written = 0
    let unknown = 0
    for (const { address, status, bodyBytes, aborted } of pictures) {
      written += bodyBytes
      if (status !== 200 || aborted) continue
      const at = known.findIndex(({ path, bytes }) => bytes === bodyBytes && path === pathOf(address))
      if (at < 0) unknown += bodyBytes
      else known.splice(at, 1)
    }
    expect(unknown / written).toBeLessThan(0.005)
  },
)
