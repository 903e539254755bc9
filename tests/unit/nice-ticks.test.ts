import { expect, it } from 'vitest'
import { niceTicks } from '../../src/app/map/nice-ticks.ts'

it('puts ticks that read well around any values, one value and none', () => {
  expect(niceTicks([0.12, 0.31], 5)).toEqual([0.1, 0.15, 0.2, 0.25, 0.3, 0.35])
  expect(niceTicks([3, 17.5], 5)).toEqual([0, 5, 10, 15, 20])
  expect(niceTicks([-40, 1200], 5)).toEqual([-500, 0, 500, 1000, 1500])
  expect(niceTicks([7], 5)).toEqual([6, 8])
  expect(niceTicks([0], 5)).toEqual([0, 0.5])
  expect(niceTicks([], 5)).toEqual([0, 1])
})
