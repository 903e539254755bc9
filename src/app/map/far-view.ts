import { mapClasses } from '../../core/profile/views/map-data.ts'
import type { MapPaint } from './map-paint.ts'
import { inRange, type MapWindow } from './map-view.ts'
import { offsetAt, type Projection } from './projection.ts'
import { classWords } from './map-words.ts'

/** Half the size of a mark's dot, px. */
const dot = 1
/** While the map is panned, what is drawn reaches so far beyond the plot on every side, as a share of it: within, a redraw is one copy. */
const beyond = 0.5

/** What is in the buffer: the same marks at the same scale can be shown from it at another place. */
interface Drawn {
  paint: Pick<MapPaint, 'map' | 'hidden' | 'projection' | 'range' | 'only'>
  inks: string
  /** The buffer's own part of the map. */
  view: MapWindow
  msPerPx: number
  dpPerPx: number
}

/**
 * The map from far out: too many lines for paths. Holes, lines and end dots go straight into a pixel buffer, whose
 * part in view is laid over the channel. It is as large as the plot until the map is panned, and larger from then on:
 * a first view, and each step of a zoom, are drawn as fast as can be.
 */
export class FarView {
  private readonly canvas = document.createElement('canvas')
  private image: ImageData | null = null
  private drawn: Drawn | null = null
  /** How often the buffer was filled anew. */
  fills = 0

  draw(context: CanvasRenderingContext2D, paint: MapPaint): void {
    const { plot } = paint
    const width = Math.ceil(plot.width)
    const height = Math.ceil(plot.height)
    const place =
      this.placeOf(paint, width, height) ??
      this.fill(paint, width, height, this.isAlike(paint, width, height) ? beyond : 0)
    context.drawImage(this.canvas, place.x, place.y, width, height, plot.left, plot.top, width, height)
  }

  /** Whether the buffer has the same marks at the same scale, wherever the view lies. */
  private isAlike(paint: MapPaint, width: number, height: number): boolean {
    const { drawn } = this
    if (!drawn) return false
    for (const part of ['map', 'hidden', 'projection', 'range', 'only'] as const)
      if (drawn.paint[part] !== paint[part]) return false
    const { view } = paint
    const equal = (one: number, other: number) => Math.abs(one - other) <= 1e-9 * Math.abs(one)
    return (
      equal(drawn.msPerPx, (view.toMs - view.fromMs) / width) &&
      equal(drawn.dpPerPx, (view.toDp - view.fromDp) / height) &&
      drawn.inks === inksOf(paint).join()
    )
  }

  /** Where in the buffer the view lies, px; null when it is not all there. */
  private placeOf(paint: MapPaint, width: number, height: number): { x: number; y: number } | null {
    const { drawn, image } = this
    if (!drawn || !image || !this.isAlike(paint, width, height)) return null
    const { view } = paint
    const x = Math.round((view.fromMs - drawn.view.fromMs) / drawn.msPerPx)
    const y = Math.round((view.fromDp - drawn.view.fromDp) / drawn.dpPerPx)
    return x < 0 || y < 0 || x + width > image.width || y + height > image.height ? null : { x, y }
  }

  private fill(paint: MapPaint, width: number, height: number, margin: number): { x: number; y: number } {
    // Even: the hatching of holes stays in step.
    const even = (px: number) => 2 * Math.round(px / 2)
    const place = { x: even(width * margin), y: even(height * margin) }
    const [wide, tall] = [width + 2 * place.x, height + 2 * place.y]
    if (this.image?.width !== wide || this.image.height !== tall) {
      this.canvas.width = wide
      this.canvas.height = tall
      this.image = new ImageData(wide, tall)
    }
    const { map, hidden, projection, range, only } = paint
    const msPerPx = (paint.view.toMs - paint.view.fromMs) / width
    const dpPerPx = (paint.view.toDp - paint.view.fromDp) / height
    const fromMs = paint.view.fromMs - place.x * msPerPx
    const fromDp = paint.view.fromDp - place.y * dpPerPx
    const view = { fromMs, toMs: fromMs + wide * msPerPx, fromDp, toDp: fromDp + tall * dpPerPx }
    const inks = inksOf(paint)
    const pixels = new Uint32Array(this.image.data.buffer)
    pixels.fill(0)
    this.addHoles(pixels, wide, tall, { ...paint, view })
    this.addLines(pixels, wide, tall, { ...paint, view }, inks)
    this.canvas.getContext('2d')!.putImageData(this.image, 0, 0)
    this.drawn = { paint: { map, hidden, projection, range, only }, inks: inks.join(), view, msPerPx, dpPerPx }
    this.fills++
    return place
  }

  private addHoles(
    pixels: Uint32Array,
    width: number,
    height: number,
    { map, view, colour, projection = 'rows' }: MapPaint,
  ): void {
    const { y, height: tall, from, to } = map.holes
    const ink = packed(colour('--hole'), 0.5)
    const [xOf, yOf] = scales(view, width, height)
    const shifts = shiftsOf(map, projection, view, width)
    for (let i = 0; i < y.length; i++) {
      if (to[i]! < view.fromMs || from[i]! > view.toMs) continue
      const x0 = Math.max(0, Math.round(xOf(from[i]!)))
      const x1 = Math.min(width - 1, Math.round(xOf(to[i]!)))
      const top = Math.max(0, Math.round(yOf(y[i]!)))
      const bottom = Math.min(height - 1, Math.round(yOf(y[i]! + tall[i]!)))
      if (projection === 'distance') {
        const deep = Math.round(yOf(y[i]! + tall[i]!)) - Math.round(yOf(y[i]!))
        for (let px = x0; px <= x1; px++) {
          const first = Math.round(yOf(y[i]! - shifts[px]!))
          const last = Math.min(height - 1, first + deep)
          const above = Math.max(0, first)
          for (let py = above + ((above + px) & 1); py <= last; py += 2) pixels[py * width + px] = ink
        }
        continue
      }
      for (let py = top; py <= bottom; py++)
        for (let px = x0 + ((x0 + py) & 1); px <= x1; px += 2) pixels[py * width + px] = ink
    }
  }

  private addLines(
    pixels: Uint32Array,
    width: number,
    height: number,
    { map, view, projection = 'rows', range, only }: MapPaint,
    inks: readonly number[],
  ): void {
    const shifts = shiftsOf(map, projection, view, width)
    const { lines } = map
    const [xOf, yOf] = scales(view, width, height)
    for (let i = 0; i < lines.request.length; i++) {
      if (lines.to[i]! < view.fromMs || lines.from[i]! > view.toMs) continue
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
      for (let dy = -dot; dy <= dot; dy++)
        for (let dx = -dot; dx <= dot; dx++) pixels[(row + dy) * width + end + dx] = ink
    }
  }
}

/** The colour of each class as a pixel; 0: the legend has switched it off. */
function inksOf({ hidden, colour }: MapPaint): number[] {
  return mapClasses.map((name) =>
    hidden.has(name) ? 0 : packed(colour(classWords[name].hue), name === 'cancelledFree' ? 0.5 : 0.9),
  )
}

/** What is taken from places in the list at each column of pixels, dp. */
function shiftsOf(map: MapPaint['map'], projection: Projection, view: MapWindow, width: number): Float64Array {
  const shifts = new Float64Array(width)
  if (projection === 'distance')
    for (let px = 0; px < width; px++)
      shifts[px] = offsetAt(map, projection, view.fromMs + (px / width) * (view.toMs - view.fromMs))
  return shifts
}

function scales(view: MapWindow, width: number, height: number): [(ms: number) => number, (dp: number) => number] {
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
