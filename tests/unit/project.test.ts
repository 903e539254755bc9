import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { parseProject } from '../../src/core/project/parse.ts'
import { parseProjectText } from '../../src/core/project/parse-text.ts'
import { settingAt } from '../../src/core/project/settings-index.ts'
import { effectiveProject } from '../../src/core/project/conditions.ts'
import { applyPatch } from '../../src/core/project/patch.ts'

const demoText = readFileSync(new URL('../../demo/saltmarsh.tiletug.json', import.meta.url), 'utf8')
const small = { format: 'tile-tug/project', version: 1, name: 'small', screens: [{ id: 'list' }] }

function messageOf(value: unknown): string {
  const outcome = typeof value === 'string' ? parseProjectText(value) : parseProject(value)
  return outcome.ok ? 'no error' : outcome.message
}

describe('a project file', () => {
  it('needs four fields; all else has the default of formats.md', () => {
    const outcome = parseProject(small)
    if (!outcome.ok) throw new Error(outcome.message)
    const { project } = outcome
    expect(project.screens[0]!.layout).toMatchObject({ columns: 3, gapDp: 4, paddingDp: 4, heldCells: 0 })
    expect(project.screens[0]!.cells[0]!.slots[0]).toMatchObject({
      id: 'main',
      fit: 'cover',
      cornersDp: [8, 8, 8, 8],
      priority: 'normal',
    })
    expect(project.loading).toMatchObject({
      fetchSlots: 6,
      order: 'nearest',
      memoryMb: 32,
      diskMb: 120,
      startBelowDpPerS: null,
    })
    expect(project.device).toMatchObject({
      widthDp: 411,
      density: 2.625,
      costs: { createMs: 4, decodeNsPerPx: { avif: 35 } },
    })
    expect(project.network).toMatchObject({ rttMs: 90, downKbps: 4000, protocol: 'h2', faults: [] })
    expect(project.script).toBe('Flick down and back')
  })

  it('comes back from parsing as it was written, with unknown fields kept and warned about', () => {
    const file = { ...small, mine: { a: 1 }, loading: { fetchSlots: 2, later: true } }
    const outcome = parseProject(file)
    if (!outcome.ok) throw new Error(outcome.message)
    expect(outcome.raw).toEqual(file)
    expect(outcome.warnings).toEqual([
      '/mine: unknown field, kept as it is',
      '/loading/later: unknown field, kept as it is',
    ])
  })

  it('lays app-wide options under a named set, and both under the slot', () => {
    const outcome = parseProject({
      ...small,
      pictures: {
        defaults: { fit: 'contain', transition: { ms: 900 } },
        sets: { round: { circle: true, transition: { type: 'none' } } },
      },
      screens: [{ id: 'list', cells: [{ slots: [{ use: 'round', fit: 'fill' }] }] }],
    })
    if (!outcome.ok) throw new Error(outcome.message)
    expect(outcome.project.screens[0]!.cells[0]!.slots[0]).toMatchObject({
      fit: 'fill',
      circle: true,
      transition: { type: 'none', ms: 900 },
    })
  })

  it('shows while a picture arrives what was chosen for waiting, unless arriving has its own', () => {
    const stagesOf = (stages: object) => {
      const outcome = parseProject({ ...small, screens: [{ id: 'list', cells: [{ slots: [{ stages }] }] }] })
      if (!outcome.ok) throw new Error(outcome.message)
      return outcome.project.screens[0]!.cells[0]!.slots[0]!.stages.arriving
    }
    const waiting = { visual: { type: 'colour', colour: '#123456' }, insetDp: [4, 4, 4, 4] }
    expect(stagesOf({ waiting })).toMatchObject(waiting)
    expect(stagesOf({ waiting, arriving: { visual: { type: 'ring' } } })).toMatchObject({
      ...waiting,
      visual: { type: 'ring' },
    })
    expect(stagesOf({})).toMatchObject({ visual: { type: 'ring' } })
  })

  it('knows the demo without a warning', () => {
    expect(parseProjectText(demoText)).toMatchObject({ ok: true, warnings: [] })
  })
})

