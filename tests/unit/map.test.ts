import { afterEach, describe, expect, it, vi } from 'vitest'
import { FarView } from '../../src/app/map/far-view.ts'
import { columnsOf, drawDenseChannel, isDense } from '../../src/app/map/dense-channel.ts'
import {
  fitAll,
  inRange,
  nearestLine,
  pan,
  plotOf,
  stretchRange,
  toX,
  toY,
  type MapWindow,
} from '../../src/app/map/map-view.ts'
import { drawZones, zonesOf } from '../../src/app/map/map-zones.ts'
import { fitDistance, offsetAt, wayOf } from '../../src/app/map/projection.ts'
import { SvgPaper } from '../../src/app/map/svg-paper.ts'
import { calibrated } from '../../src/core/compare/calibrate.ts'
import { overlapOf } from '../../src/core/compare/overlap.ts'
import { eventsAsCsv, listEvents } from '../../src/core/log/event-list.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'

const wait = (ms: number) => ({ do: 'wait', ms })
/** Rows of 100 dp on a screen of 500, dragged down by 1,000 dp over one second from the first on. */
const dragged = (more: object = {}) =>
  profileRun(
    simulate(
      projectOf({
        items: items(80, 5000),
        device: freeDevice,
        network: plainLink,
        loading: { diskMb: 0 },
        steps: [wait(1000), { do: 'drag', dp: 1000, ms: 1000 }, wait(1000)],
        ...more,
      }),
    ).log,
  )
const mapped = (run: ReturnType<typeof dragged>) => mapOf(run.facts, run.ledger)
const plot = plotOf(1000, 600)

describe('the map with the screen lying straight', () => {
  const map = mapped(dragged())

  it('takes from every place where the window stood then', () => {
    expect([500, 1500, 2900].map((ms) => offsetAt(map, 'rows', ms))).toEqual([0, 0, 0])
    expect([offsetAt(map, 'distance', 500), offsetAt(map, 'distance', 2900)]).toEqual([0, 1000])
    // Between two refreshes it is where the one before has put it.
    expect(Math.abs(offsetAt(map, 'distance', 1500) - 500)).toBeLessThan(35)
  })

  it('draws a place that is passed as a curve from where it was to where it ends', () => {
    const view = fitDistance(map)
    const way = wayOf(map, 'distance', 700, 500, 2900, view, plot)
    expect(way[0]).toEqual({ x: toX(500, view, plot), y: toY(700, view, plot) })
    expect(way.at(-1)).toEqual({ x: toX(2900, view, plot), y: toY(-300, view, plot) })
    expect(way.length).toBeGreaterThan(100)
    for (const [i, { y }] of way.entries()) if (i > 0) expect(y).toBeLessThanOrEqual(way[i - 1]!.y + 1e-9)
    expect(wayOf(map, 'rows', 700, 500, 2900, view, plot)).toHaveLength(2)
  })

  it('has a line where it is drawn, in both projections', () => {
    for (const projection of ['rows', 'distance'] as const) {
      const view = projection === 'rows' ? fitAll(map) : fitDistance(map)
      const offset = (ms: number) => offsetAt(map, projection, ms)
      for (const at of [0, 7, map.lines.y.length - 1]) {
        const ms = map.lines.to[at]!
        const found = nearestLine(
          map,
          toX(ms, view, plot),
          toY(map.lines.y[at]! - offset(ms), view, plot),
          view,
          plot,
          offset,
        )!
        // Another may end on the very same px.
        expect([map.lines.y[found], Math.round(map.lines.to[found]!)]).toEqual([map.lines.y[at], Math.round(ms)])
      }
    }
  })

  it('shows all that requests were away from the screen', () => {
    const { fromDp, toDp } = fitDistance(map)
    for (const [i, y] of map.lines.y.entries())
      for (const ms of [map.lines.from[i]!, map.lines.to[i]!]) {
        const away = y - offsetAt(map, 'distance', ms)
        expect(away).toBeGreaterThanOrEqual(fromDp)
        expect(away).toBeLessThanOrEqual(toDp)
      }
  })
})

