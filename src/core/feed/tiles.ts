import { hashText } from '../numbers/draw.ts'

const archiveHost = 'archive.example.test'
/** The symbolic base of the made-up archive, against which relative addresses of origin feeds are resolved. */
export const archiveBase = `https://${archiveHost}/`
/** A second, cleartext host of the archive, wrong on purpose. */
export const cleartextHost = 'kiln.example.test'

/** Whether a host is the archive's own, which the origin serves. */
export const isArchive = (host: string) => host === archiveHost || host === cleartextHost

const tileCount = 16_777_216
export const codecs = ['webp', 'jpeg', 'png', 'avif'] as const
export type Codec = (typeof codecs)[number]
/** The size of a tile when none is requested, px. */
const tileDefaultPx = 1200
export const tileMaxPx = 4096
/** The most frames of a moving tile, and how long each is shown, ms. */
const tileMaxFrames = 24
export const tileFrameMs = 100

/** Bytes a px that a codec spends on such a picture, before the share that differs from tile to tile. */
const bytesPerPx: Record<Codec, number> = { webp: 0.2, jpeg: 0.28, png: 0.9, avif: 0.14 }
/** Room for headers, the stamp and the smallest pictures. */
const fixedBytes = 1800

/**
 * The size of a made-up tile in bytes: even, the same in both worlds. The origin pads its encodings to exactly this; a
 * simulation uses it directly.
 */
export function tileBytes(n: number, width: number, height: number, as: Codec, frames = 1): number {
  const share = 0.6 + (hashText(`tile ${n}`) % 8192) / 10_240
  return frames * (fixedBytes + 2 * Math.round((width * height * bytesPerPx[as] * share) / 2))
}

export interface TileAddress {
  n: number
  width: number
  height: number
  as: Codec
  stamp: boolean
  /** A moving picture has more than one, each shown for `tileFrameMs`. */
  frames: number
  /** Drawn as the poster of a video, with its mark. */
  poster: boolean
}

/**
 * Parses the path and query of `tiles/:n?width=&height=&as=&stamp=&frames=&poster=`; null when it is not that of a
 * tile.
 */
export function readTile(path: string, query: string): TileAddress | null {
  const match = /^\/?tiles\/(\d{1,8})$/.exec(path)
  if (!match) return null
  const n = Number(match[1])
  if (n >= tileCount) return null
  const values = new Map(query.split('&').map((pair) => [pair.split('=')[0]!, pair.split('=')[1] ?? ''] as const))
  const width = side(values.get('width'))
  const height = side(values.get('height'))
  const as = values.get('as') ?? 'webp'
  const frames = Number(values.get('frames') ?? 1)
  // Of the formats only WebP moves.
  if (!Number.isInteger(frames) || frames < 1 || frames > (as === 'webp' ? tileMaxFrames : 1)) return null
  if (width === null || height === null || !(codecs as readonly string[]).includes(as)) return null
  const w = width ?? height ?? tileDefaultPx
  return {
    n,
    width: w,
    height: height ?? w,
    as: as as Codec,
    stamp: values.get('stamp') === '1',
    frames,
    poster: values.get('poster') === '1',
  }
}

/** undefined: not requested; null: not a size. */
function side(text: string | undefined): number | null | undefined {
  if (text === undefined || text === '') return undefined
  if (!/^\d{1,5}$/.test(text)) return null
  const px = Number(text)
  return px >= 1 && px <= tileMaxPx ? px : null
}
