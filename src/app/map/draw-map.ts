import { mapClasses, type MapData } from '../../core/profile/views/map-data.ts'
import { countUpTo } from '../../core/numbers/search.ts'
import { drawDenseChannel, isDense } from './dense-channel.ts'
import { offsetAt, wayOf } from './projection.ts'
import type { MapPaint } from './map-paint.ts'
import { classWords, ghostStrength } from './map-words.ts'
import { drawAxes, drawDrips } from './map-margins.ts'
import { drawMarks } from './map-marks.ts'
import { drawZones } from './map-zones.ts'
import { inRange, toX, toY, type MapRange } from './map-view.ts'

/** More lines than this in view are drawn as pixels, not as paths. */
const manyLines = 4000

/** Marks closer than this to one drawn before, in the same class, are left out (thinned by pixel). */
const thinPx = 2

/**
 * Draws the scroll map: channel, holes, requests, drip line, axes.
 *
 * @returns whether all of it is drawn, or a part is still in progress /
 */
export function drawMap(context: CanvasRenderingContext2D, paint: MapPaint): boolean {
  const { width, height, plot } = paint
  context.clearRect(0, 0, width, height)
  context.save()
  context.beginPath()
  context.rect(plot.left, plot.top, plot.width, plot.height)
  context.clip()
  if (paint.projection === 'distance' && paint.zones) drawZones(context, paint, paint.zones)
  drawChannel(context, paint, paint.map, 1)
  if (paint.ghost) drawGhost(context, paint, paint.ghost)
  let whole = true
  if (!paint.everyLine && paint.map.lines.request.length > manyLines && inView(paint) > manyLines)
    whole = paint.far.draw(context, paint, paint.partMs)
  else {
    drawHoles(context, paint)
    drawLines(context, paint)
  }
  drawSelected(context, paint)
  if (paint.range) drawRange(context, paint, paint.range)
  context.restore()
  drawDrips(context, paint)
  drawAxes(context, paint)
  return whole
}

/** How many lines are in view, by time alone. */
function inView({ map, view }: MapPaint): number {
  const { from, to } = map.lines
  let count = 0
  for (let i = 0; i < from.length; i++) if (to[i]! >= view.fromMs && from[i]! <= view.toMs) count++
  return count
}

/** The two edges of the channel, as points in px from left to right. */
interface Edges {
  x: number[]
  top: number[]
  bottom: number[]
}

function edges(paint: MapPaint, map: MapData): Edges {
  const { view, plot } = paint
  const { t, top } = map.channel
  const found: Edges = { x: [], top: [], bottom: [] }
  if (paint.projection === 'distance') {
    const level = [toY(0, view, plot), toY(map.heightDp, view, plot)] as const
    return {
      x: [toX(0, view, plot), toX(map.endMs, view, plot)],
      top: [level[0], level[0]],
      bottom: [level[1], level[1]],
    }
  }
  // A long run has some hundred thousand positions: the loop allocates nothing for them.
  const across = plot.width / (view.toMs - view.fromMs)
  const down = plot.height / (view.toDp - view.fromDp)
  const left = plot.left - view.fromMs * across
  const above = plot.top - view.fromDp * down
  const tall = map.heightDp * down
  const put = (x: number, dp: number) => {
    const y = above + dp * down
    found.x.push(x)
    found.top.push(y)
    found.bottom.push(y + tall)
  }
  // What is beyond the view on either side is reduced to one point: a path of many screens is slow even where it is
  // clipped.
  const first = Math.max(0, countUpTo(t, view.fromMs) - 1)
  if (first === 0) put(left, 0)
  let last = top[first - 1] ?? 0
  let before = t[first - 1] ?? 0
  /** Start of the pixel column whose last position has not been drawn yet; NaN: none. */
  let column = Number.NaN
  for (let i = first; i < t.length && before <= view.toMs; i++) {
    const ms = t[i]!
    const x = left + ms * across
    const stoodStill = ms - before > 40
    // Several frames in one column: the last of them is drawn.
    if (stoodStill || x - column >= 0.7) {
      if (!Number.isNaN(column)) put(left + before * across, last)
      if (stoodStill) put(left + (ms - 17) * across, last)
      column = x
    } else if (Number.isNaN(column)) column = x
    last = top[i]!
    before = ms
  }
  if (!Number.isNaN(column)) put(left + before * across, last)
  if ((t.at(-1) ?? 0) <= view.toMs) put(left + map.endMs * across, last)
  return found
}

