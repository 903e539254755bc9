import type { Loading } from '../../core/project/types.ts'
import type { MapData } from '../../core/profile/views/map-data.ts'
import type { MapPaint, MapZones } from './map-paint.ts'
import { toX, toY } from './map-view.ts'

/** The zones of a policy, for rows of the map's median height. */
export function zonesOf({ ahead, cancel }: Loading, { pitchDp, heightDp }: MapData): MapZones {
  return {
    ahead: ahead.by === 'rows' ? Math.ceil(ahead.amount) * pitchDp : ahead.amount * heightDp,
    letGo: cancel.when === 'zone' ? cancel.zoneRows * pitchDp : 0,
  }
}

/**
 * Beyond the edges of the screen in the distance projection: what was coming up as a tint, the edge of letting go
 * dashed.
 */
export function drawZones(
  context: CanvasRenderingContext2D,
  { map, view, plot, colour }: MapPaint,
  { ahead, letGo }: MapZones,
): void {
  const x = toX(0, view, plot)
  const width = toX(map.endMs, view, plot) - x
  const sides = [(dp: number) => toY(map.heightDp + dp, view, plot), (dp: number) => toY(-dp, view, plot)]
  for (const at of sides) {
    if (ahead > 0) {
      context.globalAlpha = 0.1
      context.fillStyle = colour('--early')
      context.fillRect(x, Math.min(at(0), at(ahead)), width, Math.abs(at(ahead) - at(0)))
      context.globalAlpha = 1
    }
    if (letGo <= 0) continue
    context.strokeStyle = colour('--quiet')
    context.lineWidth = 1
    context.setLineDash([2, 4])
    context.beginPath()
    context.moveTo(x, at(letGo))
    context.lineTo(x + width, at(letGo))
    context.stroke()
    context.setLineDash([])
  }
}
