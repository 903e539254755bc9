import { drawMap } from '../src/app/map/draw-map.ts'
import { FarView } from '../src/app/map/far-view.ts'
import { fitAll, pan, plotOf, zoomTime } from '../src/app/map/map-view.ts'
import { fitDistance, type Projection } from '../src/app/map/projection.ts'
import type { MapData } from '../src/core/profile/views/map-data.ts'

const size = { width: 1200, height: 400 }
const frames = 60

/** A drive of five minutes with so many requests. */
function madeUpMap(count: number): MapData {
  const endMs = 300_000
  const at = (i: number) => (i / count) * endMs
  const depth = (ms: number) => 20_000 + 18_000 * Math.sin(ms / 20_000)
  const scrolls = Array.from({ length: 18_000 }, (_, i) => (i / 18_000) * endMs)
  const column = (make: (i: number) => number) => Array.from({ length: count }, (_, i) => make(i))
  return {
    endMs,
    heightDp: 823,
    columns: 3,
    pitchDp: 130,
    channel: { t: Float64Array.from(scrolls), top: Float64Array.from(scrolls, depth) },
    lines: {
      request: Int32Array.from(column((i) => i)),
      row: Int32Array.from(column((i) => Math.floor(depth(at(i)) / 130))),
      y: Float32Array.from(column((i) => depth(at(i)) + ((i * 37) % 1000))),
      from: Float64Array.from(column(at)),
      to: Float64Array.from(column((i) => at(i) + 100 + ((i * 61) % 900))),
      kind: Uint8Array.from(column((i) => (i * 7) % 6)),
      slot: new Uint8Array(count),
      bytes: Float64Array.from(column(() => 20_000)),
    },
    holes: {
      y: Float32Array.from(column((i) => depth(at(i)) + ((i * 37) % 800))),
      height: Float32Array.from(column(() => 40)),
      from: Float64Array.from(column(at)),
      to: Float64Array.from(column((i) => at(i) + ((i * 13) % 400))),
    },
    drips: {
      t: Float64Array.from(scrolls.filter((_, i) => i % 40 === 0)),
      lateMs: Float64Array.from(
        scrolls.filter((_, i) => i % 40 === 0),
        (_, i) => (i * 17) % 120,
      ),
    },
  }
}

/** How far the hand drags the map between two frames, px. */
const dragPx = 12

/**
 * ms of redraws while the map is dragged, far out and then close in, and of filling the canvas from an ImageData:
 * so many rectangles of 40 × 3 px. The median of each, and the longest redraw.
 */
function benchMap(count: number, projection: Projection): { map: number; longest: number; fill: number } {
  const canvas = document.createElement('canvas')
  Object.assign(canvas, size)
  document.body.append(canvas)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  const map = madeUpMap(count)
  const whole = projection === 'rows' ? fitAll(map) : fitDistance(map)
  const near = zoomTime(whole, 0.05, 150_000, map)
  const plot = plotOf(size.width, size.height)
  const far = new FarView()
  const hidden = new Set<string>()
  const image = new ImageData(size.width, size.height)
  const times: { map: number[]; fill: number[] } = { map: [], fill: [] }
  for (let i = 0; i < frames; i++) {
    const begin = i < frames / 2 ? whole : near
    const view = pan(begin, (i % (frames / 2)) * dragPx * ((begin.toMs - begin.fromMs) / plot.width), 0)
    const start = performance.now()
    drawMap(context, {
      map,
      ghost: null,
      view,
      plot,
      ...size,
      selected: -1,
      hidden,
      projection,
      colour: () => '#0e6470',
      far,
    })
    context.getImageData(0, 0, 1, 1)
    const drawn = performance.now()
    const pixels = new Uint32Array(image.data.buffer)
    for (let n = 0; n < count; n++) {
      const x = (n * 7919) % (size.width - 40)
      const y = (n * 104_729) % (size.height - 3)
      for (let dy = 0; dy < 3; dy++) pixels.fill(0xff70640e, (y + dy) * size.width + x, (y + dy) * size.width + x + 40)
    }
    context.putImageData(image, 0, 0)
    context.getImageData(0, 0, 1, 1)
    times.map.push(drawn - start)
    times.fill.push(performance.now() - drawn)
  }
  const middle = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]!
  return { map: middle(times.map), longest: Math.max(...times.map), fill: middle(times.fill) }
}

/**
 * ms of the page's frames while a map that is not drawn yet is filled in parts, as on screen: the longest of them, how
 * many there were, and how long it took at once.
 */
function benchMapParts(count: number, projection: Projection): { longest: number; parts: number; atOnce: number } {
  const canvas = document.createElement('canvas')
  Object.assign(canvas, size)
  document.body.append(canvas)
  const context = canvas.getContext('2d')!
  const map = madeUpMap(count)
  const whole = projection === 'rows' ? fitAll(map) : fitDistance(map)
  const plot = plotOf(size.width, size.height)
  const paint = { map, ghost: null, plot, ...size, selected: -1, hidden: new Set<string>(), projection }
  const rounds = 12
  const longest: number[] = []
  const atOnce: number[] = []
  let parts = 0
  for (let n = 0; n < rounds; n++) {
    // Each round is zoomed a little further: nothing of the one before can be copied.
    const view = { ...whole, toMs: whole.toMs * (1 - n / 40) }
    const far = new FarView()
    const took: number[] = []
    const timed = (act: () => boolean) => {
      const start = performance.now()
      const done = act()
      took.push(performance.now() - start)
      return done
    }
    const draw = (mostMs?: number) =>
      drawMap(context, { ...paint, view, colour: () => '#0e6470', far, ...(mostMs && { partMs: mostMs }) })
    let done = timed(() => draw(6))
    while (!done) done = timed(() => far.work(6)) && timed(() => draw(6))
    longest.push(Math.max(...took))
    parts = took.length
    const start = performance.now()
    drawMap(context, { ...paint, view, colour: () => '#0e6470', far: new FarView() })
    atOnce.push(performance.now() - start)
  }
  const middle = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]!
  return { longest: middle(longest), parts, atOnce: middle(atOnce) }
}

Object.assign(window, { benchMap, benchMapParts })
