import { chromium, type Page } from '@playwright/test'
import { build } from 'vite'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'
import { storedIn } from '../tests/support/stored.ts'

const requests = 100_000
const pairs = 5

/** The live list of 100,000 rows under a fast scroll, in Chromium. */
export const benchBrowser = () => inChromium(benchList)

/** The scroll map of 100,000 requests, in Chromium. */
export const benchScrollMap = () => inChromium(benchMap)

async function inChromium(measure: (page: Page, address: string) => Promise<Line[]>): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  try {
    const page = await pageWithoutHints(browser)
    // What runs this file marks functions with a helper that the page has not.
    await page.addInitScript('globalThis.__name = (named) => named')
    return await measure(page, server.address)
  } finally {
    await browser.close()
    await server.close()
  }
}

/** Redrawing the map while it is panned, against filling the same canvas from an ImageData. */
async function benchMap(page: Page): Promise<Line[]> {
  await page.goto('about:blank')
  await page.addScriptTag({ content: await bundle('bench/map-page.ts') })
  const lines: Line[] = []
  const ask = <Times>(name: string, projection: string) =>
    page.evaluate(
      ([what, count, which]) =>
        (window as unknown as Record<string, (n: number, projection: string) => Times>)[what]!(count, which),
      [name, requests, projection] as const,
    )
  for (const projection of ['rows', 'distance'] as const) {
    const { map, longest, fill } = await ask<{ map: number; longest: number; fill: number }>('benchMap', projection)
    lines.push({
      what: `scroll map in ${projection}, 100,000 requests: redraw while panning ÷ filling the same canvas from an ImageData`,
      value: fixed(map / fill),
      target: '≤ 0.3',
      ok: map / fill <= 0.3,
      note: `${fixed(map, 1)} ms against ${fixed(fill, 1)} ms; the longest redraw ${fixed(longest, 0)} ms`,
    })
    const inParts = await ask<{ longest: number; parts: number; atOnce: number }>('benchMapParts', projection)
    lines.push({
      what: `scroll map in ${projection}, 100,000 requests, drawn anew in parts: the longest frame of the page for it`,
      value: `${fixed(inParts.longest, 1)} ms`,
      target: '≤ 16 ms',
      ok: inParts.longest <= 16,
      note: `${inParts.parts} frames; ${fixed(inParts.atOnce, 0)} ms at once`,
    })
  }
  return lines
}

async function benchList(page: Page, address: string): Promise<Line[]> {
  await page.goto(`${address}hand-off`)
  await page.waitForTimeout(4000)
  const items = Array.from({ length: 120 }, (_, i) => ({
    id: `i${i}`,
    photo: `https://archive.example.test/tiles/${i}?width=200&height=164&as=webp`,
  }))
  const project = {
    format: 'tile-tug/project',
    version: 1,
    name: 'long list',
    screens: [
      {
        id: 'list',
        feed: { source: { type: 'inline', items }, repeat: { times: 3334 } },
        layout: { columns: 4, gapDp: 2, paddingDp: 2 },
        cells: [
          { height: { type: 'fixed', dp: 84 }, slots: [{ size: { type: 'fixed', widthDp: 100, heightDp: 82 } }] },
        ],
      },
    ],
    device: { density: 2 },
    network: { downKbps: 1_000_000, rttMs: 5, jitterMs: 0, thinkMs: 0 },
    scripts: [
      {
        name: 'fast',
        steps: [
          { do: 'wait', ms: 500 },
          { do: 'to', where: 40, dpPerS: 3000 },
          { do: 'to', where: 500, dpPerS: 6000 },
        ],
      },
    ],
    script: 'fast',
  }
  await page.getByLabel('Project file').setInputFiles({
    name: 'long.tiletug.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(project)),
  })
  await page.locator('.tt-slot[data-stage="settled"]').nth(20).waitFor()
  const work: number[] = []
  const more: number[] = []
  const compositor: number[] = []
  for (let i = 0; i < pairs; i++) {
    const empty = await lateOfEmptyPage(page)
    compositor.push(1000 * ((await lateOfMovedCanvases(page)) - empty))
    const before = await runCount(page)
    await page.getByRole('button', { name: 'Drive live' }).click()
    while ((await runCount(page)) === before) await page.waitForTimeout(500)
    const { p95, late, count } = await lastRun(page)
    work.push(p95)
    more.push(1000 * (late / count - empty))
  }
  const middle = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!
  return [
    {
      what: 'live list, 100,000 rows, 44 cells, fast scroll: our main-thread work a frame, p95',
      value: `${fixed(middle(work), 1)} ms`,
      target: '≤ 2 ms',
      ok: middle(work) <= 2,
      note: `${pairs} drives: ${work.map((each) => fixed(each, 1)).join(', ')}`,
    },
    {
      what: 'the same: late frames against an empty page, per 1,000',
      value: fixed(middle(more), 0),
      target: '≤ + 2',
      ok: middle(more) <= 2,
      note: `${pairs} pairs: ${more.map((each) => fixed(each, 0)).join(', ')}; as many canvases that are only moved: ${fixed(middle(compositor), 0)} (${compositor.map((each) => fixed(each, 0)).join(', ')}), which is the browser’s own share`,
    },
  ]
}

