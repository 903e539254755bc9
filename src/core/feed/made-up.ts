import type { Item } from '../project/types.ts'
import { hashText } from '../numbers/draw.ts'
import { cleartextHost } from './tiles.ts'

/** The feeds of the Saltmarsh Kiln archive, made from an item's number alone; the origin serves the same. */
export const madeUpFeeds = {
  makers: { items: 320, perPage: 320, make: makerItem },
  wall: { items: 2400, perPage: 240, make: wallTile },
  shelves: { items: 600, perPage: 200, make: shelf },
  'kiln-log': { items: 800, perPage: 40, make: firing },
} as const
export type MadeUpFeed = keyof typeof madeUpFeeds

export const isMadeUp = (name: string): name is MadeUpFeed => Object.hasOwn(madeUpFeeds, name)

export interface FeedPage {
  items: Item[]
  next: string | null
  total: number
}

const pages = new Map<string, FeedPage>()

/** A page of a made-up feed, counted from 1; null after the last one. The same objects each time. */
export function madeUpPage(name: MadeUpFeed, page: number): FeedPage | null {
  const known = pages.get(`${name} ${page}`)
  if (known !== undefined) return known
  const fresh = makePage(name, page)
  if (fresh) pages.set(`${name} ${page}`, fresh)
  return fresh
}

function makePage(name: MadeUpFeed, page: number): FeedPage | null {
  const { items, perPage, make } = madeUpFeeds[name]
  const from = (page - 1) * perPage
  if (!Number.isInteger(page) || page < 1 || from >= items) return null
  const count = Math.min(perPage, items - from)
  return {
    items: Array.from({ length: count }, (_, i) => make(from + i)),
    next: from + count < items ? `feeds/${name}?page=${page + 1}` : null,
    total: items,
  }
}

const first = [
  'Heron',
  'Samphire',
  'Ebb',
  'Lantern',
  'Marram',
  'Quay',
  'Curlew',
  'Thrift',
  'Brackish',
  'Tidal',
  'Sluice',
  'Reed',
]
const second = ['panel', 'border', 'star', 'quatrefoil', 'lozenge', 'rosette', 'hex', 'knot', 'wave', 'corner']
const kilns = ['Saltmarsh', 'Low Quay', 'Reedbank', 'North Staithe']
const given = ['Isolde', 'Bram', 'Oriel', 'Tamsin', 'Corwin', 'Maud', 'Ansel', 'Petra', 'Silas', 'Wren']
const family = ['Fenwater', 'Claypole', 'Ashlar', 'Stokehold', 'Brinewell', 'Potterton', 'Glazebrook', 'Saggar']
const glazes = ['#0E6470', '#31465C', '#D98E04', '#5A5FB0', '#7A3B2E', '#2B4B8C', '#2F7A64', '#E3A23B']

const pick = <T>(list: readonly T[], n: number, salt: string): T => list[hashText(`${salt} ${n}`) % list.length]!
const padded = (n: number) => String(n).padStart(5, '0')

/** A glazed tile. A few are wrong on purpose, each in its own way. */
function wallTile(i: number): Item {
  const item: Item = {
    id: `T-${padded(i)}`,
    photo: `tiles/${i}`,
    width: 1200,
    height: 1200,
    title: `${pick(first, i, 'first')} ${pick(second, i, 'second')}`,
    kiln: { name: pick(kilns, i, 'kiln'), fired: 1880 + (hashText(`fired ${i}`) % 60) },
    colour: pick(glazes, i, 'glaze'),
  }
  const photo = oddAddress(i)
  if (photo === null) delete item.photo
  else if (photo !== undefined) item.photo = photo
  return item
}

/** undefined: an address like all others; null: none at all. */
function oddAddress(i: number): string | null | undefined {
  if (i % 211 === 40) return null
  if (i % 397 === 60) return 'https://[kiln/tiles/broken'
  if (i % 101 === 55) return `http://${cleartextHost}/tiles/${i}`
  if (i % 307 === 23) return `tiles/${i - 1}`
  if (i % 509 === 131) return `tiles/lost-${i}`
  return undefined
}

function makerItem(i: number): Item {
  return {
    id: `M-${padded(i)}`,
    portrait: `tiles/${100_000 + i}`,
    name: `${pick(given, i, 'given')} ${pick(family, i, 'family')}`,
    trade: pick(['glazer', 'thrower', 'kiln hand', 'pattern cutter', 'clay carter'], i, 'trade'),
    kiln: { name: pick(kilns, i, 'maker kiln'), from: 1880 + (hashText(`from ${i}`) % 40) },
    colour: pick(glazes, i, 'maker glaze'),
  }
}

const shelfSizes = [
  { width: 1200, height: 900 },
  { width: 900, height: 1200 },
  { width: 1200, height: 675 },
]

function shelf(i: number): Item {
  const tall = hashText(`tall ${i}`) % 3
  const { width, height } = shelfSizes[tall]!
  const words = 4 + (hashText(`words ${i}`) % 40)
  return {
    id: `S-${padded(i)}`,
    kind: i % 4 === 0 ? 'case' : 'object',
    photo: `tiles/${200_000 + i}`,
    mark: `tiles/${300_000 + (i % 40)}`,
    width,
    height,
    title: `${pick(first, i, 'shelf')} ${pick(second, i, 'shelf second')}`,
    note: Array.from({ length: words }, (_, w) => pick(first, i * 50 + w, 'note').toLowerCase()).join(' '),
    colour: pick(glazes, i, 'shelf glaze'),
  }
}

function firing(i: number): Item {
  return {
    id: `K-${padded(i)}`,
    photo: `tiles/${400_000 + i}`,
    width: 1200,
    height: 900,
    title: `Firing ${1000 + i}: ${pick(first, i, 'firing').toLowerCase()} glaze`,
    note: `${pick(kilns, i, 'firing kiln')}, ${900 + (hashText(`heat ${i}`) % 400)} °C`,
    colour: pick(glazes, i, 'firing glaze'),
  }
}
