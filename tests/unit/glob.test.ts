import fc from 'fast-check'
import { expect, it } from 'vitest'
import { matchesGlob } from '../../src/core/network/glob.ts'

it('matches what the pattern as a regular expression does', () => {
  const text = (alphabet: string) => fc.string({ unit: fc.constantFrom(...alphabet), maxLength: 12 })
  fc.assert(
    fc.property(text('ab*?'), text('ab.'), (pattern, address) => {
      const expression = pattern.replaceAll('?', '.').replaceAll('*', '.*')
      expect(matchesGlob(pattern, address)).toBe(new RegExp(`^${expression}$`).test(address))
    }),
    { numRuns: 3000 },
  )
})

it('takes no longer than the pattern times the text, whatever the pattern', () => {
  // As a regular expression this one takes minutes.
  expect(matchesGlob(`${'*a'.repeat(30)}b`, 'a'.repeat(8000))).toBe(false)
})
