import { describe, expect, it } from 'vitest'
import { EventReader } from '../../src/core/log/event-reader.ts'
import { disagreements } from '../../src/core/layout/frame-agreement.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { requestStory } from '../../src/core/profile/stories/stories.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

type Parts = Parameters<typeof projectOf>[0]

const alone = { ahead: { amount: 0 }, diskMb: 0 }
const wait = (ms: number) => ({ do: 'wait', ms })

function drive(parts: Parts) {
  const project = projectOf({
    device: freeDevice,
    network: plainLink,
    ...parts,
    loading: { ...alone, ...parts.loading },
  })
  return profileRun(simulate(project).log)
}

describe('letting go', () => {
  /** One row on screen; after 100 + 60 ms, 60 of 100 kB have arrived when the list jumps away. */
  const jump = {
    items: items(200, 100_000),
    device: { ...freeDevice, heightDp: 100 },
    steps: [wait(160), { do: 'jump', row: 150 }, wait(1500)],
  }

  it('cuts a transfer off when its cell is recycled, or finishes it when enough has arrived', () => {
    const first = (keepAbove: number) => drive({ ...jump, loading: { cancel: { keepAbove } } }).facts.transfers[0]!
    expect(first(1)).toMatchObject({ end: 'cut' })
    expect(first(0.9)).toMatchObject({ end: 'cut' })
    expect(first(0.5)).toMatchObject({ end: 'complete', bytes: 100_000 })
    expect(first(0)).toMatchObject({ end: 'complete' })
  })

  it('counts what was finished though nothing needed them as never seen', () => {
    const { metrics } = drive({ ...jump, loading: { cancel: { when: 'never' } } })
    expect(metrics).toMatchObject({ 'bytes.cutOff': 0, 'bytes.neverSeen': 100_000, 'requests.neverSeen': 1 })
  })

  it('by zone keeps a request while its row is near, and cuts it off beyond', () => {
    const near = { ...jump, steps: [wait(160), { do: 'drag', dp: 250, ms: 10 }, wait(1500)] }
    const loading = { cancel: { when: 'zone', zoneRows: 4 } }
    expect(drive({ ...near, loading }).facts.transfers[0]!.end).toBe('complete')
    expect(drive({ ...jump, loading }).facts.transfers[0]!.end).toBe('cut')
    expect(drive({ ...near }).facts.transfers[0]!.end).toBe('cut')
  })
})

