import { describe, expect, it } from 'vitest'
import { K } from '../../src/core/log/event-kinds.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import type { Project, Visit } from '../../src/core/project/types.ts'
import { isShown } from '../../src/core/profile/facts/facts.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import { plainLink } from '../support/projects.ts'

type Json = Record<string, unknown>

/** One column, no gaps, a px a dp: what a figure must be can be worked out by hand. */
function projectWith(parts: {
  items?: Json[]
  slot?: Json
  cell?: Json
  layout?: Json
  feed?: Json
  loading?: Json
  network?: Json
  device?: Json
  steps?: Json[]
}): Project {
  const outcome = parseProject({
    format: 'tile-tug/project',
    version: 1,
    name: 'figures',
    seed: 1,
    screens: [
      {
        id: 'list',
        feed: { source: { type: 'inline', items: parts.items ?? pictures(60) }, ...parts.feed },
        layout: { columns: 1, gapDp: 0, paddingDp: 0, ...parts.layout },
        cells: [
          {
            height: { type: 'content' },
            ...parts.cell,
            slots: [
              { size: { type: 'fixed', widthDp: 100, heightDp: 100 }, transition: { type: 'none' }, ...parts.slot },
            ],
          },
        ],
      },
    ],
    loading: parts.loading ?? {},
    device: { widthDp: 411, heightDp: 823, density: 1, ...parts.device },
    network: parts.network ?? {},
    scripts: [{ name: 'script', steps: parts.steps ?? [{ do: 'wait', ms: 3000 }] }],
  })
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project
}

const pictures = (count: number, more: Json = {}): Json[] =>
  Array.from({ length: count }, (_, i) => ({
    id: `i${i}`,
    photo: `https://pictures.example.test/${i}.jpg`,
    width: 100,
    height: 100,
    bytes: 10_000,
    ...more,
  }))

function runOf(project: Project, visit: Visit = 'first') {
  const [run] = simulateVisits(project, [visit])
  return profileRun(run!.log)
}
const figures = (parts: Parameters<typeof projectWith>[0]) => runOf(projectWith(parts)).metrics

describe('a slot whose frame changes while it is on screen', () => {
  it('takes its picture’s ratio: judged by the frame that the picture has, holes by the frame of each instant', () => {
    const found = runOf(
      projectWith({ items: pictures(1, { width: 411, height: 100 }), slot: { size: { type: 'from-picture' } } }),
    )
    expect(found.metrics).toMatchObject({ 'pictures.soft': 0, 'pictures.softRatio': null, 'decode.pixelRatio': 1 })
    // 411 × 411 dp until the picture is there, 411 × 100 from then on.
    const [seen] = found.facts.exposures
    const hole = (seen!.shownT! - seen!.enterT) * 411 * 411
    const rest = (seen!.leaveT - seen!.shownT!) * 411 * 100
    expect(found.metrics['pictures.holeShare']).toBeCloseTo(hole / (hole + rest), 9)
  })

  it('has frames by stage: soft by the slot at the moment of showing, oversize by its largest', () => {
    const small = { widthDp: 40, heightDp: 40 }
    const slot = {
      size: { type: 'fixed', widthDp: 400, heightDp: 400 },
      stages: { waiting: { frame: small }, arriving: { frame: small } },
    }
    expect(figures({ items: pictures(1), slot })).toMatchObject({ 'pictures.soft': 1, 'pictures.softRatio': 16 })
    const large = pictures(1, { width: 1000, height: 1000, bytes: 100_000 })
    expect(figures({ items: large, slot })['bytes.oversize']).toBe(84_000)
  })

  it('in a row of a fixed height keeps the address that it was asked for by, and never flickers', () => {
    const items = pictures(1).map((item) => ({ ...item, photo: 'https://pictures.example.test/x.jpg' }))
    const found = runOf(
      projectWith({
        items,
        cell: { height: { type: 'fixed', dp: 120 } },
        slot: {
          size: { type: 'from-picture' },
          address: { type: 'template', template: '{+photo}?w={widthPx}' },
        },
        steps: [
          { do: 'wait', ms: 2000 },
          { do: 'edit', op: 'refresh' },
          { do: 'wait', ms: 1000 },
        ],
      }),
    )
    expect(found.checks.filter(({ ok }) => ok === false)).toEqual([])
    expect(found.metrics).toMatchObject({ 'pictures.flickers': 0, 'requests.total': 1, 'pictures.exposures': 1 })
  })
})

