import type { MapData } from '../../core/profile/views/map-data.ts'
import { drawMap } from './draw-map.ts'
import type { MapPaint } from './map-paint.ts'
import { FarView } from './far-view.ts'
import { fitAll, plotOf } from './map-view.ts'
import type { MapZones } from './map-paint.ts'
import { fitDistance, type Projection } from './projection.ts'
import { SvgPaper } from './svg-paper.ts'

const size = { width: 1400, height: 700 }
/** px of the picture for one px of the drawing. */
const sharpness = 2

/** A whole map as a file: SVG with every line in it, or PNG at twice the size. Colours are those of the page now. */
export async function exportMap(
  as: 'svg' | 'png',
  map: MapData,
  ghost: MapData | null,
  hidden: ReadonlySet<string>,
  projection: Projection,
  only: Uint8Array | null,
  zones: MapZones | null,
): Promise<Blob> {
  const style = getComputedStyle(document.documentElement)
  const colour = (token: string) => style.getPropertyValue(token)
  const paint: MapPaint = {
    map,
    ghost,
    hidden,
    projection,
    only,
    zones,
    selected: null,
    colour,
    far: new FarView(),
    view: projection === 'rows' ? fitAll(map) : fitDistance(map),
    plot: plotOf(size.width, size.height),
    ...size,
  }
  if (as === 'svg') {
    const paper = new SvgPaper()
    drawMap(paper as unknown as CanvasRenderingContext2D, { ...paint, everyLine: true })
    return new Blob([paper.text(size.width, size.height, colour('--panel'))], { type: 'image/svg+xml' })
  }
  const canvas = document.createElement('canvas')
  canvas.width = size.width * sharpness
  canvas.height = size.height * sharpness
  const context = canvas.getContext('2d')!
  context.scale(sharpness, sharpness)
  drawMap(context, paint)
  // Beneath what was drawn.
  context.globalCompositeOperation = 'destination-over'
  context.fillStyle = colour('--panel')
  context.fillRect(0, 0, size.width, size.height)
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  if (!blob) throw new Error('the browser made no picture of the map')
  return blob
}