describe('a damaged project file gives one message that names the place', () => {
  const deep = `${'['.repeat(200)}${']'.repeat(200)}`
  const slot = (options: object) => ({ ...small, screens: [{ id: 'list', cells: [{ slots: [options] }] }] })
  const cases: [string, unknown, RegExp][] = [
    ['empty text', '', /the text is empty/],
    ['cut off', demoText.slice(0, 400), /^line 1\d, column \d+: the JSON breaks here/],
    ['a comma too many', '{\n  "format": "tile-tug/project",,\n}', /^line 2, column 32: the JSON breaks here/],
    ['a comment', '{ "format": 1 } // mine', /^line 1, column \d+: the JSON breaks here/],
    ['no object', '[1, 2]', /the file: found \[1,2\], allowed: an object/],
    [
      'too deep',
      `{"format":"tile-tug/project","version":1,"name":"x","screens":${deep}}`,
      /nests deeper than 100 levels/,
    ],
    [
      'a prototype',
      '{"format":"tile-tug/project","loading":{"__proto__":{"a":1}}}',
      /^\/loading\/__proto__: this name is not allowed/,
    ],
    ['another format', { ...small, format: 'other' }, /^\/format: found "other", allowed: "tile-tug\/project"/],
    ['a newer version', { ...small, version: 2 }, /^\/version: found 2, which is newer/],
    ['no version', { ...small, version: '1' }, /^\/version: found "1", allowed: a whole number/],
    ['no name', { ...small, name: undefined }, /^\/name: found nothing, allowed: text/],
    ['no screens', { ...small, screens: [] }, /^\/screens: found \[\], allowed: a list of at least 1/],
    [
      'a text for a number',
      { ...small, loading: { fetchSlots: 'six' } },
      /^\/loading\/fetchSlots: found "six", allowed: a whole number from 1 to 64$/,
    ],
    [
      'out of range',
      { ...small, loading: { fetchSlots: 0 } },
      /^\/loading\/fetchSlots: found 0, allowed: a whole number from 1 to 64$/,
    ],
    [
      'too large to hold',
      '{"format":"tile-tug/project","version":1,"name":"x","screens":[{"id":"a"}],"network":{"downKbps":1e999}}',
      /^\/network\/downKbps: found a number too large to hold/,
    ],
    [
      'outside a closed set',
      { ...small, loading: { order: 'fastest' } },
      /^\/loading\/order: found "fastest", allowed: nearest \| first-come \| last-come$/,
    ],
    ['an unknown branch', slot({ size: { type: 'round' } }), /^\/screens\/0\/cells\/0\/slots\/0\/size/],
    [
      'a wrong list',
      slot({ cornersDp: [1, 2] }),
      /^\/screens\/0\/cells\/0\/slots\/0\/cornersDp: found \[1,2\], allowed: a list of 4/,
    ],
    [
      'a wrong colour',
      slot({ stages: { waiting: { visual: { type: 'colour', colour: 'red' } } } }),
      /\/stages\/waiting\/visual\/colour: found "red", allowed: a colour such as/,
    ],
    [
      'no kind of address',
      slot({ address: { type: 'field', at: '/a' } }),
      /\/address\/type: found "field", allowed: pointer \| template \| table \| packaged \| sizes$/,
    ],
    ['no JSON Pointer', slot({ widthAt: 'width' }), /\/widthAt: found "width", allowed: a JSON Pointer/],
    [
      'two of one id',
      { ...small, screens: [{ id: 'a' }, { id: 'a' }] },
      /^\/screens\/1\/id: found "a", allowed: a screen id that no other has/,
    ],
    [
      'a script that is not there',
      { ...small, script: 'none' },
      /^\/script: found "none", allowed: the name of a script: Flick down and back/,
    ],
    [
      'a set that is not there',
      slot({ use: 'round' }),
      /\/use: found "round", allowed: a set of \/pictures\/sets, which has none/,
    ],
    ['several at once', { ...small, seed: -1, loading: { memoryMb: -5 } }, /^\/seed: found -1, .* \(and 1 more\)$/],
  ]
  it.each(cases)('%s', (_, value, message) => {
    expect(messageOf(value)).toMatch(message)
    expect(messageOf(value).split('\n')).toHaveLength(1)
  })
})

describe('variants', () => {
  it('patch the file as RFC 6902 says, and are parsed anew', () => {
    const raw = {
      ...small,
      variants: [
        { name: 'slow', patch: [{ op: 'replace', path: '/network/rttMs', value: 700 }] },
        { name: 'bad', patch: [{ op: 'remove', path: '/nowhere' }] },
      ],
    }
    const varied = effectiveProject(raw, 'slow')
    expect(varied.ok && varied.project.network.rttMs).toBe(700)
    expect(effectiveProject(raw, 'bad')).toMatchObject({
      ok: false,
      message: expect.stringMatching(/^\/variants\/1\/patch\/0: remove \/nowhere cannot be applied/) as string,
    })
    expect(effectiveProject(raw, 'none')).toMatchObject({
      ok: false,
      message: expect.stringContaining('slow | bad') as string,
    })
  })

  it('apply by themselves while their condition holds, in their order, before the one that was picked', () => {
    const slots = (value: number) => [{ op: 'replace', path: '/loading/fetchSlots', value }]
    const variants = [
      { name: 'spare', when: 'metered', patch: slots(2) },
      { name: 'weak', when: 'weak-device', patch: [{ op: 'replace', path: '/loading/decodeWorkers', value: 1 }] },
      { name: 'by hand', patch: slots(9) },
      { name: 'small', when: 'low-memory', patch: [{ op: 'replace', path: '/loading/memoryMb', value: 8 }] },
    ]
    const come = (file: object, picked: string | null) => {
      const made = effectiveProject({ ...small, variants, ...file }, picked)
      if (!made.ok) throw new Error(made.message)
      const { fetchSlots, decodeWorkers, memoryMb } = made.project.loading
      return { by: made.byCondition, fetchSlots, decodeWorkers, memoryMb }
    }
    expect(come({}, null)).toEqual({ by: [], fetchSlots: 6, decodeWorkers: 2, memoryMb: 32 })
    expect(come({ network: { metered: true }, device: { speed: 0.5, heapMb: 128 } }, null)).toEqual({
      by: ['spare', 'weak', 'small'],
      fetchSlots: 2,
      decodeWorkers: 1,
      memoryMb: 8,
    })
    expect(come({ network: { metered: true } }, 'by hand')).toMatchObject({ by: ['spare'], fetchSlots: 9 })
    expect(come({ network: { metered: true } }, 'spare')).toMatchObject({ by: ['spare'], fetchSlots: 2 })
  })

  it('keep unknown fields that are called like methods of every object', () => {
    const odd = { ...small, constructor: { x: 1 }, toString: { y: [2] } }
    const parsed = parseProject(odd)
    expect(parsed).toMatchObject({ ok: true, raw: odd })
    expect(parsed.ok && parsed.warnings).toHaveLength(2)
  })

  it('make the objects that a small file leaves out, and leave the original alone', () => {
    const path = '/screens/0/cells/0/slots/0/fit'
    const patched = applyPatch(small, [{ op: 'replace', path, value: 'fill' }])
    expect(patched).toMatchObject({
      ok: true,
      raw: { screens: [{ id: 'list', cells: [{ slots: [{ fit: 'fill' }] }] }] },
    })
    expect(small.screens[0]).toEqual({ id: 'list' })
  })
})

