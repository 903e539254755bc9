import { mapClasses } from '../../core/profile/views/map-data.ts'
import { classWords } from './map-words.ts'
import type { MapPaint } from './map-paint.ts'
import { inRange, type MapWindow } from './map-view.ts'
import { offsetAt, type Projection } from './projection.ts'

/** Half the size of a mark's dot, px. */
const dot = 1
/**
 * After this much work, in pixels, the caller is asked whether to go on; the cost of a line beside its pixels, in
 * pixels.
 */
const pixelsAPart = 60_000
const lineInPixels = 12

/** A buffer and what is drawn into it: `width` × `height` pixels, little-endian RGBA. */
export interface PixelRoom {
  pixels: Uint32Array
  width: number
  height: number
}

/** Draws what was missing on screen, hatched; yields after each part of the work. */
export function* addHoles(
  { pixels, width, height }: PixelRoom,
  { map, view, colour, projection = 'rows' }: MapPaint,
): Generator<void, void> {
  let work = 0
  const { y, height: tall, from, to } = map.holes
  const ink = packed(colour('--hole'))
  const [xOf, yOf] = scales(view, width, height)
  const shifts = shiftsOf(map, projection, view, width)
  for (let i = 0; i < y.length; i++) {
    if ((work += lineInPixels) > pixelsAPart) {
      work = 0
      yield
    }
    if (to[i]! < view.fromMs || from[i]! > view.toMs) continue
    const x0 = Math.max(0, Math.round(xOf(from[i]!)))
    const x1 = Math.min(width - 1, Math.round(xOf(to[i]!)))
    const top = Math.max(0, Math.round(yOf(y[i]!)))
    const bottom = Math.min(height - 1, Math.round(yOf(y[i]! + tall[i]!)))
    work += (Math.max(0, x1 - x0) * Math.max(0, bottom - top)) / 2
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

/** Draws every request that is in view, with a dot at its end; yields after each part of the work. */
export function* addLines(
  { pixels, width, height }: PixelRoom,
  { map, view, projection = 'rows', range, only }: MapPaint,
  inks: readonly number[],
): Generator<void, void> {
  let work = 0
  const shifts = shiftsOf(map, projection, view, width)
  const { lines } = map
  const [xOf, yOf] = scales(view, width, height)
  for (let i = 0; i < lines.request.length; i++) {
    if ((work += lineInPixels) > pixelsAPart) {
      work = 0
      yield
    }
    if (lines.to[i]! < view.fromMs || lines.from[i]! > view.toMs) continue
    const ink = inks[lines.kind[i]!]!
    const end = Math.round(xOf(lines.to[i]!))
    if (ink === 0 || end < 0 || (range && !inRange(map, i, range)) || (only && only[i] !== 1)) continue
    if (projection === 'distance') {
      const first = Math.max(0, Math.round(xOf(lines.from[i]!)))
      work += 4 * Math.max(0, Math.min(width - 1, end) - first)
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

/** The colour of each class as a pixel; 0: switched off in the legend. */
export function inksOf({ hidden, colour }: MapPaint): number[] {
  return mapClasses.map((name) => (hidden.has(name) ? 0 : packed(colour(classWords[name].hue))))
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
function packed(colour: string): number {
  const value = Number.parseInt(colour.trim().slice(1), 16)
  const [red, green, blue] = [(value >> 16) & 255, (value >> 8) & 255, value & 255]
  return ((255 << 24) | (blue << 16) | (green << 8) | red) >>> 0
}