describe('wrong pictures', () => {
  it('last until the cell is recycled, bound again or shows its own', () => {
    const found = figures({
      items: pictures(60),
      loading: { resetOnBind: false, memoryMb: 0 },
      steps: [
        { do: 'wait', ms: 1500 },
        { do: 'jump', row: 30 },
        { do: 'wait', ms: 480 },
        { do: 'leave' },
        { do: 'wait', ms: 9000 },
      ],
    })
    expect(found['pictures.wrong']!).toBeGreaterThan(0)
    expect(found['pictures.wrongMs']!).toBeLessThanOrEqual(4500)
  })

  it('are holes for as long as they show', () => {
    const parts = {
      network: { downKbps: 800 },
      steps: [
        { do: 'wait', ms: 700 },
        { do: 'flick', dpPerS: 6000 },
        { do: 'wait', ms: 1200 },
        { do: 'flick', dpPerS: -6000 },
        { do: 'wait', ms: 2000 },
      ],
    }
    const slipped = figures({ ...parts, loading: { guard: false, resetOnBind: false, memoryMb: 1 } })
    expect(slipped['pictures.wrong']!).toBeGreaterThan(5)
    const kept = figures({ ...parts, loading: { guard: true, resetOnBind: true, memoryMb: 1 } })
    expect(slipped['pictures.holeShare']!).toBeGreaterThan(0.9 * kept['pictures.holeShare']!)
  })
})

describe('transfers and requests', () => {
  it('that stall time out when the time-out has passed since the last byte', () => {
    const { facts } = runOf(
      projectWith({
        items: pictures(1),
        network: { ...plainLink, faults: [{ match: '*', kind: 'stall', afterBytes: 1000 }] },
        loading: { timeoutMs: 15_000, retry: { attempts: 0 } },
        steps: [{ do: 'wait', ms: 20_000 }],
      }),
    )
    // 100 ms to the first byte, 1 ms for a thousand bytes.
    expect(facts.requests[0]).toMatchObject({ end: 'failed', reason: 'timeout' })
    const [transfer] = facts.transfers
    expect((transfer!.endT - transfer!.startT) / 1000).toBeCloseTo(15_101, 0)
  })

  it('that were refused without a transfer are in neither part of the wasted share', () => {
    const items = pictures(8).map((item, i) =>
      i === 0 ? item : { ...item, photo: `http://pictures.example.test/${i}` },
    )
    expect(figures({ items })).toMatchObject({ 'requests.failed': 7, 'requests.wastedShare': 0 })
  })

  it('begin a retry clean: no wait and no status of an earlier try', () => {
    const { facts, log } = {
      ...runOf(projectWith(retried)),
      log: simulateVisits(projectWith(retried), ['first'])[0]!.log,
    }
    const starts = facts.transfers.map(({ startT }) => startT / 1000)
    expect(starts).toHaveLength(3)
    // 503 at once, five seconds, a time-out of one second, then the back-off of 2 × 0.5 s and not five seconds again.
    expect(starts[2]! - starts[1]!).toBeCloseTo(2000, -1)
    const statuses: number[] = []
    log.each(({ kind, x, d }, row) => {
      if (kind[row] === failKind && log.strings[d[row]!] === 'timeout') statuses.push(x[row]!)
    })
    expect(statuses).toEqual([0])
  })

  it('that wait for renewed credentials have not failed, whoever joins them', () => {
    const found = figures({
      items: [...pictures(1), { ...pictures(1)[0], id: 'again' }],
      layout: { columns: 1 },
      loading: {
        headers: [{ host: 'pictures.example.test', name: 'Authorization', secret: 'a', lastsS: 1 }],
        memoryMb: 0,
        diskMb: 0,
      },
      network: { ...plainLink, rttMs: 200 },
      device: { heightDp: 100 },
      cell: { height: { type: 'fixed', dp: 110 } },
      steps: [
        { do: 'wait', ms: 1500 },
        { do: 'jump', row: 1 },
        { do: 'wait', ms: 10 },
        { do: 'jump', row: 0 },
        { do: 'wait', ms: 3000 },
      ],
    })
    expect(found['pictures.failed']).toBe(0)
  })
})

const failKind = K.fail
const retried = {
  items: pictures(1),
  network: {
    ...plainLink,
    faults: [
      { match: '*', kind: 'status', status: 503, retryAfterS: 5, times: 1 },
      { match: '*', kind: 'timeout', times: 1 },
    ],
  },
  loading: { timeoutMs: 1000, retry: { attempts: 3, firstMs: 500, factor: 2, jitter: 0 } },
  steps: [{ do: 'wait', ms: 12_000 }],
}