function drawChannel(context: CanvasRenderingContext2D, paint: MapPaint, map: MapData, alpha: number): void {
  context.globalAlpha = alpha
  if (!paint.everyLine && paint.projection !== 'distance' && isDense(map, paint.view, paint.plot)) {
    drawDenseChannel(context, map, paint.view, paint.plot, paint.colour('--channel'), paint.colour('--deep'))
    context.globalAlpha = 1
    return
  }
  const found = edges(paint, map)
  const { x, top, bottom } = found
  context.beginPath()
  for (let i = 0; i < x.length; i++) context.lineTo(x[i]!, top[i]!)
  for (let i = x.length - 1; i >= 0; i--) context.lineTo(x[i]!, bottom[i]!)
  context.closePath()
  context.fillStyle = paint.colour('--channel')
  context.fill()
  strokeEdges(context, found, paint.colour('--deep'), 1.25)
  context.globalAlpha = 1
}

function strokeEdges(context: CanvasRenderingContext2D, found: Edges, colour: string, width: number): void {
  context.strokeStyle = colour
  context.lineWidth = width
  for (const side of [found.top, found.bottom]) {
    context.beginPath()
    for (let i = 0; i < side.length; i++) context.lineTo(found.x[i]!, side[i]!)
    context.stroke()
  }
}

/** The baseline behind the present run: its edges dashed, its marks pale. */
function drawGhost(context: CanvasRenderingContext2D, paint: MapPaint, ghost: MapData): void {
  context.globalAlpha = ghostStrength
  context.setLineDash([4, 4])
  strokeEdges(context, edges(paint, ghost), paint.colour('--quiet'), 1)
  context.setLineDash([])
  const { view, plot } = paint
  context.fillStyle = paint.colour('--quiet')
  for (let i = 0; i < ghost.lines.request.length; i++)
    if (!paint.onlyGhost || paint.onlyGhost[i] === 1)
      context.fillRect(
        toX(ghost.lines.to[i]!, view, plot) - 1,
        toY(ghost.lines.y[i]! - offsetAt(ghost, paint.projection ?? 'rows', ghost.lines.to[i]!), view, plot) - 1,
        2,
        2,
      )
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
    if (paint.projection === 'distance') {
      fillWay(context, paint, y[i]!, height[i]!, from[i]!, to[i]!)
      continue
    }
    const top = toY(y[i]!, view, plot)
    context.fillRect(x, top + 0.5, Math.max(1, wide), Math.max(1, toY(y[i]! + height[i]!, view, plot) - top - 1))
  }
}

/** A band of the list over a time span, which is curved in the distance projection. */
function fillWay(
  context: CanvasRenderingContext2D,
  { map, view, plot, projection = 'rows' }: MapPaint,
  y: number,
  height: number,
  fromMs: number,
  toMs: number,
): void {
  const way = (dp: number) => wayOf(map, projection, dp, fromMs, toMs, view, plot)
  context.beginPath()
  for (const point of way(y)) context.lineTo(point.x, point.y)
  for (const point of way(y + height).toReversed()) context.lineTo(point.x, point.y)
  context.closePath()
  context.fill()
}

/** The pattern of the latest colour: it is the same from one redraw to the next. */
let hatched: { colour: string; pattern: CanvasPattern | string } | null = null

