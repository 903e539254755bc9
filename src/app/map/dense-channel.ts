import type { MapData } from '../../core/profile/views/map-data.ts'
import { countUpTo } from '../../core/numbers/search.ts'
import type { MapWindow, PlotArea } from './map-view.ts'

/** From this many positions a pixel column, the channel is drawn by columns and not as a path. */
const densePerPx = 4

/** The highest and the lowest position of the window in each column of pixels, dp. */
export interface Columns {
  high: Float64Array
  low: Float64Array
}

/** Whether a map has more positions in view than a path could show or could draw in time. */
export function isDense({ channel }: MapData, view: MapWindow, plot: PlotArea): boolean {
  return countUpTo(channel.t, view.toMs) - countUpTo(channel.t, view.fromMs) > densePerPx * plot.width
}

/** Position of the window in each column: a column without one of its own has that of the column before it. */
export function columnsOf({ channel: { t, top }, endMs }: MapData, view: MapWindow, plot: PlotArea): Columns {
  const width = Math.ceil(plot.width)
  const msPerPx = (view.toMs - view.fromMs) / plot.width
  const [high, low] = [new Float64Array(width).fill(Number.NaN), new Float64Array(width).fill(Number.NaN)]
  let at = countUpTo(t, view.fromMs)
  let position = top[at - 1] ?? 0
  for (let px = 0; px < width; px++) {
    const [from, to] = [view.fromMs + px * msPerPx, view.fromMs + (px + 1) * msPerPx]
    if (to < 0 || from > endMs) continue
    let [least, most] = [position, position]
    for (; at < t.length && t[at]! <= to; at++) {
      position = top[at]!
      if (position < least) least = position
      if (position > most) most = position
    }
    high[px] = least
    low[px] = most
  }
  return { high, low }
}

/** The channel of a long run from far out, column by column: where the window was during each, and its edges. */
export function drawDenseChannel(
  context: CanvasRenderingContext2D,
  map: MapData,
  view: MapWindow,
  plot: PlotArea,
  channel: string,
  edge: string,
): void {
  const { high, low } = columnsOf(map, view, plot)
  const down = plot.height / (view.toDp - view.fromDp)
  const y = (dp: number) => plot.top + (dp - view.fromDp) * down
  const tall = map.heightDp * down
  const each = (draw: (x: number, top: number, bottom: number) => void) => {
    for (let px = 0; px < high.length; px++)
      if (!Number.isNaN(high[px]!)) draw(plot.left + px, y(high[px]!), y(low[px]!))
  }
  context.fillStyle = channel
  each((x, top, bottom) => context.fillRect(x, top, 1, bottom - top + tall))
  context.fillStyle = edge
  each((x, top, bottom) => {
    context.fillRect(x, top, 1, Math.max(1, bottom - top))
    context.fillRect(x, top + tall, 1, Math.max(1, bottom - top))
  })
}
