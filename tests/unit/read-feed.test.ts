import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addressOf, firstField } from '../../src/core/feed/address.ts'
import { fieldsOf } from '../../src/core/feed/item-fields.ts'
import { readFeed, repeatOf } from '../../src/core/feed/read-feed.ts'
import { tileBytes } from '../../src/core/feed/tiles.ts'
import { proposeBindings } from '../../src/core/feed/propose-bindings.ts'
import { checkFeed } from '../../src/core/simulate/feed-check.ts'
import { parseProject } from '../../src/core/project/parse.ts'

const open = (text: string, name = 'feed.json', options = {}) => readFeed(name, text, { itemsAt: null, ...options })
const feedOf = (...given: Parameters<typeof open>) => {
  const read = open(...given)
  if (!read.ok) throw new Error(read.message)
  return read.feed
}
const wrong = (...given: Parameters<typeof open>) => {
  const read = open(...given)
  return read.ok ? 'was read' : read.message
}

describe('reading a feed', () => {
  it('finds the longest list of items and the first field that tells all apart', () => {
    const text = JSON.stringify({
      meta: { tags: ['a', 'b', 'c', 'd'], next: 'page2.json' },
      data: { makers: [{ name: 'x', n: 1 }], tiles: [{ colour: 'red', code: 7 }, { colour: 'red', code: 8 }, 5] },
    })
    expect(feedOf(text)).toEqual({
      items: [
        { colour: 'red', code: 7 },
        { colour: 'red', code: 8 },
      ],
      itemsAt: '/data/tiles',
      key: '/code',
      nextAt: '/meta/next',
      next: 'page2.json',
      leftOut: 1,
      lists: [
        { at: '/data/tiles', count: 3 },
        { at: '/data/makers', count: 1 },
      ],
    })
    expect(feedOf('["https://a.example.test/1.png","b/2.jpg"]').items).toEqual([
      { address: 'https://a.example.test/1.png' },
      { address: 'b/2.jpg' },
    ])
    expect(feedOf('[{"a":1},{"a":1}]').key).toBeNull()
  })

  it('reads CSV: quotes, numbers, empty values, other parting characters', () => {
    const csv = 'id,title,width,code\r\n1,"Heron, ""panel""\nnew line",1200,007\r\n2,,4.5,1e3\r\n'
    expect(feedOf(csv, 'tiles.csv').items).toEqual([
      { id: 1, title: 'Heron, "panel"\nnew line', width: 1200, code: '007' },
      { id: 2, width: 4.5, code: '1e3' },
    ])
    expect(feedOf('\ufeffid;photo\nA;tiles/1\nB;tiles/2\n', 'pasted').items).toEqual([
      { id: 'A', photo: 'tiles/1' },
      { id: 'B', photo: 'tiles/2' },
    ])
  })

  it('reads addresses, one a line', () => {
    const read = readFeed('pasted', '\n https://a.test/1.jpg\r\nhttps://a.test/2,b.jpg\n\n', { itemsAt: null })
    expect(read.ok && read.feed.items).toEqual([
      { address: 'https://a.test/1.jpg' },
      { address: 'https://a.test/2,b.jpg' },
    ])
    expect(readFeed('pasted', 'https://a.test/1.jpg\nsome words', { itemsAt: null })).toMatchObject({
      ok: false,
      message: 'line 2: found more than an address, allowed: one address per line',
    })
  })

  it('reports what is wrong and where', () => {
    expect(wrong('{"items":[{"id":1},\n {"id":}]}')).toContain('line 2, column 8')
    expect(wrong('')).toContain('empty')
    expect(wrong('{"a":1}')).toContain('no list of items was found')
    expect(wrong('{"a":[[1]],"b":"x"}')).toContain('no list of items was found')
    expect(wrong('{"items":[{"id":1}]}', 'f.json', { itemsAt: '/rows' })).toBe(
      '/rows: found nothing, allowed: a list; there is one at /items (1)',
    )
    expect(wrong('{"rows":[1,2],"items":[{"id":1}]}', 'f.json', { itemsAt: '/rows' })).toContain('/rows: holds no item')
    expect(wrong('[{"id":"A"},{"id":"B"},{"id":"A"}]', 'f.json', { key: '/id' })).toBe(
      '/id: "A" is the key of item 1 and of item 3; a key must be unique to each item',
    )
    expect(repeatOf([{ id: 1 }, {}], '/id')).toContain('item 2 has no such text or number')
    expect(wrong('[{"__proto__":{"polluted":1}}]')).toContain('/0/__proto__: this name is not allowed')
    expect(wrong('a,b\n1,2,3\n', 't.csv')).toBe('row 2 has 3 values, the first line names 2 columns')
    expect(wrong('a,a\n1,2\n', 't.csv')).toContain('the name "a" was there before')
    expect(wrong('a,b\n1,"2\n', 't.csv')).toContain('line 2: a quoted value is not closed')
    expect(wrong('__proto__,b\n1,2\n', 't.csv')).toContain('__proto__ is not allowed')
    expect(wrong('a,b\n', 't.csv')).toContain('no line under its first one')
    expect(wrong(`${'['.repeat(200)}${']'.repeat(200)}`)).toContain('nests deeper')
  })

  it('ends 1,000 damaged feeds in a message or in items, fast, with nothing polluted', () => {
    const item = fc.record(
      {
        id: fc.integer(),
        photo: fc.webUrl(),
        constructor: fc.string(),
        prototype: fc.object(),
        toString: fc.jsonValue(),
      },
      { requiredKeys: ['id'] },
    )
    const good = fc.array(item, { minLength: 1, maxLength: 8 }).map((items) => JSON.stringify({ items }))
    const huge = fc.constantFrom(
      '1e999',
      '-0',
      '123456789012345678901234567890',
      'NaN',
      '"\\ud800"',
      'null',
      '[]',
      '{}',
    )
    const damaged = fc.oneof(
      fc.tuple(good, fc.nat(400)).map(([text, at]) => text.slice(0, at)),
      fc
        .tuple(good, fc.nat(400), fc.string({ unit: 'binary', maxLength: 4 }))
        .map(([text, at, noise]) => text.slice(0, at) + noise + text.slice(at + noise.length)),
      fc.tuple(good, huge).map(([text, value]) => text.replace(/"id":-?\d+/, `"id":${value},"id":${value}`)),
      fc
        .constantFrom('__proto__', 'constructor', 'prototype', 'hasOwnProperty')
        .map((name) => `[{"id":1,"${name}":{"polluted":true}}]`),
      fc.nat(3000).map((depth) => `${'{"a":'.repeat(depth)}1${'}'.repeat(depth)}`),
      fc
        .array(fc.array(fc.string({ maxLength: 6 }), { maxLength: 4 }), { maxLength: 6 })
        .map((rows) => rows.map((row) => row.join(',')).join('\n')),
      fc.string({ unit: 'binary', maxLength: 60 }),
      fc.json(),
    )
    fc.assert(
      fc.property(damaged, fc.constantFrom('feed.json', 'feed.csv', 'pasted'), (text, name) => {
        const read = open(text, name)
        if (read.ok) {
          expect(read.feed.items.length).toBeGreaterThan(0)
          for (const each of read.feed.items.slice(0, 3))
            for (const { pointer } of fieldsOf(each)) expect(pointer).toMatch(/^(\/[^/]*)+$/)
          if (read.feed.key !== null) expect(repeatOf(read.feed.items, read.feed.key)).toBeNull()
        } else {
          expect(read.message.length).toBeGreaterThan(10)
          expect(read.message).not.toMatch(/undefined|\[object|at .*\.ts:/)
        }
        expect(({} as { polluted?: unknown }).polluted).toBeUndefined()
      }),
      { numRuns: 1000 },
    )
  })
})

describe('what is known of a feed before anything loads', () => {
  const project = (screen: object) => {
    const parsed = parseProject({
      format: 'tile-tug/project',
      version: 1,
      name: 'x',
      screens: [{ id: 's', layout: { columns: 2, gapDp: 0, paddingDp: 0 }, ...screen }],
      device: { widthDp: 400, density: 2 },
    })
    if (!parsed.ok) throw new Error(parsed.message)
    return parsed.project
  }

  it('reports what asking for the slot’s size saves, by the sizes that the origin keeps to', () => {
    const items = [0, 1, 2, 3].map((n) => ({ id: n, photo: `https://archive.example.test/tiles/${n}` }))
    const { screens, ...rest } = project({
      feed: { source: { type: 'inline', items } },
      cells: [
        {
          height: { type: 'content' },
          slots: [
            { size: { type: 'aspect', ratio: 1 }, address: { type: 'template', template: '{+photo}?width={widthPx}' } },
          ],
        },
      ],
    })
    const { slots } = checkFeed({ screens, ...rest }, screens[0]!, items)
    const saved = items.map((_, n) => tileBytes(n, 1200, 1200, 'webp') - tileBytes(n, 400, 400, 'webp'))
    const sum = saved.reduce((a, b) => a + b, 0)
    expect(slots[0]!.px).toEqual({ width: 400, height: 400 })
    expect(slots[0]!.saving).toMatchObject({ bytes: Math.round(sum / 4), allBytes: sum, originalPx: 1200 })
    // 1,200 px are decoded to 400: reduced by more than half each way, webp at 18 ns a px.
    expect(slots[0]!.saving!.decodeMs).toBeCloseTo((1200 * 1200 * 18 * 0.4 - 400 * 400 * 18) / 1e6, 9)
  })

  it('says which hosts can be asked from here, if that is known', () => {
    const items = ['archive.example.test', 'a.pictures.test', 'b.pictures.test', 'far.test'].map((host, n) => ({
      id: n,
      photo: `https://${host}/${n}.jpg`,
    }))
    const { screens, ...rest } = project({ feed: { source: { type: 'inline', items } } })
    const classes = (relay: string[] | null) =>
      checkFeed({ screens, ...rest }, screens[0]!, items, relay).slots[0]!.classes
    expect(classes(null)).toEqual(['good', 'good', 'good', 'good'])
    expect(classes([])).toEqual(['good', 'unreachable', 'unreachable', 'unreachable'])
    expect(classes(['*.pictures.test'])).toEqual(['good', 'good', 'good', 'unreachable'])
  })

  it('proposes what a feed’s values are good for', () => {
    const item = (n: number) => ({
      id: n,
      page: `https://shop.test/${n}`,
      width: 40,
      image: { src: `https://shop.test/${n}.jpg`, width: 600, height: 400 },
      author: 'Bram',
      title: `Tile ${n}`,
      note: 'glazed',
    })
    const items = Array.from({ length: 9 }, (_, n) => item(n))
    const found = {
      picture: '/image/src',
      width: '/image/width',
      height: '/image/height',
      texts: ['/title', '/author'],
    }
    expect(proposeBindings(items, '/id')).toEqual(found)
    // What only a few items have is not proposed; the key is no line of text.
    const few = [...items.map(({ page, note }) => ({ page, note })), ...items.slice(0, 3)]
    expect(proposeBindings(few, null)).toEqual({ picture: null, width: null, height: null, texts: [] })
    expect(proposeBindings(items, '/title').texts).toEqual(['/author'])
  })

  it('makes addresses from fields deeper in an item', () => {
    const slot = project({
      cells: [{ slots: [{ address: { type: 'template', template: '{+photo.url}?w={widthPx}' } }] }],
    }).screens[0]!.cells[0]!.slots[0]!
    const px = { widthPx: 80, heightPx: 60, density: 2 }
    expect(addressOf({ photo: { url: 'https://a.example.test/1' } }, slot, px, null)).toMatchObject({
      class: 'good',
      href: 'https://a.example.test/1?w=80',
    })
    expect(addressOf({ photo: {} }, slot, px, null).class).toBe('absent')
    expect(['{+photo.url}?w={widthPx}', 'https://x.test/{id:3}', 'https://x.test/', '{?a,b*}'].map(firstField)).toEqual(
      ['/photo/url', '/id', null, '/a'],
    )
  })

  it('finds every value of an item with its place, and which may be a picture', () => {
    expect(
      fieldsOf({ id: 1, 'a/b': { '~': 'tiles/9.png' }, photo: 'tiles/9', list: [true, null] }).map(
        ({ pointer, looksLike }) => [pointer, looksLike],
      ),
    ).toEqual([
      ['/id', 'number'],
      ['/a~1b/~0', 'picture'],
      ['/photo', 'picture'],
      ['/list/0', 'other'],
    ])
  })
})