it('a part of the map holds the lines that touch it, in time and place', () => {
  const map = mapped(dragged())
  const part = { fromMs: 1200, toMs: 1600, fromDp: 500, toDp: 900 }
  const inside = [...map.lines.y.keys()].filter((at) => inRange(map, at, part))
  expect(inside.length).toBeGreaterThan(0)
  for (const at of map.lines.y.keys()) {
    const { from, to, y } = map.lines
    const touches = from[at]! <= 1600 && to[at]! >= 1200 && y[at]! >= 500 && y[at]! <= 900
    expect(inside.includes(at)).toBe(touches)
  }
})

it('what is only in one of two runs is what the other never asked for', () => {
  const [near, far] = [
    mapped(dragged({ loading: { diskMb: 0, ahead: { amount: 0 } } })),
    mapped(dragged({ loading: { diskMb: 0, ahead: { amount: 6 } } })),
  ]
  const { only } = overlapOf(near, far)
  expect([...only.a].some((one) => one === 1)).toBe(false)
  const rows = [...far.lines.row].filter((_, at) => only.b[at] === 1)
  // The last screenful ends at row 14; six more were looked ahead for.
  expect(rows.sort((a, b) => a - b)).toEqual([15, 16, 17, 18, 19, 20])
})

it('SVG names what was drawn: paths, dashes, clips and texts, nothing of a text as markup', () => {
  const paper = new SvgPaper()
  paper.beginPath()
  paper.rect(0, 0, 10, 5)
  paper.clip()
  paper.beginPath()
  paper.moveTo(1, 2)
  paper.lineTo(3.14159, 4)
  paper.strokeStyle = '#0e6470'
  paper.setLineDash([4, 4])
  paper.stroke()
  paper.setLineDash([])
  paper.beginPath()
  paper.arc(5, 5, 2, 0, 7)
  paper.fill()
  paper.restore()
  paper.fillText('<b>&"', 1, 1)
  const text = paper.text(100, 50, '#fff')
  expect(text).toContain('<path d="M1 2L3.14 4" fill="none" stroke="#0e6470" stroke-width="1" stroke-dasharray="4 4"/>')
  expect(text).toContain('&lt;b&gt;&amp;&quot;'.replace('&gt;', '>'))
  expect(text.match(/<g /g)?.length).toBe(text.match(/<\/g>/g)?.length)
  // A ring comes back to where it began.
  const [, begin, end] = /d="M([\d. ]+)A.*A2 2 0 0 1 ([\d. ]+)"/.exec(text)!
  expect(end!.split(' ').map((part, i) => Math.abs(Number(part) - Number(begin!.split(' ')[i])) < 0.02)).toEqual([
    true,
    true,
  ])
})

describe('events of a while', () => {
  const { facts } = dragged()
  const query = { kinds: ['show' as const], text: '' }

  it('are those between two instants, in the list and in CSV', () => {
    const all = listEvents(facts.log, query, 1e6).events
    const some = listEvents(facts.log, { ...query, fromMs: 1200, toMs: 2000 }, 1e6)
    expect(some.events).toEqual(all.filter(({ t }) => t >= 1200 && t <= 2000))
    expect(some.matching).toBeGreaterThan(0)
    expect(some.matching).toBeLessThan(all.length)
    expect(
      eventsAsCsv(facts.log, { ...query, fromMs: 1200, toMs: 2000 })
        .trim()
        .split('\r\n'),
    ).toHaveLength(some.matching + 1)
  })
})

