import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addressOf, smallAddressOf, classify, sameAs } from '../../src/core/feed/address.ts'
import { checkAddresses } from '../../src/core/feed/address-check.ts'
import { FeedList } from '../../src/core/feed/feed-list.ts'
import { valueAt } from '../../src/core/feed/json-pointer.ts'
import { madeUpFeeds, madeUpPage } from '../../src/core/feed/made-up.ts'
import { codecs, readTile, tileBytes } from '../../src/core/feed/tiles.ts'
import { hintsOf } from '../../src/core/list/pictures.ts'
import { projectOf } from '../support/projects.ts'

const px = { widthPx: 326, heightPx: 200, density: 2.625 }
const slotWith = (address: object) => projectOf({ slot: { address } }).screens[0]!.cells[0]!.slots[0]!

describe('addresses', () => {
  it.each([
    ['https://a.example.test/x.jpg', 'good'],
    ['http://a.example.test/x', 'cleartext'],
    ['', 'empty'],
    ['   ', 'empty'],
    ['x/y.jpg', 'relative'],
    ['ftp://a.example.test/x', 'scheme'],
    ['file:///etc/passwd', 'scheme'],
    ['https://u:p@a.example.test/', 'credentials'],
    ['https://a b/x', 'malformed'],
    ['https://a/%zz', 'malformed'],
    ['https:///x', 'malformed'],
    ['https://[bad/x', 'malformed'],
    ['data:image/png;base64,AA', 'good'],
  ])('%s is %s', (text, kind) => {
    expect(classify(text, null).class).toBe(kind)
  })

  it('resolves relative ones against the base', () => {
    const at = (text: string) => classify(text, 'https://a.example.test/one/two?q').href
    expect(at('x.jpg')).toBe('https://a.example.test/one/x.jpg')
    expect(at('/x.jpg')).toBe('https://a.example.test/x.jpg')
    expect(at('../../x/./y.jpg?w=1')).toBe('https://a.example.test/x/y.jpg?w=1')
    expect(at('//b.example.test/x')).toBe('https://b.example.test/x')
    expect(at('?w=1')).toBe('https://a.example.test/one/two?w=1')
  })

  it('come from a field, a template, or a table', () => {
    const item = { photo: 'https://a.example.test/7', sky: 3, deep: { 'a/b': 'x' } }
    const of = (address: object) => addressOf(item, slotWith(address), px, null)
    expect(of({ type: 'pointer', at: '/photo' }).href).toBe(item.photo)
    expect(of({ type: 'template', template: '{+photo}?w={widthPx}&d={density}' }).href).toBe(
      'https://a.example.test/7?w=326&d=2.625',
    )
    expect(of({ type: 'template', template: '{+nothing}?w={widthPx}' }).class).toBe('absent')
    expect(of({ type: 'table', at: '/sky', table: { 3: 'https://a.example.test/rain' } }).href).toBe(
      'https://a.example.test/rain',
    )
    expect(of({ type: 'pointer', at: '/sky' }).class).toBe('malformed')
    expect(valueAt(item, '/deep/a~1b')).toBe('x')
    expect(valueAt(item, '/constructor')).toBeUndefined()
  })

  it('of several sizes is the narrowest that is as wide as the slot, else the widest that the item has', () => {
    const item = {
      thumb: 'https://a.example.test/t',
      medium: 'https://a.example.test/m',
      whole: 'https://a.example.test/o',
      mediumWidth: 600,
      width: 2400,
      height: 1200,
      bytes: 900_000,
    }
    const choices = [{ at: '/whole' }, { at: '/medium', widthAt: '/mediumWidth' }, { at: '/thumb', widthPx: 120 }]
    const slot = slotWith({ type: 'sizes', choices })
    const of = (widthPx: number, from: object = item) =>
      addressOf(from as Record<string, unknown>, slot, { ...px, widthPx }, null)
    const widths = [1, 120, 121, 600, 601, 9000]
    expect(widths.map((width) => of(width).href.at(-1))).toEqual(['t', 't', 'm', 'm', 'o', 'o'])
    expect(of(700, { ...item, whole: '' }).href).toBe(item.medium)
    expect(of(700, {}).class).toBe('absent')
    // What the item says of its picture holds for the widest; a narrower one keeps its shape, and its bytes are
    // unknown.
    expect(hintsOf(item, slot, of(500))).toEqual({ bytes: null, widthPx: 600, heightPx: 300 })
    expect(hintsOf(item, slot, of(700))).toEqual({ bytes: 900_000, widthPx: 2400, heightPx: 1200 })
    // Before it comes the narrowest that the item has, unless that is the one.
    const first = slotWith({ type: 'sizes', choices, smallFirst: true })
    const small = (widthPx: number, from: object = item, by = first) =>
      smallAddressOf(from as Record<string, unknown>, by, { ...px, widthPx }, null)?.href.at(-1) ?? null
    expect(widths.map((width) => small(width))).toEqual([null, null, 't', 't', 't', 't'])
    expect(small(700, { ...item, thumb: '' })).toBe('m')
    expect(small(700, {})).toBe(null)
    expect(small(700, item, slot)).toBe(null)
  })

  it('can leave out what does not make another picture', () => {
    expect(sameAs('https://a/x?sig=1&w=2#f', ['sig'])).toBe('https://a/x?w=2')
    expect(sameAs('https://a/x?sig=1', ['sig'])).toBe('https://a/x')
  })
})