function hatch(context: CanvasRenderingContext2D, colour: string): CanvasPattern | string {
  if (hatched?.colour !== colour) hatched = { colour, pattern: makeHatch(context, colour) }
  return hatched.pattern
}

function makeHatch(context: CanvasRenderingContext2D, colour: string): CanvasPattern | string {
  const tile = document.createElement('canvas')
  tile.width = tile.height = 5
  // Kept by the page itself: a pattern that the graphics process keeps is lost when that is started anew.
  const own = tile.getContext('2d', { willReadFrequently: true })!
  own.strokeStyle = colour
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
  const { map, view, plot, hidden, projection = 'rows', range } = paint
  const { lines } = map
  for (const [number, name] of mapClasses.entries()) {
    if (hidden.has(name)) continue
    const { hue, mark } = classWords[name]
    const colour = paint.colour(hue)
    context.strokeStyle = context.fillStyle = colour
    context.lineWidth = name === 'cancelledFree' ? 1 : 1.2
    context.beginPath()
    const marks: [number, number][] = []
    const taken = new Set<number>()
    for (let i = 0; i < lines.request.length; i++) {
      if (lines.kind[i] !== number) continue
      const x = toX(lines.from[i]!, view, plot)
      const to = toX(lines.to[i]!, view, plot)
      if (to < plot.left - 6 || x > plot.left + plot.width) continue
      const y = toY(lines.y[i]! - offsetAt(map, projection, lines.to[i]!), view, plot)
      const start = projection === 'rows' ? y : toY(lines.y[i]! - offsetAt(map, projection, lines.from[i]!), view, plot)
      if (Math.max(y, start) < plot.top - 6 || Math.min(y, start) > plot.top + plot.height + 6) continue
      if ((range && !inRange(map, i, range)) || (paint.only && paint.only[i] !== 1)) continue
      const cell = Math.round(to / thinPx) * 65_536 + Math.round(y / thinPx)
      if (taken.has(cell) && !paint.everyLine) continue
      taken.add(cell)
      if (projection === 'rows') {
        context.moveTo(x, y)
        context.lineTo(to, y)
      } else trace(context, wayOf(map, projection, lines.y[i]!, lines.from[i]!, lines.to[i]!, view, plot))
      marks.push([to, y])
    }
    context.stroke()
    drawMarks(context, mark, marks, name === 'cancelledFree' ? 1.8 : 3.2)
  }
}

/** Adds a line to the path: from its first point to its last. */
function trace(context: CanvasRenderingContext2D, way: readonly { x: number; y: number }[]): void {
  for (const [n, point] of way.entries()) {
    if (n === 0) context.moveTo(point.x, point.y)
    else context.lineTo(point.x, point.y)
  }
}

function drawSelected(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, selected, projection = 'rows' } = paint
  if (selected === null) return
  const way = wayOf(
    map,
    projection,
    map.lines.y[selected]!,
    map.lines.from[selected]!,
    map.lines.to[selected]!,
    view,
    plot,
  )
  const { x: to, y } = way.at(-1)!
  context.strokeStyle = paint.colour('--ink')
  context.lineWidth = 2.5
  context.beginPath()
  for (const point of way) context.lineTo(point.x, point.y)
  context.stroke()
  context.beginPath()
  context.arc(to, y, 7, 0, 7)
  context.stroke()
}

/** The selected part, as a band of time; in rows also of positions. */
function drawRange(
  context: CanvasRenderingContext2D,
  { view, plot, colour, projection = 'rows' }: MapPaint,
  range: MapRange,
): void {
  const x = toX(range.fromMs, view, plot)
  const top = projection === 'rows' ? toY(range.fromDp, view, plot) : plot.top
  const bottom = projection === 'rows' ? toY(range.toDp, view, plot) : plot.top + plot.height
  context.strokeStyle = colour('--tug')
  context.lineWidth = 1.5
  context.beginPath()
  context.rect(x, top, toX(range.toMs, view, plot) - x, bottom - top)
  context.stroke()
}
