import { countUpTo } from '../../core/numbers/search.ts'
import type { MapData } from '../../core/profile/views/map-data.ts'
import { toX, toY, type MapWindow, type PlotArea } from './map-view.ts'

/**
 * rows: the list is fixed, the window moves; distance: the window is fixed, and everything is as far from it as it was
 * then.
 */
export type Projection = 'rows' | 'distance'

/**
 * The distance projection shows all distances between requests and the window, but at most this many screens either
 * way.
 */
const mostReach = 6
const leastReach = 0.4

/** Where the window was at any instant of a run. */
class Position {
  private readonly t: Float64Array
  private readonly top: Float64Array

  constructor({ channel }: MapData) {
    this.t = channel.t
    this.top = channel.top
  }

  /** dp; 0 before the first scroll. */
  at(ms: number): number {
    return this.top[countUpTo(this.t, ms) - 1] ?? 0
  }
}

const positions = new WeakMap<MapData, Position>()

/** What is subtracted from a position in the list to draw it at an instant, dp. */
export function offsetAt(map: MapData, projection: Projection, ms: number): number {
  if (projection === 'rows') return 0
  let position = positions.get(map)
  if (!position) positions.set(map, (position = new Position(map)))
  return position.at(ms)
}

/** The initial view of the distance projection: the window, and the distances of requests from it. */
export function fitDistance(map: MapData): MapWindow {
  const { lines, heightDp } = map
  let above = -leastReach * heightDp
  let below = (1 + leastReach) * heightDp
  for (const [i, y] of lines.y.entries())
    for (const ms of [lines.from[i]!, lines.to[i]!]) {
      const away = y - offsetAt(map, 'distance', ms)
      above = Math.min(above, away)
      below = Math.max(below, away)
    }
  return {
    fromMs: 0,
    toMs: Math.max(100, map.endMs),
    fromDp: Math.max(-mostReach * heightDp, above * 1.05),
    toDp: Math.min((1 + mostReach) * heightDp, below * 1.05),
  }
}

/** A position in the list over a time span, as points on the page: level in rows, a curve in distance. */
export function wayOf(
  map: MapData,
  projection: Projection,
  dp: number,
  fromMs: number,
  toMs: number,
  view: MapWindow,
  plot: PlotArea,
): { x: number; y: number }[] {
  const point = (ms: number) => ({ x: toX(ms, view, plot), y: toY(dp - offsetAt(map, projection, ms), view, plot) })
  if (projection === 'rows') return [point(fromMs), point(toMs)]
  const stepMs = ((view.toMs - view.fromMs) / plot.width) * 2
  const points = [point(fromMs)]
  for (let ms = Math.max(fromMs, view.fromMs) + stepMs; ms < Math.min(toMs, view.toMs); ms += stepMs)
    points.push(point(ms))
  points.push(point(toMs))
  return points
}