describe('a screen that opens over the list', () => {
  /** Sixty rows of a wall; the other screen has four pictures of its own, of which the first is in the list too. */
  const project = (more: { loading?: object; steps: object[] }) => {
    const wall = projectOf({
      device: freeDevice,
      network: plainLink,
      items: items(60, 5000),
      loading: { ...alone, ...more.loading },
      steps: more.steps as never,
    })
    const other = projectOf({
      items: [
        { id: 'o0', photo: 'https://pictures.example.test/3.jpg', bytes: 5000, width: 300, height: 300 },
        ...[1, 2, 3].map((n) => ({
          id: `o${n}`,
          photo: `https://other.example.test/${n}.jpg`,
          bytes: 5000,
          width: 300,
          height: 300,
        })),
      ],
    })
    return profileRun(simulate({ ...wall, screens: [...wall.screens, { ...other.screens[0]!, id: 'other' }] }).log)
  }
  const open = { do: 'open', screen: 'other', item: 0 }
  const others = (facts: ReturnType<typeof project>['facts']) =>
    facts.requests.filter(({ asset }) => facts.log.assets[asset]!.host === 'other.example.test')

  it('loads what it shows, before what the covered list still wants, and shares what is held already', () => {
    const { facts, metrics } = project({ steps: [wait(1500), open, wait(1500), { do: 'back' }, wait(300)] })
    expect(others(facts).map(({ end }) => end)).toEqual(['ready', 'ready', 'ready'])
    // The one that the list has shown already is there at once.
    expect(facts.uses.length).toBe(4)
    expect(metrics).toMatchObject({ 'bytes.neverSeen': 0, 'requests.total': 8 })
    const early = project({
      loading: { fetchSlots: 1, cancel: { whenLeft: 'finish-running' } },
      steps: [wait(120), open, wait(3000), { do: 'back' }, wait(2500)],
    })
    const started = early.facts.transfers.map(({ asset }) =>
      early.facts.log.assets[asset]!.address.replace(/^https:.*?([a-z]+)\.example\.test/, '$1'),
    )
    // One of the list’s runs on; then what the opened screen shows, a picture of both among it, and only after the way
    // back the rest.
    expect(started).toEqual([
      'pictures/0.jpg',
      'pictures/1.jpg',
      'pictures/3.jpg',
      'other/1.jpg',
      'other/2.jpg',
      'other/3.jpg',
      'pictures/2.jpg',
      'pictures/4.jpg',
    ])
    expect(early.checks.filter(({ ok }) => !ok)).toEqual([])
  })

  it('receives nothing after the way back', () => {
    const { facts, checks } = project({ steps: [wait(1500), open, wait(20), { do: 'back' }, wait(800)] })
    expect(facts.uses.length).toBe(1)
    expect(others(facts).map(({ end }) => end)).toEqual(['cancelled', 'cancelled', 'cancelled'])
    expect(checks.find(({ id }) => id === 'closed')).toMatchObject({ ok: true })
  })

  it('finds its pictures in memory when its list was looked ahead for, which nothing on screen waits for', () => {
    const { facts } = project({
      loading: { ahead: { amount: 0, lists: ['other'] } },
      steps: [wait(2500), open, wait(300), { do: 'back' }, wait(300)],
    })
    const opened = 2_500_000
    const firstOther = Math.min(...others(facts).map(({ queueT }) => queueT))
    expect(firstOther).toBeGreaterThanOrEqual(
      Math.max(...facts.claims.filter(({ cell }) => cell !== null).map(({ deliverT }) => deliverT!)),
    )
    expect(others(facts).every(({ endT }) => endT < opened)).toBe(true)
    expect(facts.claims.filter(({ scope }) => scope === 'opened').map(({ tier }) => tier)).toEqual([
      'memory',
      'memory',
      'memory',
      'memory',
    ])
  })

  it('has its requests drawn where the list stood, and reports no row or item of the list for them', () => {
    const run = project({
      steps: [wait(1500), { do: 'jump', row: 30 }, wait(1500), open, wait(900), { do: 'back' }, wait(300)],
    })
    const map = mapOf(run.facts, run.ledger)
    for (const { id } of others(run.facts)) {
      const at = map.lines.request.indexOf(id)
      expect([map.lines.row[at], map.lines.y[at]]).toEqual([-1, 30 * 100 + 250])
      expect(requestStory(run.facts, run.ledger, id)).toMatchObject({ items: [], cells: [] })
    }
  })

  it('is the item’s own, one picture as wide as the device, when no screen has its name', () => {
    const { facts } = project({
      steps: [wait(1500), { do: 'open', screen: 'detail', item: 3 }, wait(900), { do: 'back' }, wait(200)],
    })
    expect(facts.uses.map(({ rendition }) => facts.log.renditions[rendition]!)).toMatchObject([
      { targetWidth: 100, targetHeight: 100 },
    ])
  })
})

