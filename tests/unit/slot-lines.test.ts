import { describe, expect, it } from 'vitest'
import { slotLinesOf } from '../../src/core/handoff/slot-instructions.ts'
import { editedSheet, partId, sheetParts } from '../../src/core/handoff/edit-sheet.ts'
import type { Sheet } from '../../src/core/handoff/sheet.ts'
import { projectOf } from '../support/projects.ts'

/** What the sheet says of one setting of a slot; undefined: nothing, since a plain loader does the same. */
function lineOf(setting: string, slot: Record<string, unknown>): { value: string; say: string } | undefined {
  const [screen] = projectOf({ slot }).screens
  const line = slotLinesOf(screen!, 0).find(({ path }) => path === `/screens/0/cells/0/slots/0${setting}`)
  if (!line) return undefined
  const { instruction, slot: parsed } = line
  return { value: instruction.format(instruction.is(parsed) as never), say: instruction.say(parsed) }
}

describe('a line of the sheet reports what an app has to do', () => {
  const choices = [{ at: '/photo' }, { at: '/thumb', widthPx: 90 }]
  it.each<[string, Record<string, unknown>, string | undefined, RegExp?]>([
    ['as the field', { type: 'pointer', at: '/photo' }, undefined],
    [
      'by a template',
      { type: 'template', template: '{+photo}?w={widthPx}' },
      '{+photo}?w={widthPx}',
      /^Ask for the address \{\+photo\}\?w=\{widthPx\}: a URI template \(RFC 6570\)/,
    ],
    [
      'by a table',
      { type: 'table', at: '/kind', table: { a: 'https://x/a', b: 'https://x/b' } },
      'by a table, for what the item gives at /kind',
      /a → https:\/\/x\/a, b → https:\/\/x\/b\.$/,
    ],
    [
      'by a long table',
      { type: 'table', at: '/kind', table: Object.fromEntries([...'abcdefgh'].map((key) => [key, key])) },
      'by a table, for what the item gives at /kind',
      /f → f, …\.$/,
    ],
    [
      'by sizes',
      { type: 'sizes', choices },
      'the narrowest of 2 sizes that is as wide as the slot',
      /those at \/photo, \/thumb; where none is, the widest\.$/,
    ],
    [
      'by sizes, the small one first',
      { type: 'sizes', choices, smallFirst: true },
      'the narrowest of 2 sizes that is as wide as the slot, after the smallest',
      /Ask for the narrowest of all first.* and if it does not come\.$/,
    ],
    ['by what is packaged', { type: 'packaged', name: 'mark' }, 'the packaged picture “mark”', /^Use the packaged/],
  ])('addresses: %s', (_, address, value, say = /./) => {
    const line = lineOf('/address', { address })
    expect(line?.value).toBe(value)
    if (line) expect(line.say).toMatch(say)
  })

  it.each<[Record<string, unknown>, string | undefined]>([
    [{ type: 'fixed', widthDp: 80, heightDp: 60 }, '80 × 60 dp'],
    [{ type: 'fill' }, 'the whole cell'],
    [{ type: 'share', of: 0.4 }, '40 % of the cell’s width'],
    [{ type: 'aspect', ratio: 1.5 }, '1.5 : 1 of its width'],
    [{ type: 'aspect-at', width: '/w', height: '/h' }, 'the shape that the item gives at /w and /h'],
    [{ type: 'from-picture' }, undefined],
  ])('frames: %o', (size, value) => {
    expect(lineOf('/size', { size })?.value).toBe(value)
  })

  it.each<[Record<string, unknown>, string]>([
    [{ type: 'colour', colour: '#112233' }, 'the colour #112233'],
    [{ type: 'item-colour', at: '/colour' }, 'the colour that the item gives at /colour'],
    [{ type: 'drawn', shape: 'cracked-tile' }, 'a cracked tile'],
    [{ type: 'drawn', shape: 'tile-outline' }, 'the outline of a tile'],
    [{ type: 'preview', at: '/tiny' }, 'the small preview that the item gives at /tiny'],
    [{ type: 'preview', at: '/hash', as: 'blurhash' }, 'what is drawn from the blurhash that the item gives at /hash'],
    [{ type: 'skeleton' }, 'a skeleton'],
    [{ type: 'ring' }, 'a ring that fills'],
  ])('what waits: %o', (visual, value) => {
    const line = lineOf('/stages/waiting/visual', { stages: { waiting: { visual } } })
    expect(line?.value).toBe(value)
    expect(line!.say).toContain(value)
  })

  it('shapes, decoding, arrival and priority', () => {
    expect(lineOf('/circle', { circle: true, shapeAt: 'decode' })!.say).toBe(
      'Cut it to a circle, once, when it is decoded.',
    )
    expect(lineOf('/cornersDp', { cornersDp: [4, 4, 0, 0] })!.value).toBe('4, 4, 0, 0 dp')
    expect(lineOf('/cornersDp', { cornersDp: [0, 0, 0, 0] })).toBe(undefined)
    expect(lineOf('/decodeAt', { decodeAt: { type: 'fixed', px: 200 } })).toEqual({
      value: '200 px',
      say: 'Decode its picture so that its longer side has 200 px.',
    })
    const arrival = { type: 'fade-grow', ms: 300, fromScale: 0.8, on: 'main', skip: ['memory', 'reduced-motion'] }
    expect(lineOf('/transition/type', { transition: arrival })!.say).toBe(
      'Fade it in and let it grow from 0.8 of its size over 300 ms when it arrives, on the main thread; show it at once when it was in memory, or reduced motion is set.',
    )
    expect(lineOf('/priority', { priority: 'low' })!.say).toContain('after the others of its cell')
    expect(lineOf('/priority', { priority: 'normal' })).toBe(undefined)
  })
})

it('an edited sheet has the lines and parts that were not left out, with comments', () => {
  const line = (id: string) => ({ id, path: '', of: '', label: id, value: '', say: '', why: '', comment: '' })
  const sheet = {
    groups: [
      { place: 'bind', lines: [line('a'), line('b')] },
      { place: 'release', lines: [line('c')] },
    ],
    granted: ['network'],
    steps: ['one'],
    budgets: ['two'],
    mended: ['three'],
    notLookedAt: ['four'],
    maps: { own: 1 },
  } as unknown as Sheet
  const edited = editedSheet(sheet, { left: ['b', 'c'], comments: { a: 'as it is today' } })
  expect(edited.groups.map(({ place, lines }) => [place, lines.map(({ id, comment }) => [id, comment])])).toEqual([
    ['bind', [['a', 'as it is today']]],
  ])
  const bare = editedSheet(sheet, { left: sheetParts.map(partId), comments: {} })
  expect(sheetParts.map((part) => bare[part])).toEqual([[], [], [], [], [], null])
  expect(bare.groups.flatMap(({ lines }) => lines)).toHaveLength(3)
})
