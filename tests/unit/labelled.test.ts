import { expect, it } from 'vitest'
import { labelled } from '../../src/app/shell/labelled.ts'
import { parseProject } from '../../src/core/project/parse.ts'

const wrong = (more: object) => {
  const parsed = parseProject({
    format: 'tile-tug/project',
    version: 1,
    name: 'x',
    screens: [{ id: 'a', feed: { source: { type: 'inline', items: [] } } }],
    ...more,
  })
  if (parsed.ok) throw new Error('it parses')
  return labelled(parsed.message)
}

it('a wrong value is reported by the label of its setting, with its place behind it', () => {
  expect(wrong({ loading: { fetchSlots: 99 } })).toBe(
    'Fetch slots, /loading/fetchSlots: found 99, allowed: a whole number from 1 to 64',
  )
  // A part of a setting by the whole, a text of another kind as it is.
  const slots = [{ cornersDp: [1, -2, 3, 4] }]
  expect(
    wrong({ screens: [{ id: 'a', feed: { source: { type: 'inline', items: [] } }, cells: [{ slots }] }] }),
  ).toMatch(/^Corners, \/screens\/0\/cells\/0\/slots\/0\/cornersDp\/1: found -2, allowed: /)
  expect(labelled('x.json was not opened. /loading/fetchSlots: found 0, allowed: more')).toBe(
    'x.json was not opened. Fetch slots, /loading/fetchSlots: found 0, allowed: more',
  )
  expect(wrong({ screens: [] })).toMatch(/^\/screens: found \[\]/)
  expect(labelled('The sheet was copied as Markdown.')).toBe('The sheet was copied as Markdown.')
})
