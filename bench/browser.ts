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
    return await measure(await pageWithoutHints(browser), server.address)
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
  for (let i = 0; i < pairs; i++) {
    const empty = await lateOfEmptyPage(page)
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
      note: `${pairs} pairs: ${more.map((each) => fixed(each, 0)).join(', ')}`,
    },
  ]
}

/** The share of frames that come a refresh late on a page that does nothing, over the same while. */
function lateOfEmptyPage(page: Page): Promise<number> {
  return page.evaluate(async () => {
    const gaps: number[] = []
    let last = await new Promise<number>((resolve) => requestAnimationFrame(resolve))
    for (let i = 0; i < 360; i++) {
      const now = await new Promise<number>((resolve) => requestAnimationFrame(resolve))
      gaps.push(now - last)
      last = now
    }
    return gaps.filter((gap) => gap > 25).length / gaps.length
  })
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
