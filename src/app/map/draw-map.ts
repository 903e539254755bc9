import { mapClasses, type MapData } from '../../core/profile/map-data.ts'
import type { FarView } from './far-view.ts'
import { classWords, type Mark } from './map-words.ts'
import { margins, toX, toY, type MapWindow, type PlotArea } from './map-view.ts'

export interface MapPaint {
  map: MapData
  ghost: MapData | null
  view: MapWindow
  plot: PlotArea
  width: number
  height: number
  /** Position of the selected line, −1 for none. */
  selected: number
  /** Classes that the legend has switched off. */
  hidden: ReadonlySet<string>
  colour: (token: string) => string
  /** Kept between redraws: the pixel buffer of the far-out view. */
  far: FarView
}

/** More lines than this in view are drawn as pixels, not as paths. */
const manyLines = 4000

/** The longest drip that is drawn to scale, ms; a longer one is broken and says its number. */
const longestDripMs = 80
/** Marks closer than this to one drawn before, in the same class, are left out (thinned by pixel). */
const thinPx = 2

/** Draws the scroll map: channel, holes, requests, drip line, axes. */
export function drawMap(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { width, height, plot } = paint
  context.clearRect(0, 0, width, height)
  context.save()
  context.beginPath()
  context.rect(plot.left, plot.top, plot.width, plot.height)
  context.clip()
  drawChannel(context, paint, paint.map, 1)
  if (paint.ghost) drawGhost(context, paint, paint.ghost)
  if (paint.map.lines.request.length > manyLines && inView(paint) > manyLines) paint.far.draw(context, paint)
  else {
    drawHoles(context, paint)
    drawLines(context, paint)
  }
  drawSelected(context, paint)
  context.restore()
  drawDrips(context, paint)
  drawAxes(context, paint)
}

/** How many lines are in view, by time alone. */
function inView({ map, view }: MapPaint): number {
  const { from, to } = map.lines
  let count = 0
  for (let i = 0; i < from.length; i++) if (to[i]! >= view.fromMs && from[i]! <= view.toMs) count++
  return count
}

function edges(paint: MapPaint, map: MapData): { x: number; top: number; bottom: number }[] {
  const { view, plot } = paint
  const { t, top } = map.channel
  const points: { x: number; top: number; bottom: number }[] = []
  const add = (ms: number, dp: number) => points.push({ x: toX(ms, view, plot), top: toY(dp, view, plot), bottom: toY(dp + map.heightDp, view, plot) })
  add(0, 0)
  let last = 0
  for (let i = 0; i < t.length; i++) {
    if (t[i]! - (t[i - 1] ?? 0) > 40) add(t[i]! - 17, last)
    last = top[i]!
    const x = toX(t[i]!, view, plot)
    // Several frames in one pixel column: the last of them stands for all.
    if (points.length > 1 && x - points.at(-1)!.x < 0.7) points.pop()
    add(t[i]!, last)
  }
  add(map.endMs, last)
  return points
}

function drawChannel(context: CanvasRenderingContext2D, paint: MapPaint, map: MapData, alpha: number): void {
  const points = edges(paint, map)
  context.globalAlpha = alpha
  context.beginPath()
  for (const { x, top } of points) context.lineTo(x, top)
  for (const { x, bottom } of points.toReversed()) context.lineTo(x, bottom)
  context.closePath()
  context.fillStyle = paint.colour('--channel')
  context.fill()
  strokeEdges(context, points, paint.colour('--deep'), 1.25)
  context.globalAlpha = 1
}

function strokeEdges(context: CanvasRenderingContext2D, points: { x: number; top: number; bottom: number }[], colour: string, width: number): void {
  context.strokeStyle = colour
  context.lineWidth = width
  for (const side of ['top', 'bottom'] as const) {
    context.beginPath()
    for (const point of points) context.lineTo(point.x, point[side])
    context.stroke()
  }
}