it('a device calibrated to a run has the costs that the run was made with', () => {
  const costs = { frameMs: 1.5, createMs: 3, bindMs: 0.5, uploadMs: 0.4, decodeMs: 9, fetchMs: 35 }
  const project = projectOf({
    items: items(120, 5000),
    device: { costs: { ...freeDevice.costs, ...costs } },
    network: { ...plainLink, rttMs: 60, thinkMs: 15 },
    loading: { diskMb: 0, decodeWorkers: 8 },
    steps: [wait(800), { do: 'drag', dp: 6000, ms: 4000 }, wait(800)],
  })
  const { facts } = profileRun(simulate(project).log)
  const found = calibrated(
    {
      ...project.device,
      costs: { ...project.device.costs, frameMs: 0, createMs: 0, bindMs: 0, uploadMs: 0, decodeMs: 0, fetchMs: 0 },
    },
    facts,
    project.network,
  ).costs
  for (const [name, value] of Object.entries(costs))
    expect([name, Math.abs(found[name as keyof typeof costs] - value) < 0.05 * value + 0.02]).toEqual([name, true])
})

describe('a part that is selected by keys', () => {
  const view: MapWindow = { fromMs: 1000, toMs: 3000, fromDp: 0, toDp: 800 }

  it('begins where it is told, as high as the view, and grows by a twentieth of it', () => {
    expect(stretchRange(null, view, 1500, 1, 0)).toEqual({ fromMs: 1500, toMs: 1600, fromDp: 0, toDp: 800 })
    expect(stretchRange({ fromMs: 1500, toMs: 1600, fromDp: 0, toDp: 800 }, view, 0, 2, -1)).toEqual({
      fromMs: 1500,
      toMs: 1800,
      fromDp: 0,
      toDp: 760,
    })
  })

  it('never turns inside out, and takes a height that the distance projection left open', () => {
    const least = { fromMs: 1500, toMs: 1600, fromDp: 0, toDp: 40 }
    expect(stretchRange(least, view, 0, -3, -3)).toEqual(least)
    expect(stretchRange({ ...least, fromDp: 0, toDp: Infinity }, view, 0, 0, -1).toDp).toBe(760)
  })
})

describe('zones beside the screen that lies straight', () => {
  const map = mapped(dragged())
  const of = (loading: object) => {
    const parsed = parseProject({
      format: 'tile-tug/project',
      version: 1,
      name: 'zones',
      screens: [{ id: 'a' }],
      loading,
    })
    if (!parsed.ok) throw new Error(parsed.message)
    return zonesOf(parsed.project.loading, map)
  }

  it('reach as far as the policy does, in rows or in screens', () => {
    expect(of({ ahead: { by: 'rows', amount: 4 } })).toEqual({ ahead: 4 * map.pitchDp, letGo: 0 })
    expect(of({ ahead: { by: 'screens', amount: 1.5 } }).ahead).toBe(1.5 * map.heightDp)
    expect(of({ ahead: { amount: 0 }, cancel: { when: 'zone', zoneRows: 3 } })).toEqual({
      ahead: 0,
      letGo: 3 * map.pitchDp,
    })
  })

  it('are drawn on either side of the screen, to the end of the run', () => {
    const drawn: number[][] = []
    const context = {
      fillRect: (...box: number[]) => drawn.push(box),
      setLineDash: () => undefined,
      beginPath: () => undefined,
      moveTo: () => undefined,
      lineTo: () => undefined,
      stroke: () => undefined,
    }
    const view = fitDistance(map)
    drawZones(context as never, { map, view, plot, colour: () => '#000' } as never, { ahead: 200, letGo: 0 })
    const high = toY(200, view, plot) - toY(0, view, plot)
    const across = [toX(0, view, plot), toX(map.endMs, view, plot) - toX(0, view, plot)] as const
    for (const [i, top] of [toY(map.heightDp, view, plot), toY(-200, view, plot)].entries()) {
      expect([drawn[i]![0], drawn[i]![2]]).toEqual([...across])
      expect(drawn[i]![1]).toBeCloseTo(top, 6)
      expect(drawn[i]![3]).toBeCloseTo(high, 6)
    }
    expect(drawn).toHaveLength(2)
  })
})

