import { LRUCache } from 'lru-cache'
import sharp, { type Sharp } from 'sharp'
import { tileBytes, tileFrameMs, type Codec, type TileAddress } from '../../core/feed/tiles.ts'
import { queueDrawing } from './draw-queue.ts'
import { padTo } from './padding.ts'
import { tileSvg } from './tile-svg.ts'

const kept = new LRUCache<string, Buffer>({ maxSize: 128_000_000, sizeCalculation: (bytes) => bytes.length })
const drawing = new Map<string, { picture: Promise<Buffer | null>; wanted: (() => boolean)[] }>()

/**
 * The encoded picture of a tile, exactly `tileBytes` long, the same for the same address. Null when it was not `wanted`
 * any more by the time it could be drawn.
 */
export function tilePicture(tile: TileAddress, wanted: () => boolean): Buffer | Promise<Buffer | null> {
  const name = `${tile.n} ${tile.width} ${tile.height} ${tile.as} ${tile.stamp} ${tile.frames} ${tile.poster}`
  const known = kept.get(name)
  if (known) return known
  const shared = drawing.get(name)
  if (shared) {
    shared.wanted.push(wanted)
    return shared.picture
  }
  const wants = [wanted]
  const picture = queueDrawing(
    () => drawTile(tile),
    () => wants.some((want) => want()),
  )
    .then((bytes) => {
      if (bytes) kept.set(name, bytes)
      return bytes
    })
    .finally(() => drawing.delete(name))
  drawing.set(name, { picture, wanted: wants })
  return picture
}

async function drawTile({ n, width, height, as, stamp, frames, poster }: TileAddress): Promise<Buffer> {
  const size = tileBytes(n, width, height, as, frames)
  const drawn: Buffer[] = []
  for (let frame = 0; frame < frames; frame++) {
    const svg = tileSvg(n, width, height, { stamp, poster, turn: frame / frames })
    drawn.push(await sharp(Buffer.from(svg)).removeAlpha().raw().toBuffer())
  }
  const data = Buffer.concat(drawn)
  const raw = { width, height: height * frames, channels: 3 as const, ...(frames > 1 ? { pageHeight: height } : {}) }
  for (const quality of [80, 60, 40, 20, 5]) {
    const padded = padTo(await encode(sharp(data, { raw }), as, quality), size, as)
    if (padded) return padded
  }
  throw new Error(`tile ${n} at ${width} × ${height} px does not fit ${size} bytes as ${as}`)
}

function encode(image: Sharp, as: Codec, quality: number): Promise<Buffer> {
  switch (as) {
    case 'webp':
      return image.webp({ quality, effort: 0, loop: 0, delay: tileFrameMs }).toBuffer()
    case 'jpeg':
      return image.jpeg({ quality }).toBuffer()
    case 'png':
      return image.png({ palette: true, quality, effort: 2 }).toBuffer()
    case 'avif':
      return image.avif({ quality: Math.min(quality, 60), effort: 1 }).toBuffer()
  }
}
