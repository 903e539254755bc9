import type { MapData } from '../../core/profile/views/map-data.ts'

/** The part of a map that is in view: ms across, dp down. */
export interface MapWindow {
  fromMs: number
  toMs: number
  fromDp: number
  toDp: number
}

/** A part of a run: ms, and dp of the list. */
export interface MapRange {
  fromMs: number
  toMs: number
  fromDp: number
  toDp: number
}

/** Whether a line's time and position touch a range. */
export function inRange({ lines }: MapData, at: number, range: MapRange): boolean {
  return (
    lines.to[at]! >= range.fromMs &&
    lines.from[at]! <= range.toMs &&
    lines.y[at]! >= range.fromDp &&
    lines.y[at]! <= range.toDp
  )
}

/** The share of the view by which one press of a key moves an edge of the selected part. */
const keyShare = 0.05

/**
 * Selection by keys: the late edge and the lower one are moved by so many steps. A new selection begins at a moment, as
 * high as the view. The edges stay a step apart.
 */
export function stretchRange(
  range: MapRange | null,
  view: MapWindow,
  fromMs: number,
  later: number,
  lower: number,
): MapRange {
  const ms = keyShare * (view.toMs - view.fromMs)
  const dp = keyShare * (view.toDp - view.fromDp)
  const begun = range ?? { fromMs, toMs: fromMs, fromDp: view.fromDp, toDp: view.toDp }
  return {
    ...begun,
    toMs: Math.max(begun.fromMs + ms, begun.toMs + later * ms),
    toDp: Math.max(begun.fromDp + dp, Math.min(view.toDp, begun.toDp) + lower * dp),
  }
}

/** The requests whose lines touch a range. */
export function requestsIn(map: MapData, range: MapRange): number[] {
  return Array.from(map.lines.request).filter((_, at) => inRange(map, at, range))
}

export interface PlotArea {
  left: number
  top: number
  width: number
  height: number
}

/** Room for the axes around the plot, and for the drip line below it, px. */
export const margins = { left: 46, right: 10, top: 8, drips: 34, bottom: 20 }

export function plotOf(width: number, height: number): PlotArea {
  const { left, right, top, drips, bottom } = margins
  return { left, top, width: Math.max(1, width - left - right), height: Math.max(1, height - top - drips - bottom) }
}

/** Everything that happened, with a little room around it. */
export function fitAll(map: MapData): MapWindow {
  let low = 0
  let high = map.heightDp
  const { top } = map.channel
  const { y } = map.lines
  for (let i = 0; i < top.length; i++) if (top[i]! + map.heightDp > high) high = top[i]! + map.heightDp
  for (let i = 0; i < y.length; i++) {
    if (y[i]! < low) low = y[i]!
    if (y[i]! > high) high = y[i]!
  }
  const room = (high - low) * 0.03
  return { fromMs: 0, toMs: Math.max(100, map.endMs), fromDp: low - room, toDp: high + room }
}

export const toX = (ms: number, view: MapWindow, plot: PlotArea) =>
  plot.left + ((ms - view.fromMs) / (view.toMs - view.fromMs)) * plot.width
export const toY = (dp: number, view: MapWindow, plot: PlotArea) =>
  plot.top + ((dp - view.fromDp) / (view.toDp - view.fromDp)) * plot.height

/** Zooms time around a point; never beyond the run by more than half of it, never below 20 ms. */
export function zoomTime(view: MapWindow, factor: number, atMs: number, map: MapData): MapWindow {
  const span = Math.min(map.endMs * 1.5, Math.max(20, (view.toMs - view.fromMs) * factor))
  const share = (atMs - view.fromMs) / (view.toMs - view.fromMs)
  return { ...view, fromMs: atMs - span * share, toMs: atMs + span * (1 - share) }
}

export function pan(view: MapWindow, dxMs: number, dyDp: number): MapWindow {
  return { fromMs: view.fromMs + dxMs, toMs: view.toMs + dxMs, fromDp: view.fromDp + dyDp, toDp: view.toDp + dyDp }
}

/** The line of a request; null: the map has none. */
export function lineOf({ lines }: MapData, request: number | null): number | null {
  const at = request === null ? -1 : lines.request.indexOf(request)
  return at < 0 ? null : at
}

/** The line nearest to a point, as its position in the map's columns; null when none is within reach (px). */
export function nearestLine(
  map: MapData,
  x: number,
  y: number,
  view: MapWindow,
  plot: PlotArea,
  offset: (ms: number) => number = () => 0,
  reach = 9,
): number | null {
  let best: number | null = null
  let bestDistance = reach * reach
  const pointed = view.fromMs + ((x - plot.left) / plot.width) * (view.toMs - view.fromMs)
  const { lines } = map
  for (let i = 0; i < lines.request.length; i++) {
    const from = toX(lines.from[i]!, view, plot)
    const to = toX(lines.to[i]!, view, plot)
    if (x < from - reach || x > to + reach) continue
    // Where the line is drawn under the pointer, which may be a curve.
    const ms = Math.min(lines.to[i]!, Math.max(lines.from[i]!, pointed))
    const ly = toY(lines.y[i]! - offset(ms), view, plot) - y
    if (Math.abs(ly) > reach) continue
    const lx = Math.max(0, from - x, x - to)
    const distance = lx * lx + ly * ly
    if (distance < bestDistance) {
      bestDistance = distance
      best = i
    }
  }
  return best
}
