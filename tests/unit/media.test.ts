import { describe, expect, it } from 'vitest'
import { sizeFor, snapsFor } from '../../src/app/cell/slot/frame-size.ts'
import { differencesOf } from '../../src/core/compare/same-pixels.ts'
import { tileBytes } from '../../src/core/feed/tiles.ts'
import { K } from '../../src/core/log/event-kinds.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const ahead = { ahead: { amount: 0 }, diskMb: 0 }
const moving = (n: number, frames = 8) => ({
  id: `m${n}`,
  photo: `https://archive.example.test/tiles/${n}?width=100&height=100&frames=${frames}`,
})
const wait = (ms: number) => ({ do: 'wait', ms })

function drive(slot: Record<string, unknown>, more: Partial<Parameters<typeof projectOf>[0]> = {}) {
  const project = projectOf({
    items: [moving(1)],
    slot,
    loading: ahead,
    network: plainLink,
    steps: [wait(3000)],
    ...more,
  })
  return profileRun(simulate(project).log)
}
const played = ({ facts }: ReturnType<typeof drive>) => facts.frames.filter((frame) => frame.causes.has('animation'))

describe('moving pictures', () => {
  it('cost an upload a frame while they play, ten a second, and nothing as a first frame or a still', () => {
    const run = drive({ media: { type: 'animated', play: 'on-screen' } })
    const shown = run.facts.exposures[0]!.shownT! / 1000
    expect(played(run).length).toBeGreaterThanOrEqual(Math.floor((3000 - shown) / 100) - 1)
    expect(played(run).length).toBeLessThanOrEqual(Math.ceil((3000 - shown) / 100) + 1)
    // uploadMs 0.15 and 1 ns for each of 100 × 100 px.
    expect(new Set(played(run).map((frame) => frame.causes.get('animation')))).toEqual(new Set([160]))
    expect(played(drive({ media: { type: 'animated', play: 'first-frame' } }))).toEqual([])
    expect(played(drive({}))).toEqual([])
  })

  it('are decoded and kept frame by frame: as many decodes and as much memory as they have frames', () => {
    const all = drive({ media: { type: 'animated' } })
    const first = drive({ media: { type: 'animated', play: 'first-frame' } })
    expect(all.facts.decodes[0]!.us).toBe(8 * first.facts.decodes[0]!.us)
    const bound = (run: typeof all) => Math.max(...run.facts.memory.map((each) => each.bound))
    expect(bound(all)).toBe(8 * bound(first))
    expect(all.metrics['bytes.received']).toBe(tileBytes(1, 100, 100, 'webp', 8))
  })

  it('stop off screen, unless they always play', () => {
    const list = {
      items: [moving(1), ...items(30)],
      screen: { layout: { columns: 1, gapDp: 0, paddingDp: 0, beforeDp: 4000 } },
      steps: [wait(1500), { do: 'jump', row: 20 }, wait(1500)],
    }
    const late = (play: string) =>
      played(drive({ media: { type: 'animated', play } }, list)).filter((frame) => frame.begin > 1_600_000).length
    expect(late('on-screen')).toBe(0)
    expect(late('always')).toBeGreaterThan(10)
  })
})

describe('posters and local pictures', () => {
  it('a poster costs the seek and one decode, and nothing of the network when its video is on the device', () => {
    const video = (name: string) => ({
      items: [{ id: 'v', photo: `local:${name}`, width: 100, height: 100, bytes: 500_000 }],
    })
    const poster = drive({ media: { type: 'poster', offsetMs: 900 } }, video('clip.webm'))
    const still = drive({}, video('clip.jpg'))
    expect((poster.facts.decodes[0]!.us - still.facts.decodes[0]!.us) / 1000).toBe(35)
    expect(poster.metrics).toMatchObject({
      'tier.localShare': 1,
      'bytes.received': 0,
      'requests.peakActive': 0,
      'pictures.readyShare': 0,
    })
    // Reading costs what the device's disk costs: 4 ms and 500 kB at 80 MB/s.
    expect((poster.facts.decodes[0]!.startT - poster.facts.requests[0]!.queueT) / 1000).toBeCloseTo(4 + 6.25, 3)
  })
})

