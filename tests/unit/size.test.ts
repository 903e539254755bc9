import { firstPaintBytes, firstPaintLimit } from '../../bench/size.ts'
import { expect, test } from 'vitest'

test('the first paint waits for 200 kB of JavaScript at most, compressed', () => {
  const { bytes, files } = firstPaintBytes()
  expect(bytes, files.join(', ')).toBeGreaterThan(50_000)
  expect(bytes, files.join(', ')).toBeLessThanOrEqual(firstPaintLimit)
})
