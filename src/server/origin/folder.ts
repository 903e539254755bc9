import { open, readdir, stat } from 'node:fs/promises'
import { extname, join, sep } from 'node:path'
import { LRUCache } from 'lru-cache'
import sharp from 'sharp'
import type { Item } from '../../core/project/types.ts'
import { codecs, tileMaxPx, type Codec } from '../../core/feed/tiles.ts'

const types: Record<string, string> = {
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.png': 'image/png',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.gif': 'image/gif',
  '.svg': 'image/svg+xml',
}
const perPage = 500

export interface FolderPicture {
  bytes: Buffer
  type: string
}

/**
 * The user's own pictures: the files of one folder and its subfolders, by name. Only names that were found in it lead
 * to a file, so nothing outside it can be reached.
 */
export class PictureFolder {
  private readonly path: string
  private readonly files = new Map<string, string>()
  private items: Item[] = []
  private readonly made = new LRUCache<string, FolderPicture>({
    maxSize: 128_000_000,
    sizeCalculation: ({ bytes }) => bytes.length,
  })

  constructor(path: string) {
    this.path = path
  }

  /** Reads the folder's list, and the size of each picture; reports which files are no pictures. */
  async open(): Promise<{ count: number; skipped: string[] }> {
    const skipped: string[] = []
    for (const name of (await readdir(this.path, { recursive: true }))
      .map((each) => each.replaceAll(sep, '/'))
      .sort()) {
      if (!types[extname(name).toLowerCase()]) continue
      const file = join(this.path, name)
      try {
        const { width, height, orientation } = await sharp(file).metadata()
        if (await isCutShort(file, extname(name).toLowerCase())) throw new Error('it ends before its last part')
        const turned = (orientation ?? 1) >= 5
        this.files.set(name, file)
        this.items.push({
          id: name,
          photo: `pictures/${encodeURIComponent(name)}`,
          title: name,
          width: turned ? height : width,
          height: turned ? width : height,
          bytes: (await stat(file)).size,
        })
      } catch {
        skipped.push(name)
      }
    }
    return { count: this.items.length, skipped }
  }

  page(page: number): { items: Item[]; next: string | null; total: number } | null {
    const from = (page - 1) * perPage
    if (!Number.isInteger(page) || page < 1 || (from >= this.items.length && page > 1)) return null
    const next = from + perPage < this.items.length ? `feeds/folder?page=${page + 1}` : null
    return { items: this.items.slice(from, from + perPage), next, total: this.items.length }
  }

  has(name: string): boolean {
    return this.files.has(name)
  }

  /** A picture as it is, or resized to cover the requested size; null for a size or type that is not valid. */
  async picture(name: string, query: URLSearchParams): Promise<FolderPicture | null> {
    const file = this.files.get(name)!
    const width = sideOf(query.get('width'))
    const height = sideOf(query.get('height'))
    const as = query.get('as')
    if (width === null || height === null || (as !== null && !(codecs as readonly string[]).includes(as))) return null
    const key = `${name} ${width} ${height} ${as}`
    const known = this.made.get(key)
    if (known) return known
    const source = types[extname(name).toLowerCase()]!
    if (width === undefined && height === undefined && as === null) {
      const { readFile } = await import('node:fs/promises')
      return { bytes: await readFile(file), type: source }
    }
    const image = sharp(file).rotate().resize({ width, height, fit: 'cover', withoutEnlargement: true })
    const codec = (as ?? (source === 'image/png' ? 'png' : 'jpeg')) as Codec
    const bytes = await image
      .toFormat(codec, codec === 'avif' ? { effort: 1 } : {})
      .toBuffer()
      // It was a picture when the folder was read; it is not one any more.
      .catch(() => null)
    if (!bytes) return null
    const picture = { bytes, type: `image/${codec}` }
    this.made.set(key, picture)
    return picture
  }
}

/** The last bytes of files of a format; null: they do not show the end. */
const endings: Record<string, Buffer | null> = {
  '.jpg': Buffer.from([0xff, 0xd9]),
  '.jpeg': Buffer.from([0xff, 0xd9]),
  '.png': Buffer.from('IEND'),
  '.gif': Buffer.from([0x3b]),
}
/** Some programs write more after the end of a picture: the end is looked for in this many last bytes. */
const lastBytes = 65_536

/** Whether a file was cut off, which its header does not show. */
async function isCutShort(file: string, ending: string): Promise<boolean> {
  const handle = await open(file)
  try {
    const { size } = await handle.stat()
    if (ending === '.webp') {
      const { buffer } = await handle.read(Buffer.alloc(8), 0, 8, 0)
      // RIFF: the length of what follows the first eight bytes.
      return buffer.readUInt32LE(4) + 8 > size
    }
    const mark = endings[ending]
    if (!mark) return false
    const length = Math.min(lastBytes, size)
    const { buffer } = await handle.read(Buffer.alloc(length), 0, length, size - length)
    if (!buffer.includes(mark)) return true
    // A small one may contain the end of a thumbnail alone: it is decoded.
    return size <= lastBytes && ending.startsWith('.jp') && !(await isWhole(file))
  } finally {
    await handle.close()
  }
}

const isWhole = (file: string) =>
  sharp(file, { failOn: 'truncated' })
    .resize(8)
    .toBuffer()
    .then(
      () => true,
      () => false,
    )

function sideOf(text: string | null): number | null | undefined {
  if (text === null || text === '') return undefined
  const px = Number(text)
  return Number.isInteger(px) && px >= 1 && px <= tileMaxPx ? px : null
}