describe('the channel of a long run', () => {
  const map = mapped(dragged())
  /** Twelve positions a column of pixels, up and down by 300 dp within each. */
  const t = Float64Array.from({ length: 12 * 200 }, (_, i) => 1000 + (i * 10) / 12)
  const long = {
    ...map,
    endMs: 3100,
    channel: { t, top: Float64Array.from(t, (_, i) => 500 + 300 * Math.sin((i / 12) * 2 * Math.PI)) },
  }
  const view = { fromMs: 0, toMs: 4000, fromDp: 0, toDp: 2000 }
  const narrow = { left: 10, top: 0, width: 400, height: 200 }

  it('is drawn by columns only where a path could not show its positions', () => {
    expect([isDense(map, view, narrow), isDense(long, view, narrow)]).toEqual([false, true])
    expect(isDense(long, { ...view, fromMs: 1500, toMs: 1600 }, narrow)).toBe(false)
  })

  it('reaches in each column as far as the window did, stands before and after, and ends with the run', () => {
    const { high, low } = columnsOf(long, view, narrow)
    // Ten ms a column: the first hundred are at 0.
    expect([high[50], low[50]]).toEqual([0, 0])
    expect([high[99], low[99]]).toEqual([0, 500])
    for (const px of [110, 180, 250]) {
      expect(high[px]).toBeCloseTo(200, 6)
      expect(low[px]).toBeCloseTo(800, 6)
    }
    expect(high[305]).toBe(low[305])
    expect([high[310], high[311], high[399]].map((dp) => Number.isNaN(dp))).toEqual([false, true, true])
  })

  it('is drawn with an edge on either side', () => {
    const drawn: { colour: string; box: number[] }[] = []
    const context = { fillStyle: '', fillRect: (...box: number[]) => drawn.push({ colour: context.fillStyle, box }) }
    drawDenseChannel(context as never, long, view, narrow, 'water', 'edge')
    const tall = long.heightDp / 10
    const at = (colour: string) =>
      drawn
        .filter((each) => each.colour === colour && each.box[0] === 10 + 180)
        .map(({ box }) => box.slice(1).map((value) => Math.round(value * 10) / 10))
    expect(at('water')).toEqual([[20, 1, Math.round((60 + tall) * 10) / 10]])
    expect(at('edge')).toEqual([
      [20, 1, 60],
      [Math.round((20 + tall) * 10) / 10, 1, 60],
    ])
  })
})