describe('standing in', () => {
  /** The same address in two slots of different sizes: rows of the second kind come after the first. */
  const project = (standIn: boolean) =>
    projectOf({
      items: [
        { id: 'a', kind: 'large', photo: 'https://a.example.test/1.jpg', bytes: 50_000, width: 400, height: 400 },
        { id: 'b', kind: 'small', photo: 'https://a.example.test/1.jpg', bytes: 50_000, width: 400, height: 400 },
      ],
      screen: {
        feed: {
          kind: '/kind',
          source: {
            type: 'inline',
            items: [
              { id: 'a', kind: 'small', photo: 'https://a.example.test/1.jpg', bytes: 50_000, width: 400, height: 400 },
              { id: 'b', kind: 'large', photo: 'https://a.example.test/1.jpg', bytes: 50_000, width: 400, height: 400 },
            ],
          },
        },
        cells: ['small', 'large'].map((kind) => ({
          kind,
          height: { type: 'fixed', dp: 520 },
          slots: [
            { size: { type: 'fixed', widthDp: kind === 'small' ? 50 : 400, heightDp: kind === 'small' ? 50 : 400 } },
          ],
        })),
      },
      loading: { ...ahead, standIn },
      network: plainLink,
      device: { ...freeDevice, widthDp: 400, heightDp: 500 },
      steps: [wait(1000), { do: 'drag', dp: 520, ms: 100 }, wait(1000)],
    })
  const stoodIn = (standIn: boolean) => {
    const { log } = simulate(project(standIn))
    const found: { t: number; cell: number; rendition: number }[] = []
    log.each((chunk, row) => {
      if (chunk.kind[row] === K.standIn) found.push({ t: chunk.t[row]!, cell: chunk.a[row]!, rendition: chunk.b[row]! })
    })
    return { found, ...profileRun(log) }
  }

  it('shows what memory has of the same picture at another size until the right one is there, and wrongs nobody', () => {
    const { found, facts, checks } = stoodIn(true)
    expect(found).toHaveLength(1)
    expect(facts.log.renditions[found[0]!.rendition]).toMatchObject({ targetWidth: 50 })
    const large = facts.exposures.find((each) => each.index === 1)!
    expect(large.outcome).toBe('shown')
    // It stands in from the frame on in which its cell was bound; the right one comes behind the network's 100 ms.
    expect(large.shownT! - found[0]!.t).toBeGreaterThan(100_000)
    expect(checks.filter((check) => !check.ok)).toEqual([])
    expect(stoodIn(false).found).toEqual([])
  })
})

describe('an item that was just added', () => {
  it('shows its local picture until the remote one is there, and flickers for nobody', () => {
    const project = projectOf({
      items: [{ id: 'a', updated: '0', width: 100, height: 100 }, ...items(3)],
      slot: {
        address: {
          type: 'table',
          at: '/updated',
          table: { 0: 'local:just-taken.jpg', 1: 'https://a.example.test/kept.jpg' },
        },
      },
      loading: ahead,
      network: plainLink,
      device: freeDevice,
      steps: [wait(500), { do: 'edit', op: 'update', at: 0, count: 1 }, wait(800)],
    })
    const { facts, metrics, checks } = profileRun(simulate(project).log)
    const [local, remote] = facts.claims.filter((claim) => claim.index === 0)
    expect([local!.tier, remote!.tier]).toEqual(['local', 'network'])
    expect(metrics).toMatchObject({ 'pictures.flickers': 0, 'pictures.wrong': 0 })
    expect(checks.filter((check) => !check.ok)).toEqual([])
    const without = { ...project, loading: { ...project.loading, standIn: false } }
    expect(profileRun(simulate(without).log).metrics['pictures.flickers']).toBe(1)
  })
})

describe('two looks, px by px', () => {
  const flat = (width: number, height: number, value: number) => ({
    width,
    height,
    data: new Uint8ClampedArray(4 * width * height).fill(value),
  })

  it('counts what differs, by how much, and what only one of them has', () => {
    const one = flat(4, 3, 10)
    const other = flat(4, 3, 10)
    expect(differencesOf(one, other)).toMatchObject({ differing: 0, most: 0 })
    other.data[4 * 5 + 2] = 17
    other.data[4 * 9] = 8
    expect(differencesOf(one, other)).toMatchObject({
      differing: 2,
      most: 7,
      by: Uint8Array.from([0, 0, 0, 0, 0, 7, 0, 0, 0, 2, 0, 0]),
    })
    expect(differencesOf(one, flat(5, 4, 10))).toMatchObject({ width: 5, height: 4, differing: 8, most: 255 })
  })
})

describe('a frame dragged by its edges', () => {
  const room = { width: 300, height: null, beside: false }

  it('keeps the way in which it gets its size where that can say what was dragged, and is fixed where not', () => {
    expect(sizeFor({ type: 'aspect', ratio: 1 }, { widthDp: 300, heightDp: 200 }, 'height', room)).toEqual({
      type: 'aspect',
      ratio: 1.5,
    })
    expect(sizeFor({ type: 'aspect', ratio: 1 }, { widthDp: 200, heightDp: 300 }, 'width', room)).toEqual({
      type: 'fixed',
      widthDp: 200,
      heightDp: 300,
    })
    expect(
      sizeFor({ type: 'share', of: 0.5 }, { widthDp: 100, heightDp: 80 }, 'width', { ...room, beside: true }),
    ).toEqual({ type: 'share', of: 0.333 })
    expect(sizeFor({ type: 'fill' }, { widthDp: 120.04, heightDp: 80 }, 'height', room)).toEqual({
      type: 'fixed',
      widthDp: 120,
      heightDp: 80,
    })
    expect(snapsFor([37.26, 500], 40)).toEqual([37.3, 16, 32])
  })
})