describe('credentials that a host takes back', () => {
  const headers = (lastsS: number | null) => [
    { host: '*.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'token', lastsS },
  ]
  /** Five rows at once, and after two seconds five more: by then what was issued at the start is too old. */
  const later = { items: items(60, 5000), steps: [wait(2000), { do: 'jump', row: 20 }, wait(1500)] }

  it('are renewed once for all that were refused, and those are asked again', () => {
    const { metrics, facts } = drive({ ...later, loading: { headers: headers(1.5) } })
    const refused = facts.transfers.filter(({ status }) => status === 401)
    expect(refused.length).toBe(5)
    expect(metrics).toMatchObject({ 'pictures.failed': 0, 'requests.failed': 0, 'requests.total': 10 })
    // One call: each is asked again a round trip for the renewal and its own way later.
    const again = facts.transfers.filter(({ startT }) => startT > refused[0]!.endT)
    expect(again).toHaveLength(5)
    expect(new Set(again.map(({ startT }) => startT)).size).toBe(1)
    expect(again[0]!.startT - refused[0]!.endT).toBeGreaterThanOrEqual(100_000)
  })

  it('do not save a request that is refused with new ones too, nor one whose host has no header', () => {
    const faults = [{ match: '*', kind: 'status', status: 401 }]
    const both = [headers(null), []].map((each) =>
      drive({ items: items(3), network: { ...plainLink, faults }, loading: { headers: each }, steps: [wait(2000)] }),
    )
    expect(both.map(({ facts }) => facts.transfers.length)).toEqual([6, 3])
    for (const { metrics } of both) expect(metrics).toMatchObject({ 'pictures.failed': 3, 'requests.failed': 3 })
  })
})

describe('a stale copy on disk', () => {
  /** Two pictures that are good for a second; the second visit comes later. */
  const visits = (stale: string, network: object = plainLink) => {
    const project = projectOf({
      items: [1, 2].map((n) => ({
        id: n,
        photo: `https://archive.example.test/tiles/${n}?width=80&height=80&fresh=1${stale}`,
      })),
      device: freeDevice,
      network: network as Record<string, unknown>,
      loading: { ahead: { amount: 0 } },
      steps: [wait(3000)],
    })
    return simulateVisits(project, ['first', 'restarted']).map(({ log }) => profileRun(log))
  }

  it('is served at once and revalidated behind, where its headers allow that; else it waits for the answer', () => {
    const [, meanwhile] = visits('&stale=600')
    expect(meanwhile!.metrics).toMatchObject({ 'tier.diskShare': 1, 'bytes.received': 0, 'pictures.failed': 0 })
    expect(meanwhile!.facts.transfers.map(({ status, conditional }) => [status, conditional])).toEqual([
      [304, true],
      [304, true],
    ])
    const [, asked] = visits('')
    expect(asked!.facts.transfers.map(({ status }) => status)).toEqual([304, 304])
    // The one is shown in the first frame that it can, the other a round trip later.
    expect(asked!.metrics['pictures.waitP50']! - meanwhile!.metrics['pictures.waitP50']!).toBeGreaterThan(90)
    for (const { checks } of [meanwhile!, asked!]) expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('is still shown when it cannot be revalidated', () => {
    const [, run] = visits('&stale=600', {
      ...plainLink,
      faults: [{ match: '*/tiles/*', kind: 'status', status: 500, rate: 1, times: null }],
    })
    // The first visit fails too: nothing was kept, and nothing is served.
    expect(run!.metrics['pictures.failed']).toBe(2)
    const [, late] = visits('&stale=600', { ...plainLink, offline: [{ fromMs: 2_999_999, toMs: 3_000_000 }] })
    expect(late!.metrics).toMatchObject({ 'tier.diskShare': 1, 'pictures.failed': 0 })
  })
})

describe('scopes', () => {
  const list = {
    items: items(40, 60_000),
    steps: [wait(250), { do: 'leave' }, wait(1500), { do: 'return' }, wait(4000)],
  }
  const left = (loading: Record<string, unknown>, step = 'leave') =>
    drive({
      ...list,
      steps: list.steps
        .map((each) => {
          if (each.do === 'leave') return { do: step }
          return 'ms' in each || step === 'leave' ? each : { do: step === 'open' ? 'back' : 'foreground' }
        })
        .map((each) => (each.do === 'open' ? { ...each, screen: 'list' } : each)),
      loading,
    })

  it('a screen that closes ends every claim at once, and nothing of them is delivered afterwards, guard or not', () => {
    for (const loading of [
      {},
      { guard: false },
      { cancel: { when: 'zone', zoneRows: 8 } },
      { cancel: { whenLeft: 'carry-on' } },
    ]) {
      const { facts, checks } = left(loading)
      const closed = facts.claims.filter((claim) => claim.why === 'closed')
      expect(closed.length).toBeGreaterThan(4)
      expect(closed.filter(({ deliverT, releaseT }) => deliverT !== null && deliverT > releaseT!)).toEqual([])
      expect(checks.find(({ id }) => id === 'closed')).toMatchObject({
        ok: true,
        evidence: expect.stringMatching(/^0 of \d+ claims/) as string,
      })
      // On return all is asked for again, and shown.
      expect(facts.exposures.filter((each) => each.enterT > 1_700_000).every((each) => each.outcome === 'shown')).toBe(
        true,
      )
    }
  })

  it('what runs when a screen closes is let go, finished or carried on, as the policy says', () => {
    const after = (whenLeft: string) =>
      left({ cancel: { whenLeft }, fetchSlots: 2 }).facts.transfers.filter((each) => each.startT < 1_500_000)
    expect(after('let-go').filter((each) => each.end === 'cut').length).toBe(2)
    expect(after('finish-running').every((each) => each.end === 'complete')).toBe(true)
    expect(after('carry-on').length).toBeGreaterThan(after('finish-running').length)
  })

  it('a screen that another one covers keeps its cells: on the way back what was shown is there at once', () => {
    const { facts, metrics } = left({ cancel: { whenLeft: 'finish-running' } }, 'open')
    expect(metrics['cells.bound']).toBe(metrics['cells.created'])
    expect(facts.claims.some((claim) => claim.why === 'closed')).toBe(false)
  })
})

describe('trying again', () => {
  const fault = (more: object) => ({
    ...plainLink,
    faults: [{ match: '*/0.jpg', kind: 'status', status: 503, ...more }],
  })
  const one = { items: items(1, 1000), steps: [wait(100)] }

  it('waits as long as Retry-After says, and then shows the picture', () => {
    const { facts, metrics } = drive({ ...one, network: fault({ retryAfterS: 2, times: 1 }) })
    const [first, second] = facts.transfers
    expect(facts.transfers).toHaveLength(2)
    expect((second!.startT - first!.endT) / 1000).toBe(2000)
    expect(metrics).toMatchObject({ 'requests.retries': 1, 'requests.shown': 1, 'pictures.failed': 0 })
  })

  it('backs off twice as long each time, and gives up after its attempts', () => {
    const { facts, metrics } = drive({
      ...one,
      network: fault({}),
      loading: { retry: { attempts: 2, firstMs: 400, factor: 2, jitter: 0 } },
    })
    const gaps = facts.transfers.slice(1).map((each, i) => (each.startT - facts.transfers[i]!.endT) / 1000)
    expect(gaps).toEqual([400, 800])
    expect(metrics).toMatchObject({ 'requests.failed': 1, 'pictures.failed': 1 })
    expect(facts.requests[0]!.reason).toBe('status')
  })

  it('does not repeat what trying again cannot fix, and remembers it', () => {
    const again = { items: [...items(1, 1000), ...items(1, 1000)].map((item, i) => ({ ...item, id: `k${i}` })) }
    const { facts } = drive({
      ...again,
      network: fault({ status: 404 }),
      steps: [wait(100), { do: 'collect' }, wait(600), { do: 'leave' }, { do: 'return' }, wait(300)],
    })
    expect(facts.transfers).toHaveLength(1)
  })

  it.each([
    ['timeout', { loading: { timeoutMs: 700, retry: { attempts: 0 } } }, 'timeout'],
    ['stall', { loading: { timeoutMs: 700, retry: { attempts: 0 } } }, 'timeout'],
    ['truncate', { loading: { retry: { attempts: 0 } } }, 'truncated'],
    ['wrong-type', {}, 'not-a-picture'],
    ['broken', {}, 'undecodable'],
    ['empty', {}, 'undecodable'],
    ['huge', {}, 'too-large'],
    ['redirect-loop', {}, 'redirects'],
  ])('%s ends with its own reason, and its slot is free again', (kind, parts, reason) => {
    const { facts, checks } = drive({
      ...parts,
      items: items(4, 1000),
      network: fault({ kind }),
      loading: { fetchSlots: 1, ...(parts as Parts).loading },
    })
    expect(facts.requests[0]).toMatchObject({ end: 'failed', reason })
    expect(facts.exposures.map((each) => each.outcome)).toEqual(['failed', 'shown', 'shown', 'shown'])
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('waits for the network to return, without spending an attempt', () => {
    const { facts, metrics } = drive({
      ...one,
      network: { ...plainLink, offline: [{ fromMs: 50, toMs: 1300 }] },
      loading: { retry: { attempts: 0 } },
      steps: [wait(2000)],
    })
    expect(facts.transfers.map((each) => [each.end, each.startT >= 1_300_000])).toEqual([
      ['failed', false],
      ['complete', true],
    ])
    expect(metrics).toMatchObject({ 'requests.retries': 0, 'pictures.failed': 0, 'pictures.unseen': 0 })
  })
})

describe('refusals before anything loads', () => {
  it('tells cleartext, malformed and not granted apart, and spends nothing', () => {
    const photos = ['http://plain.example.test/a.jpg', 'https://[broken', 'https://good.example.test/b.jpg', undefined]
    const list = { items: photos.map((photo, i) => ({ id: `i${i}`, photo })) }
    const { facts, metrics } = drive(list)
    expect(facts.requests.map((each) => each.reason)).toEqual(['cleartext', 'bad-address', ''])
    expect(metrics).toMatchObject({ 'pictures.absent': 2, 'pictures.failed': 1, 'pictures.exposures': 2 })
    const allowed = drive({ ...list, loading: { cleartextHosts: ['plain.example.test'] } })
    expect(allowed.metrics['pictures.failed']).toBe(0)
    const offGrid = drive({ ...list, device: { ...freeDevice, granted: { network: false } } })
    expect(offGrid.facts.requests.map((each) => each.reason)).toEqual(['cleartext', 'bad-address', 'not-granted'])
    expect(offGrid.metrics['bytes.received']).toBe(0)
  })
})

describe('sharing', () => {
  const twins = { items: items(4, 20_000).map((item) => ({ ...item, photo: 'https://a.example.test/one.jpg' })) }

  it('loads and decodes an address once for all that want it, or each for itself', () => {
    expect(drive(twins).metrics).toMatchObject({
      'requests.total': 1,
      'bytes.received': 20_000,
      'decode.count': 1,
      'pictures.unseen': 0,
    })
    expect(drive({ ...twins, loading: { share: false } }).metrics).toMatchObject({
      'requests.total': 4,
      'bytes.again': 60_000,
      'bytes.shown': 20_000,
    })
  })
})

describe('a turn', () => {
  it('keeps the item at the top, and so far into its row; turning back gives the former place', () => {
    const square = { size: { type: 'aspect', ratio: 1 } }
    const run = simulate(
      projectOf({
        screen: { layout: { columns: 3 }, cells: [{ slots: [square] }] },
        items: items(600, 5000),
        device: { ...freeDevice, widthDp: 400, heightDp: 700 },
        steps: [
          { do: 'jump', row: 73 },
          { do: 'drag', dp: 37, ms: 100 },
          wait(300),
          { do: 'rotate' },
          wait(300),
          { do: 'rotate' },
          wait(300),
        ],
      }),
    )
    const tops: number[] = []
    const screens: number[] = []
    new EventReader(run.log, {
      scroll: ({ top }) => tops.push(top),
      screen: () => screens.push(tops.length),
    }).readAll()
    const [first, second] = screens
    const before = tops[first! - 1]!
    expect(before).toBeGreaterThan(70 * 400 * 0.3 * 1024)
    expect(tops[second!]).not.toBe(before)
    // To the row's whole unit, whatever its height was in between.
    expect(Math.abs(tops.at(-1)! - before)).toBeLessThanOrEqual(1)
  })
})

describe('ranks', () => {
  const column = { items: items(60, 50_000), device: { ...freeDevice, heightDp: 500 } }

  it('start nearest to the middle, or first come; a first screen from its top', () => {
    const order = (name: string, steps: Record<string, unknown>[]) =>
      drive({ ...column, loading: { fetchSlots: 1, order: name }, steps: [...steps, wait(3000)] })
        .facts.transfers.map(({ asset }) => asset)
        .slice(0, 5)
    const jumped = [{ do: 'jump', row: 20 }]
    expect(order('first-come', [])).toEqual([0, 1, 2, 3, 4])
    expect(order('nearest', [])).toEqual([0, 1, 2, 3, 4])
    expect(order('first-come', jumped)).toEqual([0, 1, 2, 3, 4])
    expect(order('nearest', jumped)[0]).toBe(2)
  })

  it('let nothing ahead start while something on screen waits, unless told to', () => {
    const early = (onlyWhenIdle: boolean) => {
      const { facts } = drive({
        ...column,
        loading: { fetchSlots: 8, ahead: { amount: 3, onlyWhenIdle } },
        steps: [wait(3000)],
      })
      const lastShown = Math.max(...facts.exposures.map((each) => each.shownT!))
      return facts.transfers.filter((each) => each.startClass > 0 && each.startT < lastShown - 20_000).length
    }
    // Six slots to one host: five for the screen, one is left for what comes up.
    expect([early(true), early(false)]).toEqual([0, 1])
  })

  it('start nothing while the list is faster than the limit', () => {
    const { facts } = drive({
      ...column,
      items: items(400, 5000),
      loading: { startBelowDpPerS: 1000 },
      steps: [wait(900), { do: 'flick', dpPerS: 8000 }, wait(4000)],
    })
    const slowAgain = 900 + 325 * Math.log(8)
    const during = facts.transfers.filter((each) => each.startT / 1000 > 950 && each.startT / 1000 < slowAgain)
    expect(during).toEqual([])
    expect(facts.transfers.some((each) => each.startT / 1000 >= slowAgain)).toBe(true)
  })
})

describe('tiers', () => {
  const visits = (loading: object) => {
    const project = projectOf({
      items: items(5, 10_000),
      device: freeDevice,
      network: plainLink,
      loading: { ahead: { amount: 0 }, ...loading },
    })
    return simulateVisits(project, ['first', 'restarted', 'again']).map(({ log }) => profileRun(log).metrics)
  }

  it('keep pictures over a restart on disk, and over a return in memory', () => {
    const [first, restarted, again] = visits({})
    expect(first).toMatchObject({ 'bytes.received': 50_000, 'disk.startMb': 0, 'disk.endMb': 0.05 })
    expect(restarted).toMatchObject({
      'bytes.received': 0,
      'requests.fromDisk': 5,
      'tier.diskShare': 1,
      'disk.startMb': 0.05,
    })
    expect(again).toMatchObject({ 'bytes.received': 0, 'tier.memoryShare': 1, 'pictures.readyShare': 1 })
  })

  it('ask whether a stale copy is still good, which costs no byte', () => {
    const [, restarted] = visits({ diskFreshness: { type: 'age', s: 0 } })
    expect(restarted).toMatchObject({ 'bytes.received': 0, 'requests.total': 5, 'tier.diskShare': 1 })
    expect(restarted!['pictures.waitP50']).toBeGreaterThan(90)
  })

  it('push the least recently used out, and say what was wanted again', () => {
    const there = {
      items: items(30, 1000, 200),
      slot: { decodeAt: { type: 'original' } },
      steps: [wait(600), { do: 'jump', row: 20 }, wait(600), { do: 'jump', row: 0 }, wait(600)],
    }
    const small = drive({ ...there, loading: { memoryMb: 0.4 } })
    expect(small.metrics['tier.evictions']).toBeGreaterThan(0)
    expect(small.metrics['tier.evictedThenWanted']).toBeGreaterThan(0)
    expect(drive(there).metrics).toMatchObject({ 'tier.evictions': 0, 'tier.evictedThenWanted': 0 })
  })
})

describe('cells', () => {
  const slow = { items: items(300, 60_000), steps: [wait(800), { do: 'drag', dp: 3000, ms: 1500 }, wait(4000)] }

  it('never show another picture with guard and reset, and do without', () => {
    expect(drive(slow).metrics['pictures.wrong']).toBe(0)
    expect(drive({ ...slow, loading: { resetOnBind: false } }).metrics['pictures.wrong']).toBeGreaterThan(0)
    expect(
      drive({ ...slow, loading: { guard: false, cancel: { when: 'never' } } }).metrics['pictures.wrong'],
    ).toBeGreaterThan(0)
  })

  it('held ones come back as they were, bound and with their picture', () => {
    const there = {
      items: items(60, 2000),
      steps: [wait(700), { do: 'drag', dp: 200, ms: 200 }, wait(300), { do: 'drag', dp: -200, ms: 200 }, wait(300)],
    }
    const held = drive({ ...there, screen: { layout: { columns: 1, gapDp: 0, paddingDp: 0, heldCells: 4 } } })
    expect(held.metrics['cells.heldHits']).toBe(2)
    expect(held.metrics['cells.bound']).toBeLessThan(drive(there).metrics['cells.bound']!)
  })

  it('an insert on top moves nothing on screen, and nothing that is unchanged flickers', () => {
    const { facts, metrics } = drive({
      items: items(100, 2000),
      steps: [{ do: 'drag', dp: 1030, ms: 300 }, wait(800), { do: 'edit', op: 'insert', at: 0, count: 3 }, wait(400)],
    })
    expect(facts.scrolls.at(-1)!.top / 1024).toBe(1330)
    expect(metrics).toMatchObject({ 'pictures.flickers': 0, 'pictures.wrong': 0 })
    expect(facts.placeBreaches).toEqual([])
  })

  it('at the very top, an insert is stayed away from, or followed, as the list is set', () => {
    const insert = (atTop: string, steps: { do: string; dp: number; ms: number }[] = []) =>
      drive({
        items: items(100, 2000),
        screen: { layout: { columns: 1, gapDp: 0, paddingDp: 0, atTop } },
        steps: [...steps, wait(500), { do: 'edit', op: 'insert', at: 0, count: 3 }, wait(900)],
      }).facts
    expect(insert('stay').scrolls.at(-1)!.top / 1024).toBe(300)
    const followed = insert('follow')
    expect(followed.scrolls.every(({ top }) => top === 0)).toBe(true)
    expect(Math.max(...followed.exposures.filter(({ left }) => !left).map(({ row }) => row))).toBeLessThan(10)
    // Anywhere else what is looked at stays.
    expect(insert('follow', [{ do: 'drag', dp: 50, ms: 100 }]).scrolls.at(-1)!.top / 1024).toBe(350)
  })

  it('what is inserted or updated has the data that the step brings, over again when there is less of it', () => {
    const own = (n: number) => ({ id: `own ${n}`, photo: `https://a.example.test/own-${n}.jpg`, bytes: 2000 })
    const addresses = (op: string, count: number) =>
      drive({
        items: items(40, 2000),
        steps: [
          wait(300),
          { do: 'edit', op, at: 0, count, items: [own(1), own(2)] },
          wait(900),
          { do: 'to', where: 'start', dpPerS: 5000 },
          wait(900),
        ],
      })
        .facts.log.assets.map(({ address }) => address)
        .filter((address) => address.includes('own'))
    expect(addresses('insert', 2).sort()).toEqual([own(1).photo, own(2).photo])
    expect(addresses('insert', 3).sort()).toEqual([own(1).photo, own(2).photo])
    expect(addresses('update', 1)).toEqual([own(1).photo])
  })

  it('sized by their picture jump when it arrives, by as much as it differs', () => {
    const tall = items(3, 1000).map((item) => ({ ...item, width: 200, height: 400 }))
    const { facts, metrics } = drive({
      items: tall,
      height: { type: 'content' },
      slot: { size: { type: 'from-picture' } },
      device: { ...freeDevice, heightDp: 300 },
    })
    expect(metrics['pictures.jumps']).toBe(facts.jumps.length)
    expect(facts.jumps.map((jump) => jump.units / 1024)).toContain(100)
  })
})

describe('frames by stage', () => {
  const two = { items: items(2, 8000), height: { type: 'content' }, device: { ...freeDevice, heightDp: 500 } }
  const small = { frame: { widthDp: 100, heightDp: 40 } }

  it('count a jump for each arrival by as many dp as the stages differ, and none when they agree', () => {
    const apart = drive({ ...two, slot: { stages: { waiting: small, arriving: small } } })
    // The first row moves the second; below the second there is nothing to move.
    expect(apart.metrics).toMatchObject({ 'pictures.jumps': 1, 'pictures.jumpDp': 60 })
    const agreed = drive(two)
    expect(agreed.metrics).toMatchObject({ 'pictures.jumps': 0, 'pictures.jumpDp': 0 })
    // Decoded for the settled frame either way.
    expect(apart.metrics['decode.pixelRatio']).toBe(agreed.metrics['decode.pixelRatio'])
  })

  it('move nothing when memory has the picture, or when what changed is above the window', () => {
    const back = [wait(600), { do: 'jump', row: 30 }, wait(600), { do: 'jump', row: 0 }, wait(600)]
    const long = {
      items: items(60, 8000),
      height: { type: 'content' },
      device: { ...freeDevice, heightDp: 200 },
      slot: { stages: { waiting: small, arriving: small } },
    }
    const { facts } = drive({ ...long, steps: back })
    const after = facts.jumps.filter(({ t }) => t > 1_250_000)
    expect(facts.jumps.length).toBeGreaterThan(3)
    expect(after).toEqual([])
  })

  it('are measured before anything loads: height, and lines of text that move', () => {
    const cell = {
      arrangement: 'picture-top',
      height: { type: 'content' },
      slots: [
        {
          size: { type: 'fixed', widthDp: 100, heightDp: 100 },
          stages: { waiting: { frame: { widthDp: 100, heightDp: 92 } } },
        },
      ],
      texts: [{ at: '/id' }, { at: '/photo' }],
    }
    const project = projectOf({ screen: { cells: [cell] } })
    expect(disagreements(project.screens[0]!.cells[0]!, 100, items(1)[0]!)).toEqual([
      { slot: 0, stage: 'waiting', heightDp: -8, textsMoved: 2, textDp: 8 },
      { slot: 0, stage: 'arriving', heightDp: -8, textsMoved: 2, textDp: 8 },
    ])
  })
})

describe('what the app carries itself', () => {
  const packaged = { assets: [{ name: 'mark', type: 'image/png', base64: 'A'.repeat(4000) }] }
  const slot = { address: { type: 'packaged', name: 'mark' } }
  const own = (parts: Parts) =>
    profileRun(
      simulate({
        ...projectOf({
          device: { ...freeDevice, costs: { ...freeDevice.costs, diskMs: 7, diskKBps: 1000 } },
          network: plainLink,
          ...parts,
        }),
        ...packaged,
      }).log,
    )

  it('takes no fetch slot and no byte of the network, but a read and a decode, without being granted the network', () => {
    const { metrics, facts, checks } = own({
      slot,
      items: items(20, 8000),
      device: { ...freeDevice, granted: { network: false, storage: true } },
    })
    expect(metrics).toMatchObject({
      'bytes.received': 0,
      'requests.peakActive': 0,
      'tier.networkShare': 0,
      'pictures.failed': 0,
      'decode.count': 1,
    })
    expect(metrics['tier.localShare']! + metrics['tier.memoryShare']!).toBe(1)
    expect(facts.transfers).toEqual([])
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('takes as long as the device reads: 7 ms and 3,000 bytes at 1,000 kB/s', () => {
    const { facts } = own({ slot, items: items(1, 8000) })
    expect(facts.decodes[0]!.startT - facts.requests[0]!.queueT).toBe(10_000)
  })

  it('fails as a bad address when there is no such picture', () => {
    const { metrics, facts } = own({ slot: { address: { type: 'packaged', name: 'other' } }, items: items(3, 8000) })
    expect(facts.requests.map(({ reason }) => reason)).toEqual(['bad-address'])
    expect(metrics['bytes.received']).toBe(0)
  })
})

describe('fallbacks', () => {
  const link = {
    ...plainLink,
    faults: [
      { match: '*first*', kind: 'status', status: 404 },
      { match: '*second*', kind: 'status', status: 410 },
    ],
  }
  const chain = (fallbacks: string[]) => ({
    items: [{ id: 1, photo: 'https://a.example.test/first.jpg', bytes: 8000 }],
    network: link,
    slot: { stages: { failed: { fallbacks } } },
  })

  it('are asked for one after the other until one comes', () => {
    const { facts, metrics, checks } = drive(
      chain([
        'https://a.example.test/second.jpg',
        'https://a.example.test/third.jpg',
        'https://a.example.test/fourth.jpg',
      ]),
    )
    expect(facts.requests.map(({ asset }) => facts.log.assets[asset]!.address.split('/').at(-1))).toEqual([
      'first.jpg',
      'second.jpg',
      'third.jpg',
    ])
    expect(metrics).toMatchObject({ 'pictures.failed': 0, 'pictures.exposures': 1, 'pictures.wrong': 0 })
    expect(facts.exposures[0]!.outcome).toBe('shown')
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('end on the failed visual when none comes, and are not asked for while the network is gone', () => {
    expect(drive(chain(['https://a.example.test/second.jpg'])).metrics['pictures.failed']).toBe(1)
    const { facts } = drive({
      ...chain(['https://a.example.test/third.jpg']),
      network: { ...plainLink, offline: [{ fromMs: 0, toMs: 400 }] },
      steps: [wait(1500)],
    })
    expect(facts.requests.map(({ asset }) => facts.log.assets[asset]!.address.split('/').at(-1))).toEqual(['first.jpg'])
    expect(facts.exposures[0]!.outcome).toBe('shown')
  })
})

describe('a picture outside the list', () => {
  const load = (address: string, px = 48) => ({ do: 'load', address, px })
  const own = 'https://b.example.test/mark.jpg'

  it('is loaded at its own size, used, and is no waste', () => {
    const { facts, metrics, checks } = drive({ items: items(1, 8000), steps: [wait(600), load(own), wait(600)] })
    const request = facts.requests.find(({ asset }) => facts.log.assets[asset]!.address === own)!
    expect(request.end).toBe('ready')
    expect(facts.uses.map(({ rendition }) => facts.log.renditions[rendition]!)).toEqual([
      expect.objectContaining({ asset: request.asset, width: 48, height: 48 }),
    ])
    expect(metrics).toMatchObject({
      'bytes.neverSeen': 0,
      'decode.wastedMs': 0,
      'pictures.exposures': 1,
      'requests.shown': 1,
      'requests.shownEarly': 1,
    })
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('shares what the list loads, comes from memory the second time, and says when its address is wrong', () => {
    const shared = drive({
      items: items(1, 8000),
      steps: [
        load('https://pictures.example.test/0.jpg'),
        wait(900),
        load('https://pictures.example.test/0.jpg'),
        load('ftp://x'),
        wait(300),
      ],
    })
    expect(shared.facts.transfers.length).toBe(1)
    expect(shared.facts.uses.length).toBe(2)
    expect(shared.facts.claims.filter(({ scope }) => scope === 'app').map(({ tier }) => tier)).toEqual([
      'network',
      'memory',
      '',
    ])
    expect(shared.facts.requests.at(-1)).toMatchObject({ end: 'failed', reason: 'bad-address' })
  })
})