describe('a change of address on screen', () => {
  const base = {
    items: [
      { id: 'a', photo: 'https://pictures.example.test/a.jpg', width: 100, height: 100, bytes: 10_000, updated: 0 },
    ],
    slot: { address: { type: 'template', template: '{+photo}?v={updated}' } },
    loading: { memoryMb: 8 },
    network: plainLink,
  }

  it('by an edit ends one exposure and begins another: what was seen was shown', () => {
    const found = figures({
      ...base,
      steps: [
        { do: 'wait', ms: 1500 },
        { do: 'edit', op: 'update' },
        { do: 'wait', ms: 1500 },
      ],
    })
    expect(found).toMatchObject({
      'pictures.exposures': 2,
      'bytes.neverSeen': 0,
      'bytes.wastedShare': 0,
      'decode.wastedMs': 0,
    })
  })

  it('by a turn of the device, where a cell is given its item back', () => {
    const found = figures({
      ...base,
      slot: {
        size: { type: 'fill' },
        address: { type: 'template', template: '{+photo}?w={widthPx}' },
      },
      steps: [{ do: 'wait', ms: 1500 }, { do: 'rotate' }, { do: 'wait', ms: 1500 }],
    })
    expect(found).toMatchObject({ 'pictures.exposures': 2, 'bytes.neverSeen': 0, 'bytes.wastedShare': 0 })
  })
})

describe('holes', () => {
  it('are looked at through the screen as it is: a turned one is lower', () => {
    const { facts, metrics } = runOf(
      projectWith({
        items: pictures(30),
        network: { ...plainLink, rttMs: 400 },
        cell: { height: { type: 'fixed', dp: 100 } },
        steps: [{ do: 'rotate' }, { do: 'wait', ms: 3000 }],
      }),
    )
    // 411 dp high: four rows and a bit are seen, and no more counts.
    const seen = facts.exposures.filter(({ enterT }) => enterT === facts.exposures[0]!.enterT)
    const area = (from: number, to: number, share: number) => (to - from) * 100 * 100 * share
    const shares = seen.map(({ row }) => Math.max(0, Math.min(1, (411 - row * 100) / 100)))
    let [all, hole] = [0, 0]
    for (const [i, each] of seen.entries()) {
      all += area(each.enterT, each.leaveT, shares[i]!)
      hole += area(each.enterT, each.shownT!, shares[i]!)
    }
    expect(metrics['pictures.holeShare']).toBeCloseTo(hole / all, 6)
  })
})

describe('jumps', () => {
  const tall = pictures(40).map((item, i) => ({ ...item, height: 60 + 20 * (i % 5) }))

  it('count what moves on screen, not rows below it and not a last row with nothing beneath', () => {
    const slot = { size: { type: 'from-picture' } }
    const near = figures({ items: tall, slot, device: { widthDp: 100, heightDp: 300 } })
    const far = figures({ items: tall, slot, device: { widthDp: 100, heightDp: 300 }, layout: { afterDp: 4000 } })
    expect(near['pictures.jumps']!).toBeGreaterThan(0)
    expect(far['pictures.jumps']!).toBeLessThanOrEqual(near['pictures.jumps']! + 1)
    expect(figures({ items: tall.slice(0, 1), slot })['pictures.jumps']).toBe(0)
  })
})

describe('a wait for a slot', () => {
  it('is an inversion only where the slot could be used: another host’s transfer is not in the way of a full host', () => {
    const items = pictures(40).map((item, i) => ({
      ...item,
      photo: `https://${i < 3 ? 'a' : 'b'}.example.test/${i}.jpg`,
      bytes: 100_000,
    }))
    const found = figures({
      items,
      cell: { height: { type: 'fixed', dp: 100 } },
      device: { heightDp: 300, widthDp: 100 },
      loading: { fetchSlots: 6, fetchSlotsPerHost: 1, ahead: { by: 'rows', amount: 3, onlyWhenIdle: false } },
      network: { ...plainLink, downKbps: 1000 },
      steps: [{ do: 'wait', ms: 5000 }],
    })
    expect(found['requests.inversionMs']).toBe(0)
  })
})

describe('decodes', () => {
  it('are wasted one by one: a picture that is decoded again after it was thrown away was wasted once', () => {
    const { metrics, facts } = runOf(
      projectWith({
        items: pictures(40),
        cell: { height: { type: 'fixed', dp: 100 } },
        device: { widthDp: 100, heightDp: 300 },
        loading: { memoryMb: 0, diskMb: 0, ahead: { by: 'rows', amount: 4, onlyWhenIdle: false } },
        network: plainLink,
        steps: [
          { do: 'wait', ms: 2000 },
          { do: 'drag', dp: 400, ms: 400 },
          { do: 'wait', ms: 2000 },
        ],
      }),
    )
    const shown = facts.exposures.filter(isShown).length
    const each = facts.decodes[0]!.us / 1000
    expect(metrics['decode.wastedMs']).toBeCloseTo((facts.decodes.length - shown) * each, 6)
    expect(facts.decodes.length).toBeGreaterThan(shown + 3)
  })
})

