import { mapClasses } from '../../core/profile/map-data.ts'
import type { MapPaint } from './draw-map.ts'
import { inRange } from './map-view.ts'
import { offsetAt, type Projection } from './projection.ts'
import { classWords } from './map-words.ts'

/** Half the size of a mark's dot, px. */
const dot = 1

/**
 * The map from far out: too many lines for paths. Holes, lines and end dots go straight into a pixel buffer,
 * which is then laid over the channel.
 */
export class FarView {
  private readonly canvas = document.createElement('canvas')
  private image: ImageData | null = null

  draw(context: CanvasRenderingContext2D, paint: MapPaint): void {
    const { plot } = paint
    const width = Math.ceil(plot.width)
    const height = Math.ceil(plot.height)
    if (this.image?.width !== width || this.image.height !== height) {
      this.canvas.width = width
      this.canvas.height = height
      this.image = new ImageData(width, height)
    }
    const pixels = new Uint32Array(this.image.data.buffer)
    pixels.fill(0)
    this.addHoles(pixels, width, height, paint)
    this.addLines(pixels, width, height, paint)
    this.canvas.getContext('2d')!.putImageData(this.image, 0, 0)
    context.drawImage(this.canvas, plot.left, plot.top)
  }

  private addHoles(pixels: Uint32Array, width: number, height: number, { map, view, colour, projection = 'rows' }: MapPaint): void {
    const { y, height: tall, from, to } = map.holes
    const ink = packed(colour('--hole'), 0.5)
    const [xOf, yOf] = scales(view, width, height)
    const shifts = shiftsOf(map, projection, view, width)
    for (let i = 0; i < y.length; i++) {
      const x0 = Math.max(0, Math.round(xOf(from[i]!)))
      const x1 = Math.min(width - 1, Math.round(xOf(to[i]!)))
      const top = Math.max(0, Math.round(yOf(y[i]!)))
      const bottom = Math.min(height - 1, Math.round(yOf(y[i]! + tall[i]!)))
      if (projection === 'distance') {
        const deep = bottom - top
        for (let px = x0; px <= x1; px++) {
          const first = Math.round(yOf(y[i]! - shifts[px]!))
          for (let py = Math.max(0, first + ((first + px) & 1)); py <= Math.min(height - 1, first + deep); py += 2) pixels[py * width + px] = ink
        }
        continue
      }
      for (let py = top; py <= bottom; py++) for (let px = x0 + ((x0 + py) & 1); px <= x1; px += 2) pixels[py * width + px] = ink
    }
  }

  private addLines(pixels: Uint32Array, width: number, height: number, { map, view, colour, hidden, projection = 'rows', range, only }: MapPaint): void {
    const shifts = shiftsOf(map, projection, view, width)
    const { lines } = map
    const inks = mapClasses.map((name) => (hidden.has(name) ? 0 : packed(colour(classWords[name].hue), name === 'cancelledFree' ? 0.5 : 0.9)))
    const [xOf, yOf] = scales(view, width, height)
    for (let i = 0; i < lines.request.length; i++) {
      const ink = inks[lines.kind[i]!]!
      const end = Math.round(xOf(lines.to[i]!))
      if (ink === 0 || end < 0 || (range && !inRange(map, i, range)) || (only && only[i] !== 1)) continue
      if (projection === 'distance') {
        const first = Math.max(0, Math.round(xOf(lines.from[i]!)))
        for (let px = first; px <= Math.min(width - 1, end); px++) {
          const py = Math.round(yOf(lines.y[i]! - shifts[px]!))
          if (py >= 0 && py < height) pixels[py * width + px] = ink
        }
      }
      const row = Math.round(yOf(lines.y[i]! - (shifts[Math.min(width - 1, end)] ?? 0)))
      if (row < dot || row >= height - dot) continue
      const start = Math.max(0, Math.round(xOf(lines.from[i]!)))
      if (start >= width) continue
      if (projection === 'rows') pixels.fill(ink, row * width + start, row * width + Math.min(width, end + 1))
      if (end >= width - dot || end < dot) continue
      for (let dy = -dot; dy <= dot; dy++) for (let dx = -dot; dx <= dot; dx++) pixels[(row + dy) * width + end + dx] = ink
    }
  }
}

/** What is taken from places in the list at each column of pixels, dp. */
function shiftsOf(map: MapPaint['map'], projection: Projection, view: MapPaint['view'], width: number): Float64Array {
  const shifts = new Float64Array(width)
  if (projection === 'distance') for (let px = 0; px < width; px++) shifts[px] = offsetAt(map, projection, view.fromMs + (px / width) * (view.toMs - view.fromMs))
  return shifts
}

function scales(view: MapPaint['view'], width: number, height: number): [(ms: number) => number, (dp: number) => number] {
  const across = width / (view.toMs - view.fromMs)
  const down = height / (view.toDp - view.fromDp)
  return [(ms) => (ms - view.fromMs) * across, (dp) => (dp - view.fromDp) * down]
}

/** A #rrggbb colour as one little-endian pixel. */
function packed(colour: string, alpha: number): number {
  const value = Number.parseInt(colour.trim().slice(1), 16)
  const [red, green, blue] = [(value >> 16) & 255, (value >> 8) & 255, value & 255]
  return ((Math.round(alpha * 255) << 24) | (blue << 16) | (green << 8) | red) >>> 0
}