/** The baseline behind the present run: its edges dashed, its marks pale. */
function drawGhost(context: CanvasRenderingContext2D, paint: MapPaint, ghost: MapData): void {
  context.globalAlpha = 0.35
  context.setLineDash([4, 4])
  strokeEdges(context, edges(paint, ghost), paint.colour('--quiet'), 1)
  context.setLineDash([])
  const { view, plot } = paint
  context.fillStyle = paint.colour('--quiet')
  for (let i = 0; i < ghost.lines.request.length; i++)
    context.fillRect(toX(ghost.lines.to[i]!, view, plot) - 1, toY(ghost.lines.y[i]!, view, plot) - 1, 2, 2)
  context.globalAlpha = 1
}

function drawHoles(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot } = paint
  const { y, height, from, to } = map.holes
  context.fillStyle = hatch(context, paint.colour('--hole'))
  for (let i = 0; i < y.length; i++) {
    const x = toX(from[i]!, view, plot)
    const wide = toX(to[i]!, view, plot) - x
    if (x > plot.left + plot.width || x + wide < plot.left) continue
    const top = toY(y[i]!, view, plot)
    context.fillRect(x, top + 0.5, Math.max(1, wide), Math.max(1, toY(y[i]! + height[i]!, view, plot) - top - 1))
  }
}

function hatch(context: CanvasRenderingContext2D, colour: string): CanvasPattern | string {
  const tile = document.createElement('canvas')
  tile.width = tile.height = 5
  const own = tile.getContext('2d')!
  own.strokeStyle = colour
  own.globalAlpha = 0.5
  own.beginPath()
  own.moveTo(-1, 6)
  own.lineTo(6, -1)
  own.moveTo(-1, 1)
  own.lineTo(1, -1)
  own.moveTo(4, 6)
  own.lineTo(6, 4)
  own.stroke()
  return context.createPattern(tile, 'repeat') ?? colour
}

function drawLines(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, hidden } = paint
  const { lines } = map
  for (const [number, name] of mapClasses.entries()) {
    if (hidden.has(name)) continue
    const { hue, mark } = classWords[name]
    const colour = paint.colour(hue)
    context.strokeStyle = context.fillStyle = colour
    context.lineWidth = name === 'cancelledFree' ? 0.6 : 1.1
    context.globalAlpha = name === 'cancelledFree' ? 0.6 : 0.9
    context.beginPath()
    const marks: [number, number][] = []
    const taken = new Set<number>()
    for (let i = 0; i < lines.request.length; i++) {
      if (lines.kind[i] !== number) continue
      const x = toX(lines.from[i]!, view, plot)
      const to = toX(lines.to[i]!, view, plot)
      if (to < plot.left - 6 || x > plot.left + plot.width) continue
      const y = toY(lines.y[i]!, view, plot)
      if (y < plot.top - 6 || y > plot.top + plot.height + 6) continue
      const cell = Math.round(to / thinPx) * 65_536 + Math.round(y / thinPx)
      if (taken.has(cell)) continue
      taken.add(cell)
      context.moveTo(x, y)
      context.lineTo(to, y)
      marks.push([to, y])
    }
    context.stroke()
    context.globalAlpha = 1
    drawMarks(context, mark, marks, name === 'cancelledFree' ? 1.8 : 3.2)
  }
}

function drawMarks(context: CanvasRenderingContext2D, mark: Mark, at: readonly [number, number][], size: number): void {
  const outline = mark === 'cross' || mark === 'ring' || mark === 'loop'
  context.lineWidth = 1.3
  context.beginPath()
  for (const [x, y] of at) addMark(context, mark, x, y, size)
  if (outline) context.stroke()
  else context.fill()
}

