import { addHoles, addLines, inksOf } from './far-pixels.ts'
import type { FarPainter, MapPaint } from './map-paint.ts'
import type { MapWindow } from './map-view.ts'

/**
 * While the map is panned, the buffer reaches this far beyond the plot on every side, as a share of it: within, a
 * redraw is one copy.
 */
const beyond = 0.5
/** Rows of pixels that are put on the canvas at once. */
const rowsAPart = 96
/**
 * A picture that was replaced this often before it was ready is drawn to its end at once, so that continuous panning
 * shows something new.
 */
const mostReplaced = 3

/**
 * Marks at a scale, in a buffer that may reach beyond the plot: the same marks can be shown from it at another place.
 */
interface Layer {
  canvas: HTMLCanvasElement
  image: ImageData
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
 * a first view, and each step of a zoom, are drawn as fast as can be. A new one is filled in parts where someone waits
 * for the page; until it is ready the one before stands in, moved and stretched to where its marks are now.
 */
export class FarView implements FarPainter {
  private shown: Layer | null = null
  private filling: { layer: Layer; steps: Generator<void, void> } | null = null
  /** A canvas that no layer uses. */
  private spare: HTMLCanvasElement | null = null
  private replaced = 0
  /** How often a buffer was filled again. */
  fills = 0

  /**
   * Draws the marks over the plot.
   *
   * @returns whether they are those of the paint; if not, `work` goes on with them, and they are drawn once it has
   * ended
   * @param mostMs how long a new buffer may be filled before it yields /
   */
  draw(context: CanvasRenderingContext2D, paint: MapPaint, mostMs = Infinity): boolean {
    const width = Math.ceil(paint.plot.width)
    const height = Math.ceil(paint.plot.height)
    let place = placeIn(this.shown, paint, width, height)
    if (!place) {
      if (!this.filling || !placeIn(this.filling.layer, paint, width, height)) {
        this.replaced = this.filling ? this.replaced + 1 : 0
        this.begin(paint, width, height, isAlike(this.shown, paint, width, height) ? beyond : 0)
      }
      if (this.work(this.replaced >= mostReplaced ? Infinity : mostMs))
        place = placeIn(this.shown, paint, width, height)
    }
    const { left, top } = paint.plot
    if (place) context.drawImage(this.shown!.canvas, place.x, place.y, width, height, left, top, width, height)
    else this.standIn(context, paint, width, height)
    return place !== null
  }

  /**
   * Goes on with the buffer that is being filled.
   *
   * @returns whether it is ready, or there is none
   */
  work(mostMs: number): boolean {
    if (!this.filling) return true
    const until = performance.now() + mostMs
    const { layer, steps } = this.filling
    do
      if (steps.next().done) {
        this.spare = this.shown?.canvas ?? null
        this.shown = layer
        this.filling = null
        this.fills++
        return true
      }
    while (performance.now() < until)
    return false
  }

  private begin(paint: MapPaint, width: number, height: number, margin: number): void {
    // Even, so that the hatching of holes stays aligned.
    const even = (px: number) => 2 * Math.round(px / 2)
    const place = { x: even(width * margin), y: even(height * margin) }
    const [wide, tall] = [width + 2 * place.x, height + 2 * place.y]
    const canvas = this.filling?.layer.canvas ?? this.spare ?? document.createElement('canvas')
    this.spare = null
    if (canvas.width !== wide) canvas.width = wide
    if (canvas.height !== tall) canvas.height = tall
    const { map, hidden, projection, range, only } = paint
    const msPerPx = (paint.view.toMs - paint.view.fromMs) / width
    const dpPerPx = (paint.view.toDp - paint.view.fromDp) / height
    const fromMs = paint.view.fromMs - place.x * msPerPx
    const fromDp = paint.view.fromDp - place.y * dpPerPx
    const view = { fromMs, toMs: fromMs + wide * msPerPx, fromDp, toDp: fromDp + tall * dpPerPx }
    const inks = inksOf(paint)
    const layer: Layer = {
      canvas,
      image: new ImageData(wide, tall),
      paint: { map, hidden, projection, range, only },
      inks: inks.join(),
      view,
      msPerPx,
      dpPerPx,
    }
    this.filling = { layer, steps: fill(layer, { ...paint, view }, inks) }
  }

  /** The present buffer, placed where its marks are in the view now. */
  private standIn(
    context: CanvasRenderingContext2D,
    { view, plot, projection }: MapPaint,
    width: number,
    height: number,
  ) {
    const { shown } = this
    if (!shown || shown.paint.projection !== projection) return
    const across = width / (view.toMs - view.fromMs)
    const down = height / (view.toDp - view.fromDp)
    context.drawImage(
      shown.canvas,
      plot.left + (shown.view.fromMs - view.fromMs) * across,
      plot.top + (shown.view.fromDp - view.fromDp) * down,
      (shown.view.toMs - shown.view.fromMs) * across,
      (shown.view.toDp - shown.view.fromDp) * down,
    )
  }
}

function* fill({ canvas, image }: Layer, paint: MapPaint, inks: readonly number[]): Generator<void, void> {
  const { width, height } = image
  const room = { pixels: new Uint32Array(image.data.buffer), width, height }
  yield* addHoles(room, paint)
  yield* addLines(room, paint, inks)
  const context = canvas.getContext('2d')!
  for (let y = 0; y < height; y += rowsAPart) {
    context.putImageData(image, 0, 0, 0, y, width, Math.min(rowsAPart, height - y))
    yield
  }
}

/** Whether a buffer has the same marks at the same scale, wherever the view is. */
function isAlike(layer: Layer | null, paint: MapPaint, width: number, height: number): layer is Layer {
  if (!layer) return false
  for (const part of ['map', 'hidden', 'projection', 'range', 'only'] as const)
    if (layer.paint[part] !== paint[part]) return false
  const { view } = paint
  const equal = (one: number, other: number) => Math.abs(one - other) <= 1e-9 * Math.abs(one)
  return (
    equal(layer.msPerPx, (view.toMs - view.fromMs) / width) &&
    equal(layer.dpPerPx, (view.toDp - view.fromDp) / height) &&
    layer.inks === inksOf(paint).join()
  )
}

/** Position of the view in a buffer, px; null when it is not all there. */
function placeIn(layer: Layer | null, paint: MapPaint, width: number, height: number): { x: number; y: number } | null {
  if (!isAlike(layer, paint, width, height)) return null
  const { view } = paint
  const x = Math.round((view.fromMs - layer.view.fromMs) / layer.msPerPx)
  const y = Math.round((view.fromDp - layer.view.fromDp) / layer.dpPerPx)
  return x < 0 || y < 0 || x + width > layer.image.width || y + height > layer.image.height ? null : { x, y }
}