describe('the address check', () => {
  it('counts the demo wall by class and finds the hosts in cleartext', () => {
    const all = Array.from({ length: 10 }, (_, page) => madeUpPage('wall', page + 1)!.items).flat()
    const { screens } = projectOf({})
    const { counts, cleartextHosts } = checkAddresses(
      all,
      screens[0]!,
      slotWith({ type: 'pointer', at: '/photo' }),
      px,
      'https://archive.example.test/',
    )
    expect(Object.values(counts).reduce((sum, count) => sum + count, 0)).toBe(2400)
    expect(counts).toMatchObject({ cleartext: 24, absent: 12, malformed: 6, empty: 0 })
    expect(counts.duplicate).toBeGreaterThan(0)
    expect(cleartextHosts).toEqual({ 'kiln.example.test': 24 })
  })
})

describe('the feed list', () => {
  const { feed } = projectOf({
    screen: {
      feed: { source: { type: 'inline', items: [] }, key: '/id', repeat: { times: 1000, addresses: 'distinct' } },
    },
  }).screens[0]!

  it('repeats without copying, with keys of their own', () => {
    const list = new FeedList(feed)
    list.append([{ id: 'a' }, { id: 'b' }])
    expect(list.count).toBe(2)
    list.complete()
    expect([list.count, list.key(1), list.key(2), list.repeat(1999), list.item(1999)]).toEqual([
      2000,
      'b',
      'a~1',
      999,
      { id: 'b' },
    ])
  })

  it('keeps identities through edits', () => {
    const list = new FeedList({ ...feed, repeat: { times: 1, addresses: 'same' } })
    list.append(['a', 'b', 'c', 'd'].map((id) => ({ id })))
    list.insert(0, [{ id: 'a' }])
    list.move(1, 1, 3)
    list.remove(1, 1)
    list.update(0, 1, (item) => ({ ...item, title: 'x' }))
    expect(Array.from({ length: list.count }, (_, i) => list.key(i))).toEqual(['new-1', 'c', 'a', 'd'])
    expect(list.item(0)).toEqual({ id: 'a', title: 'x' })
  })

  const position = fc.nat(14)
  const edit = fc.oneof(
    fc.record({ op: fc.constant('insert' as const), at: position, count: fc.nat(3) }),
    fc.record({ op: fc.constant('remove' as const), at: position, count: fc.nat(4) }),
    fc.record({ op: fc.constant('move' as const), at: position, count: fc.nat(4), to: position }),
    fc.record({ op: fc.constant('update' as const), at: position, count: fc.nat(6) }),
    fc.record({ op: fc.constant('append' as const), count: fc.nat(3) }),
  )
  it('is what a plain array with the same edits is', () =>
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 12 }), fc.integer({ min: 1, max: 3 }), (edits, times) => {
        const list = new FeedList({ ...feed, key: null, repeat: { times, addresses: 'same' } })
        const plain: { key: string; item: object }[] = []
        let [arrived, inserted, updated] = [0, 0, 0]
        const append = (count: number) => {
          list.append(Array.from({ length: count }, (_, i) => ({ n: arrived + i })))
          for (; count > 0; count--, arrived++) plain.push({ key: `#${arrived}`, item: { n: arrived } })
        }
        append(5)
        for (const edit of edits) {
          const at = 'at' in edit ? Math.min(edit.at, plain.length) : 0
          if (edit.op === 'append') append(edit.count)
          else if (edit.op === 'insert') {
            const items = Array.from({ length: edit.count }, (_, i) => ({ fresh: i }))
            list.insert(at, items)
            plain.splice(at, 0, ...items.map((item) => ({ key: `new-${++inserted}`, item })))
          } else if (edit.op === 'remove') {
            list.remove(at, edit.count)
            plain.splice(at, edit.count)
          } else if (edit.op === 'update') {
            const mark = ++updated
            list.update(at, edit.count, (item) => ({ ...item, mark }))
            for (const each of plain.slice(at, at + edit.count)) each.item = { ...each.item, mark }
          } else {
            const to = Math.min(edit.to, plain.length - Math.min(edit.count, plain.length - at))
            list.move(at, edit.count, to)
            plain.splice(to, 0, ...plain.splice(at, edit.count))
          }
        }
        list.complete()
        for (let repeat = 1; repeat < times; repeat++)
          for (let n = 0; n < arrived; n++) plain.push({ key: `#${n}~${repeat}`, item: { n } })
        const positions = Array.from({ length: list.count }, (_, index) => index)
        expect(positions.map((index) => ({ key: list.key(index), item: list.item(index) }))).toEqual(plain)
        expect(positions.map((index) => list.find(list.origin(index)))).toEqual(positions)
      }),
    ))
})