function addMark(context: CanvasRenderingContext2D, mark: Mark, x: number, y: number, r: number): void {
  switch (mark) {
    case 'diamond':
      context.moveTo(x, y - r)
      context.lineTo(x + r, y)
      context.lineTo(x, y + r)
      context.lineTo(x - r, y)
      context.closePath()
      return
    case 'triangle':
      context.moveTo(x, y - r)
      context.lineTo(x + r, y + r * 0.8)
      context.lineTo(x - r, y + r * 0.8)
      context.closePath()
      return
    case 'square':
      context.rect(x - r * 0.8, y - r * 0.8, r * 1.6, r * 1.6)
      return
    case 'cross':
      context.moveTo(x - r * 0.8, y - r * 0.8)
      context.lineTo(x + r * 0.8, y + r * 0.8)
      context.moveTo(x + r * 0.8, y - r * 0.8)
      context.lineTo(x - r * 0.8, y + r * 0.8)
      return
    case 'ring':
      context.moveTo(x + r, y)
      context.arc(x, y, r, 0, 7)
      return
    case 'loop':
      context.moveTo(x + r, y)
      context.arc(x, y, r, 0, 4.8)
      return
  }
}

function drawSelected(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, selected } = paint
  if (selected < 0) return
  const y = toY(map.lines.y[selected]!, view, plot)
  const from = toX(map.lines.from[selected]!, view, plot)
  const to = toX(map.lines.to[selected]!, view, plot)
  context.strokeStyle = paint.colour('--ink')
  context.lineWidth = 2.5
  context.beginPath()
  context.moveTo(from, y)
  context.lineTo(to, y)
  context.stroke()
  context.beginPath()
  context.arc(to, y, 7, 0, 7)
  context.stroke()
}

/** A clean line while frames come on time; each late one hangs down by its lateness. */
function drawDrips(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, colour, height } = paint
  const y = height - margins.bottom - margins.drips + 6
  const room = margins.drips - 10
  context.strokeStyle = context.fillStyle = colour('--ink')
  context.lineWidth = 1.2
  context.beginPath()
  context.moveTo(plot.left, y)
  context.lineTo(plot.left + plot.width, y)
  context.stroke()
  context.font = '10px system-ui, sans-serif'
  context.textAlign = 'left'
  for (let i = 0; i < map.drips.t.length; i++) {
    const x = toX(map.drips.t[i]!, view, plot)
    if (x < plot.left || x > plot.left + plot.width) continue
    const late = map.drips.lateMs[i]!
    const long = late > longestDripMs
    const length = long ? room : Math.max(3, (late / longestDripMs) * room)
    context.lineWidth = 1.6
    context.beginPath()
    context.moveTo(x, y)
    context.lineTo(x, long ? y + room * 0.45 : y + length)
    if (long) {
      context.moveTo(x, y + room * 0.65)
      context.lineTo(x, y + room)
    }
    context.stroke()
    context.beginPath()
    context.arc(x, y + length, 1.9, 0, 7)
    context.fill()
    if (long) context.fillText(`${Math.round(late)} ms`, x + 4, y + room)
  }
  context.fillStyle = colour('--quiet')
  context.textAlign = 'right'
  context.fillText('frames', plot.left - 6, y + 4)
}

function drawAxes(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, colour, height } = paint
  context.fillStyle = colour('--quiet')
  context.font = '11px system-ui, sans-serif'
  context.textAlign = 'center'
  const step = niceStep((view.toMs - view.fromMs) / Math.max(2, plot.width / 90))
  for (let ms = Math.max(0, Math.ceil(view.fromMs / step) * step); ms <= view.toMs; ms += step)
    context.fillText(`${+(ms / 1000).toFixed(2)} s`, toX(ms, view, plot), height - 6)
  context.textAlign = 'right'
  const rows = niceStep((view.toDp - view.fromDp) / map.pitchDp / Math.max(2, plot.height / 44))
  const first = Math.max(0, Math.ceil(view.fromDp / map.pitchDp / rows) * rows)
  for (let row = first; row * map.pitchDp < view.toDp; row += Math.max(1, rows))
    context.fillText(`${row}`, plot.left - 6, toY(row * map.pitchDp, view, plot) + 4)
}

function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1e-9, rough)))
  const share = rough / power
  return (share <= 1 ? 1 : share <= 2 ? 2 : share <= 5 ? 5 : 10) * power
}