describe('outages', () => {
  const outage = (network: Json, steps: Json[]) => {
    const { facts } = runOf(projectWith({ items: pictures(1), network: { ...plainLink, ...network }, steps }))
    return facts.exposures[0]!.shownT! / 1000
  }

  it('last while any reason stands: spans that lie in one another, and a script’s own', () => {
    const wait = [{ do: 'wait', ms: 4000 }]
    const spans = [
      { fromMs: 0, toMs: 3000 },
      { fromMs: 1000, toMs: 2000 },
    ]
    expect(outage({ offline: spans }, wait)).toBeGreaterThan(3000)
    const online = [{ do: 'wait', ms: 500 }, { do: 'online' }, { do: 'wait', ms: 4000 }]
    expect(outage({ offline: [{ fromMs: 0, toMs: 3000 }] }, online)).toBeGreaterThan(3000)
    const offline = [{ do: 'offline' }, { do: 'wait', ms: 2500 }, { do: 'online' }, { do: 'wait', ms: 2000 }]
    expect(outage({ offline: [{ fromMs: 100, toMs: 1000 }] }, offline)).toBeGreaterThan(2500)
  })
})

describe('pages of a feed', () => {
  let lastPageMs = 0
  const log = (more: Parameters<typeof projectWith>[0]) => {
    const project = projectWith({ ...more, feed: { source: { type: 'origin', feed: 'kiln-log' }, ...more.feed } })
    const { facts } = runOf(project)
    const pages: [number, string][] = []
    lastPageMs = 0
    facts.log.each(({ kind, t, a, b }, row) => {
      if (facts.log.strings[b[row]!] === undefined || kind[row] !== pageKind) return
      lastPageMs = t[row]! / 1000
      pages.push([a[row]!, facts.log.strings[b[row]!]!])
    })
    return pages
  }

  it('need the network to be granted, and meet its faults like pictures', () => {
    expect(log({ device: { granted: { network: false } } })).toEqual([[1, 'not-granted']])
    const met = (fault: Json) =>
      log({ network: { faults: [{ match: '*/feeds/kiln-log?page=1', ...fault }] }, loading: { timeoutMs: 500 } })
    expect(met({ kind: 'status', status: 503 })).toEqual([[1, 'status 503']])
    expect(met({ kind: 'timeout' })).toEqual([[1, 'timeout']])
    expect(met({ kind: 'stall', afterBytes: 100 })).toEqual([[1, 'timeout']])
    expect(met({ kind: 'truncate' })).toEqual([[1, 'truncated']])
    expect(met({ kind: 'redirect-loop' })).toEqual([[1, 'redirects']])
    expect(met({ kind: 'wrong-type' })).toEqual([[1, 'not a feed']])
    // Its head says how large it is: 40 MB are not waited for, live or simulated.
    expect(met({ kind: 'huge' })).toEqual([[1, 'too-large']])
    expect(lastPageMs).toBeLessThan(1000)
  })
})

describe('what is at the edge', () => {
  it('a row that begins just where looking ahead, or the zone, ends is beyond it', () => {
    const ahead = (amount: number) =>
      runOf(
        projectWith({
          items: pictures(60),
          cell: { height: { type: 'fixed', dp: 100 } },
          device: { widthDp: 100, heightDp: 400 },
          loading: { ahead: { by: 'screens', amount, onlyWhenIdle: false } },
        }),
      ).facts.requests.length
    expect([ahead(0.5), ahead(1), ahead(1.01)]).toEqual([6, 8, 9])
  })

  it('a frame that is later than 2,147 s is as late as it is', () => {
    const { metrics, facts } = runOf(
      projectWith({
        items: pictures(1),
        device: { speed: 0.3, costs: { frameMs: 900_000 } },
        steps: [{ do: 'wait', ms: 100 }],
      }),
    )
    expect(facts.frames[0]!.work).toBeGreaterThan(2.5e9)
    expect(facts.frames[0]!.presented - facts.frames[0]!.due).toBeGreaterThan(2.4e9)
    expect(metrics['frames.workMax']!).toBeGreaterThan(2_500_000)
  })
})

const pageKind = K.page