describe('a patch', () => {
  const add = (path: string, value: unknown) => ({ op: 'add' as const, path, value })
  const copy = (from: string, path: string) => ({ op: 'copy' as const, from, path })

  it('shares with the file what it does not touch, and changes nothing of the file', () => {
    const file = { ...small, loading: { fetchSlots: 3 }, far: { list: [1] } }
    const before = JSON.stringify(file)
    const patched = applyPatch(file, [
      { op: 'replace', path: '/loading/fetchSlots', value: 4 },
      { op: 'move', from: '/loading/fetchSlots', path: '/loading/agingMs' },
    ])
    expect(patched).toMatchObject({ ok: true, raw: { loading: { agingMs: 4 } } })
    expect(patched.ok && patched.raw.far).toBe(file.far)
    expect(JSON.stringify(file)).toBe(before)
  })

  it('has bounds: in its operations, in what it copies, in its depth', () => {
    const doubling = [add('/x', [0]), ...Array.from({ length: 40 }, () => copy('/x', '/x/-'))]
    expect(applyPatch(small, doubling)).toEqual({
      ok: false,
      message: expect.stringMatching(/^\/\d+: copy \/x\/- cannot be applied \(its copies have more than/) as string,
    })
    const nesting = [add('/x', {}), ...Array.from({ length: 200 }, () => copy('/x', '/x/y'))]
    expect(applyPatch(small, nesting)).toMatchObject({ ok: false })
    const many = Array.from({ length: 1001 }, () => add('/x', 1))
    expect(applyPatch(small, many)).toEqual({ ok: false, message: ': found 1001 operations, allowed: at most 1000' })
  })

  it('of a variant may replace the whole file, which is then parsed like any', () => {
    const variant = (value: unknown) => ({
      ...small,
      variants: [{ name: 'other', patch: [{ op: 'replace', path: '', value }] }],
    })
    const whole = effectiveProject(variant({ ...small, name: 'another', loading: { fetchSlots: 2 } }), 'other')
    expect(whole).toMatchObject({ ok: true, project: { name: 'another', loading: { fetchSlots: 2 } } })
    expect(effectiveProject(variant([]), 'other')).toEqual({
      ok: false,
      message: '/variants/0/patch: what it makes is not an object, the project',
    })
  })
})

describe('a long list of items', () => {
  const items = Array.from({ length: 300 }, (_, i) => ({ id: i }))
  const file = { ...small, screens: [{ id: 'list', feed: { source: { type: 'inline', items } } }] }

  it('is the same list in the file and in the project, however often it is parsed', () => {
    for (let again = 0; again < 2; again++) {
      const parsed = parseProject(file)
      const source = parsed.ok ? parsed.project.screens[0]!.feed.source : null
      expect(source?.type === 'inline' && source.items).toBe(items)
    }
  })

  it('with a wrong entry is reported with its place', () => {
    const wrong = { ...file, screens: [{ id: 'list', feed: { source: { type: 'inline', items: [...items, 5] } } }] }
    expect(messageOf(wrong)).toBe('/screens/0/feed/source/items/300: found 5, allowed: an object')
  })
})

describe('settings', () => {
  it('have their label, unit and limits from the schema', () => {
    expect(settingAt('/loading/fetchSlots')).toMatchObject({ label: 'Fetch slots', unit: 'slots', min: 1, max: 64 })
    expect(settingAt('/screens/3/cells/12/slots/1/fit').options).toContain('scale-down')
  })
})