/** The share of frames that come a refresh late on a page that does nothing, over the same while. */
const lateOfEmptyPage = (page: Page) => page.evaluate(lateFrames, null)

/**
 * The same while as many canvases as the list has move as fast in its place, rows that leave at the top coming in again
 * below, with nothing bound, asked for or drawn: what layers and their compositing take by themselves.
 */
async function lateOfMovedCanvases(page: Page): Promise<number> {
  const list = await page.evaluateHandle(() => {
    const glass = document.querySelector('.tt-glass')!
    const scale = glass.getBoundingClientRect().width / (glass as HTMLElement).offsetWidth
    const host = document.createElement('div')
    const list = document.createElement('div')
    host.style.cssText = 'position:absolute;inset:0;overflow:hidden;contain:strict;z-index:1'
    list.className = 'tt-list'
    for (let i = 0; i < 44; i++) {
      const cell = document.createElement('div')
      cell.className = 'tt-cell'
      cell.style.cssText = `width:100px;height:84px;transform:translate(${(i % 4) * 102}px,${Math.floor(i / 4) * 86}px)`
      const canvas = document.createElement('canvas')
      canvas.className = 'tt-picture'
      canvas.width = Math.round(200 * scale)
      canvas.height = Math.round(164 * scale)
      const context = canvas.getContext('2d')!
      context.fillStyle = `hsl(${i * 8} 60% 50%)`
      context.fillRect(0, 0, canvas.width, canvas.height)
      cell.append(canvas)
      list.append(cell)
    }
    host.append(list)
    glass.append(host)
    return list
  })
  const late = await page.evaluate(lateFrames, list)
  await list.evaluate((each) => each.parentElement!.remove())
  return late
}

/** In the page: the share of late frames, while the rows of a list move when there is one. */
async function lateFrames(list: HTMLElement | null): Promise<number> {
  const [rows, rowDp, columns, dpPerS] = [11, 86, 4, 6000]
  const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve))
  const began = await frame()
  let last = began
  let count = 0
  let first = 0
  for (let i = 0; i < 360; i++) {
    const now = await frame()
    if (now - last > 25) count++
    last = now
    if (!list) continue
    const top = ((now - began) / 1000) * dpPerS
    list.style.transform = `translate3d(0, ${-top}px, 0)`
    for (; (first + 1) * rowDp < top; first++)
      for (let column = 0; column < columns; column++) {
        const cell = list.children[(first % rows) * columns + column] as HTMLElement
        cell.style.transform = `translate(${column * 102}px, ${(first + rows) * rowDp}px)`
      }
  }
  return count / 360
}

/** Figures of the runs that the app has kept, oldest first. */
const keptRuns = async (page: Page) =>
  (await storedIn<{ metrics: Record<string, number> }>(page, 'runs')).map(({ metrics }) => ({
    p95: metrics['frames.workP95']!,
    late: metrics['frames.late']!,
    count: metrics['frames.count']!,
  }))
const runCount = async (page: Page) => (await keptRuns(page)).length
const lastRun = async (page: Page) => (await keptRuns(page)).at(-1)!

async function bundle(entry: string): Promise<string> {
  const built = await build({
    configFile: false,
    logLevel: 'silent',
    build: { write: false, lib: { entry, formats: ['iife'], name: 'bench' } },
  })
  const [first] = Array.isArray(built) ? built : [built]
  if (!first || !('output' in first)) throw new Error('nothing was built')
  return first.output[0].code
}