describe('the made-up archive', () => {
  it('pages every feed without losing or doubling an item', () => {
    for (const name of ['makers', 'wall', 'shelves', 'kiln-log'] as const) {
      const ids = new Set<unknown>()
      for (let page = 1; ; page++) {
        const reply = madeUpPage(name, page)!
        for (const item of reply.items) ids.add(item.id)
        if (reply.next === null) break
        expect(reply.next).toBe(`feeds/${name}?page=${page + 1}`)
      }
      expect(ids.size).toBe(madeUpFeeds[name].items)
    }
    expect([madeUpPage('wall', 0), madeUpPage('wall', 11), madeUpPage('wall', 1.5)]).toEqual([null, null, null])
  })

  it('gives even sizes in bytes that grow with the picture', () => {
    for (const as of codecs)
      for (const n of [0, 7, 417, 99_999]) {
        expect(tileBytes(n, 326, 326, as) % 2).toBe(0)
        expect(tileBytes(n, 326, 326, as)).toBeGreaterThan(tileBytes(n, 100, 100, as))
      }
    expect(readTile('tiles/417', 'width=326&as=png')).toEqual({
      n: 417,
      width: 326,
      height: 326,
      as: 'png',
      stamp: false,
      frames: 1,
      poster: false,
    })
    expect([
      readTile('tiles/x', ''),
      readTile('tiles/1', 'as=gif'),
      readTile('tiles/1', 'width=0'),
      readTile('tiles/1', 'width=99999'),
    ]).toEqual([null, null, null, null])
  })
})