describe('the map from far out', () => {
  afterEach(() => vi.unstubAllGlobals())

  /** A canvas of plain pixels: what is put into it can be taken out again. */
  class Pixels {
    readonly width: number
    readonly height: number
    readonly data: Uint8ClampedArray
    constructor(width: number, height: number) {
      this.width = width
      this.height = height
      this.data = new Uint8ClampedArray(width * height * 4)
    }
  }
  const canvas = () => {
    const own = {
      width: 0,
      height: 0,
      image: null as Pixels | null,
      getContext: () => ({ putImageData: (image: Pixels) => (own.image = image) }),
    }
    return own
  }
  /** Redraws as `drawMap` does; gives what was laid over the plot. */
  function drawn(far: FarView, view: MapWindow, more: object = {}, mostMs = Infinity): number[] {
    let seen: number[] = []
    const context = {
      drawImage: (
        { image }: { image: Pixels },
        x: number,
        y: number,
        width: number,
        height: number,
        ...to: number[]
      ) => {
        // The stand-in is moved and stretched: it goes to a place of its own as a whole.
        if (to.length === 0) return void (seen = [x, y, width, height])
        const all = new Uint32Array(image.data.buffer)
        seen = Array.from(
          { length: width * height },
          (_, i) => all[(y + Math.floor(i / width)) * image.width + x + (i % width)]!,
        )
      },
    }
    far.draw(
      context as never,
      {
        map,
        ghost: null,
        view,
        plot,
        width: 1000,
        height: 600,
        selected: -1,
        hidden,
        colour: () => '#0e6470',
        far,
        ...more,
      } as never,
      mostMs,
    )
    return seen
  }
  const map = mapped(dragged())
  const hidden = new Set<string>()
  const inked = (pixels: readonly number[]) => pixels.reduce((sum, pixel) => sum + (pixel === 0 ? 0 : 1), 0)

  it('is the same panned as drawn anew, and filled anew only where it has to be', () => {
    vi.stubGlobal('document', { createElement: canvas })
    vi.stubGlobal('ImageData', Pixels)
    for (const projection of ['rows', 'distance'] as const) {
      const whole = projection === 'rows' ? fitAll(map) : fitDistance(map)
      const [msPerPx, dpPerPx] = [(whole.toMs - whole.fromMs) / plot.width, (whole.toDp - whole.fromDp) / plot.height]
      const far = new FarView()
      expect(inked(drawn(far, whole, { projection }))).toBeGreaterThan(500)
      for (const [dx, dy] of [
        [40, 0],
        [200, -90],
        [-310, 120],
      ] as const) {
        const there = pan(whole, dx * msPerPx, dy * dpPerPx)
        const panned = drawn(far, there, { projection })
        const anew = drawn(new FarView(), there, { projection })
        // A place that lies between two pixels may be rounded to either, in a buffer that begins elsewhere (a curve has
        // many), and a dot at the plot's edge is whole in a larger one.
        expect(panned.filter((pixel, i) => pixel !== anew[i]).length).toBeLessThanOrEqual(
          (projection === 'rows' ? 0.02 : 0.1) * inked(anew),
        )
      }
      // The first view at its own size, the first pan with room beyond it, and no more within that.
      expect(far.fills).toBe(2)
      drawn(far, pan(whole, 900 * msPerPx, 0), { projection })
      expect(far.fills).toBe(3)
      const before = inked(drawn(far, whole, { projection }))
      expect(far.fills).toBe(4)
      // Another legend, scale or colour is another picture.
      expect(inked(drawn(far, whole, { projection, hidden: new Set(['shown', 'shownEarly']) }))).toBeLessThan(before)
      drawn(far, { ...whole, toMs: whole.toMs * 2 }, { projection })
      drawn(far, { ...whole, toMs: whole.toMs * 2 }, { projection, colour: () => '#ffffff' })
      expect(far.fills).toBe(7)
    }
  })

  it('is filled in parts where somebody waits, with the marks before it standing in, and ends as it would at once', () => {
    vi.stubGlobal('document', { createElement: canvas })
    vi.stubGlobal('ImageData', Pixels)
    const whole = fitAll(map)
    const near = { ...whole, toMs: whole.toMs / 2 }
    for (const projection of ['rows', 'distance'] as const) {
      const far = new FarView()
      // No time at all: one part each. There is no stand-in yet.
      expect(drawn(far, whole, { projection }, 0)).toEqual([])
      let parts = 1
      while (!far.work(0)) parts++
      expect(parts).toBeGreaterThan(3)
      expect(far.fills).toBe(1)
      const atOnce = drawn(new FarView(), whole, { projection })
      expect(drawn(far, whole, { projection }, 0)).toEqual(atOnce)
      // Zoomed to the first half of the time, what is there stands in at twice its width, until the new one is ready.
      const [left, top] = [plot.left, plot.top]
      const stretched = [left, top, 2 * Math.ceil(plot.width), Math.ceil(plot.height)]
      const standsIn = drawn(far, near, { projection }, 0)
      for (const [i, px] of stretched.entries()) expect(standsIn[i]).toBeCloseTo(px, 6)
      while (!far.work(0)) continue
      expect(drawn(far, near, { projection }, 0)).toEqual(drawn(new FarView(), near, { projection }))
      // Another projection has no stand-in.
      const other = projection === 'rows' ? 'distance' : 'rows'
      expect(drawn(far, other === 'rows' ? fitAll(map) : fitDistance(map), { projection: other }, 0)).toEqual([])
    }
  })

  it('that is wanted otherwise again and again is drawn to its end all the same', () => {
    vi.stubGlobal('document', { createElement: canvas })
    vi.stubGlobal('ImageData', Pixels)
    const far = new FarView()
    const whole = fitAll(map)
    for (let n = 1; n <= 8; n++) drawn(far, { ...whole, toMs: whole.toMs * (1 + n / 10) }, {}, 0)
    expect(far.fills).toBe(2)
  })
})
