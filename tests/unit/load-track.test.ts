import { describe, expect, it } from 'vitest'
import { momentAt } from '../../src/app/cell/stages/moment.ts'
import { trackLoad } from '../../src/workers/jobs/track-job.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const track = (parts: Parameters<typeof projectOf>[0], index = 0) => {
  const project = projectOf({ device: freeDevice, network: plainLink, items: items(3, 80_000), ...parts })
  const screen = project.screens[0]!
  return trackLoad(project, screen, screen.feed.source.type === 'inline' ? screen.feed.source.items[index]! : {}, 0)
}
/** Whole ms of each part. */
const lengths = (made: ReturnType<typeof track>) =>
  made.parts.map(({ what, fromMs, toMs }) => [what, Math.round(toMs - fromMs)])

describe('the load of one picture', () => {
  it('is as long as the link says: a round trip, 80,000 bytes at 8,000 kbit/s, a fade of 200 ms', () => {
    const made = track({ slot: { transition: { type: 'fade', ms: 200 } } })
    expect(made).toMatchObject({ end: 'shown', bytes: 80_000 })
    expect(lengths(made)).toEqual([
      ['on the way', 100],
      ['receiving', 80],
      ['waiting for a frame', expect.any(Number)],
      ['arriving', 200],
      ['settled', 160],
    ])
    // The parts follow one another without a gap, and the frame comes within two refreshes.
    for (const [i, part] of made.parts.entries()) expect(part.fromMs).toBe(i === 0 ? 0 : made.parts[i - 1]!.toMs)
    expect(made.parts[2]!.toMs - made.parts[2]!.fromMs).toBeLessThanOrEqual(34)
  })

  it('tells decoding apart, by the device’s cost', () => {
    const costs = { ...freeDevice.costs, decodeMs: 30 }
    expect(lengths(track({ device: { costs } }))).toContainEqual(['decoding', 30])
    expect(track({ device: { costs } }).decodeMs).toBe(30)
  })

  it('ends on the failed visual with its reason, or says that there is nothing to load', () => {
    const lost = track({ network: { ...plainLink, faults: [{ match: '*', kind: 'status', status: 404 }] } })
    expect(lost).toMatchObject({ end: 'failed', reason: 'status' })
    expect(momentAt(lost, 1e6).stage).toBe('failed')
    const none = track({ items: [{ id: 1 }] })
    expect(none).toMatchObject({ end: 'absent', parts: [] })
    expect(momentAt(none, 0).stage).toBe('absent')
  })

  it('shows at each moment what the cell shows then', () => {
    const made = track({ slot: { transition: { type: 'fade', ms: 200 } } })
    const shown = made.parts.find(({ what }) => what === 'arriving')!.fromMs
    expect(momentAt(made, 50)).toEqual({ stage: 'waiting', share: 0, arrivedMs: null })
    expect(momentAt(made, 120).share).toBeCloseTo(0.25, 6)
    expect(momentAt(made, shown + 50)).toEqual({ stage: 'settled', share: 1, arrivedMs: 50 })
    expect(momentAt(made, shown + 250)).toEqual({ stage: 'settled', share: 1, arrivedMs: null })
  })
})
