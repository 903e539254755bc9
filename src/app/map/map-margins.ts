import type { MapPaint } from './map-paint.ts'
import { margins, toX, toY } from './map-view.ts'
import { niceStep } from './nice-ticks.ts'

/** The longest drip that is drawn to scale, ms; a longer one is broken and labelled with its number. */
const longestDripMs = 80
/** Width of the label of a long drip, px. */
const numberRoom = 44
/** Width of a character of the labels at the most, px. */
const digitPx = 7

/** A clean line while frames come on time; each late one hangs down by its lateness. */
export function drawDrips(context: CanvasRenderingContext2D, paint: MapPaint): void {
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
  // One path of all threads and one of all drops: hundreds of late frames are drawn in each redraw.
  context.lineWidth = 1.6
  context.beginPath()
  let lastNumber = -Infinity
  const drops: { x: number; length: number }[] = []
  for (let i = 0; i < map.drips.t.length; i++) {
    const x = toX(map.drips.t[i]!, view, plot)
    if (x < plot.left || x > plot.left + plot.width) continue
    const late = map.drips.lateMs[i]!
    const long = late > longestDripMs
    const length = long ? room : Math.max(3, (late / longestDripMs) * room)
    drops.push({ x, length })
    context.moveTo(x, y)
    context.lineTo(x, long ? y + room * 0.45 : y + length)
    if (!long) continue
    context.moveTo(x, y + room * 0.65)
    context.lineTo(x, y + room)
    // Numbers that would overlap are left out until the map is close enough.
    if (x - lastNumber < numberRoom) continue
    lastNumber = x
    context.fillText(`${Math.round(late)} ms`, x + 4, y + room)
  }
  context.stroke()
  context.beginPath()
  for (const { x, length } of drops) {
    context.moveTo(x + 1.9, y + length)
    context.arc(x, y + length, 1.9, 0, 7)
  }
  context.fill()
  context.fillStyle = colour('--quiet')
  context.textAlign = 'right'
  context.fillText('frames', plot.left - 6, y + 4)
}

/** Seconds below the map, rows beside it; in the distance projection, rows beyond the screen's edges. */
export function drawAxes(context: CanvasRenderingContext2D, paint: MapPaint): void {
  const { map, view, plot, colour, width, height } = paint
  context.fillStyle = colour('--quiet')
  context.font = '11px system-ui, sans-serif'
  context.textAlign = 'center'
  const step = niceStep((view.toMs - view.fromMs) / Math.max(2, plot.width / 90))
  for (let ms = Math.max(0, Math.ceil(view.fromMs / step) * step); ms <= view.toMs; ms += step) {
    const label = `${+(ms / 1000).toFixed(2)} s`
    // The last one would stick out on the right.
    context.fillText(label, Math.min(toX(ms, view, plot), width - (label.length * digitPx) / 2), height - 6)
  }
  context.textAlign = 'right'
  const rows = niceStep((view.toDp - view.fromDp) / map.pitchDp / Math.max(2, plot.height / 44))
  if (paint.projection === 'distance') {
    // Rows beyond the edge of the screen: above it counted from its top, below it from its bottom.
    const beside = (edge: number, way: 1 | -1, last: number) => {
      for (let n = Math.max(1, Math.round(rows)); n * map.pitchDp < last; n += Math.max(1, Math.round(rows)))
        context.fillText(`${n}`, plot.left - 6, toY(edge + way * n * map.pitchDp, view, plot) + 4)
    }
    beside(0, -1, -view.fromDp)
    beside(map.heightDp, 1, view.toDp - map.heightDp)
    context.fillText('screen', plot.left - 6, toY(map.heightDp / 2, view, plot) + 4)
    return
  }
  const first = Math.max(0, Math.ceil(view.fromDp / map.pitchDp / rows) * rows)
  for (let row = first; row * map.pitchDp < view.toDp; row += Math.max(1, rows))
    context.fillText(`${row}`, plot.left - 6, toY(row * map.pitchDp, view, plot) + 4)
}
