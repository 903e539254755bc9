import { describe, expect, it } from 'vitest'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, plainLink, projectOf } from '../support/projects.ts'

/** Slots of 300 px: the small picture has 60, the large one 1,200. */
const items = (count: number) =>
  Array.from({ length: count }, (_, i) => ({
    id: i,
    thumb: `https://a.example.test/small-${i}.jpg`,
    whole: `https://a.example.test/large-${i}.jpg`,
    width: 1200,
    height: 1200,
    bytes: 60_000,
  }))
const wait = (ms: number) => ({ do: 'wait', ms })

function drive(parts: Parameters<typeof projectOf>[0] = {}) {
  const project = projectOf({
    items: items(1),
    device: freeDevice,
    network: plainLink,
    steps: [wait(3000)],
    ...parts,
    slot: {
      size: { type: 'fixed', widthDp: 300, heightDp: 300 },
      address: { type: 'sizes', choices: [{ at: '/whole' }, { at: '/thumb', widthPx: 60 }], smallFirst: true },
      ...parts.slot,
    },
    loading: { ahead: { amount: 0 }, diskMb: 0, ...parts.loading },
  })
  const run = profileRun(simulate(project).log)
  const { facts } = run
  const nameOf = (asset: number) => facts.log.assets[asset]!.address.split('/').at(-1)!
  return {
    ...run,
    asked: facts.requests.map(({ asset }) => nameOf(asset)),
    shows: facts.exposures.map(({ rendition }) => nameOf(facts.log.renditions[rendition!]!.asset)),
  }
}

describe('a small picture first', () => {
  it('is shown as soon as it is there, and the large one takes its place; neither is waste', () => {
    const { asked, shows, facts, metrics, checks } = drive()
    expect(asked).toEqual(['small-0.jpg', 'large-0.jpg'])
    expect(shows).toEqual(['large-0.jpg'])
    const [small, large] = facts.claims
    expect(small!.why).toBe('larger')
    expect(large!.t).toBeGreaterThanOrEqual(small!.deliverT!)
    // The wait ends with the small one, well before the large one is there.
    expect(facts.exposures[0]!.shownT).toBeLessThan(large!.deliverT! - 50_000)
    expect(metrics).toMatchObject({
      'pictures.exposures': 1,
      'pictures.soft': 0,
      'pictures.flickers': 0,
      'pictures.wrong': 0,
      'bytes.neverSeen': 0,
      'decode.wastedMs': 0,
      'requests.shown': 2,
    })
    expect(metrics['pictures.waitP50']).toBe((facts.exposures[0]!.shownT! - facts.exposures[0]!.enterT) / 1000)
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('stays where the large one fails, and counts as soft', () => {
    const faults = [{ match: '*large*', kind: 'status', status: 404 }]
    const fallbacks = ['https://a.example.test/spare.jpg']
    const { asked, shows, metrics, checks } = drive({
      network: { ...plainLink, faults },
      slot: { stages: { failed: { fallbacks } } },
    })
    expect(asked).toEqual(['small-0.jpg', 'large-0.jpg'])
    expect(shows).toEqual(['small-0.jpg'])
    expect(metrics).toMatchObject({
      'pictures.failed': 0,
      'pictures.soft': 1,
      'requests.failed': 1,
      'requests.shown': 1,
    })
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })

  it('that fails is passed over', () => {
    const { asked, shows, metrics } = drive({
      network: { ...plainLink, faults: [{ match: '*small*', kind: 'status', status: 404 }] },
    })
    expect(asked).toEqual(['small-0.jpg', 'large-0.jpg'])
    expect(shows).toEqual(['large-0.jpg'])
    expect(metrics).toMatchObject({ 'pictures.failed': 0, 'pictures.exposures': 1 })
  })

  it('is all that is asked for of what passes by, and nothing where memory has the large one', () => {
    const away = { items: items(200), device: { ...freeDevice, heightDp: 300 } }
    const passing = drive({ ...away, steps: [{ do: 'jump', row: 100 }, wait(5), { do: 'jump', row: 199 }, wait(3000)] })
    expect(passing.asked.filter((name) => name.startsWith('large'))).not.toContain('large-100.jpg')
    expect(passing.asked).toContain('small-100.jpg')

    const back = [wait(2000), { do: 'jump', row: 150 }, wait(2000), { do: 'jump', row: 0 }, wait(1000)]
    const { asked, facts } = drive({ ...away, steps: back })
    expect(asked.filter((name) => name === 'large-0.jpg' || name === 'small-0.jpg')).toHaveLength(2)
    const last = facts.claims.findLast(({ index }) => index === 0)!
    expect(last).toMatchObject({ tier: 'memory', why: expect.any(String) })
    expect(facts.log.renditions[last.rendition]!.targetWidth).toBe(300)
  })

  it('that came while its cell was held is followed by the large one when the cell is back', () => {
    const { shows, checks } = drive({
      items: items(60),
      device: { ...freeDevice, heightDp: 300 },
      screen: { layout: { columns: 1, gapDp: 0, paddingDp: 0, heldCells: 12 } },
      network: { ...plainLink, downKbps: 300 },
      loading: { cancel: { when: 'never' } },
      steps: [wait(40), { do: 'jump', row: 6 }, wait(1500), { do: 'jump', row: 0 }, wait(9000)],
    })
    expect(shows.at(-1)).toBe('large-0.jpg')
    expect(checks.filter((check) => !check.ok)).toEqual([])
  })
})
