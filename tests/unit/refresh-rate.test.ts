import { describe, expect, it } from 'vitest'
import { refreshOf } from '../../src/live/refresh-rate.ts'

/** Intervals of so many refreshes each, ms, with a little noise. */
const intervals = (hz: number, refreshes: readonly number[]) =>
  refreshes.map((count, i) => (count * 1000) / hz + ((i * 7) % 5) / 10 - 0.2)
const each = <T>(count: number, value: T) => Array.from({ length: count }, () => value)

describe('the refresh rate', () => {
  it.each([50, 60, 90, 120, 144])('is %i Hz while frames are on time, and when most are left out', (hz) => {
    expect(refreshOf(intervals(hz, each(20, 1)))).toBe(hz)
    expect(refreshOf(intervals(hz, [...each(12, 2), ...each(5, 1), 4, 3, 9]))).toBe(hz)
    expect(refreshOf(intervals(hz, [...each(3, 1), ...each(13, 3), ...each(4, 2)]))).toBe(hz)
  })

  it('is the usual interval where frames are uneven, or none that is shorter comes more than twice', () => {
    expect(refreshOf([9, 12, ...each(8, 15), ...each(8, 17), 18, 22])).toBe(60)
    expect(refreshOf([16.7, 16.7, ...each(18, 33.3)])).toBe(30)
  })

  it('is what was measured when no display is near it', () => {
    expect(refreshOf(each(20, 25))).toBe(40)
  })
})
