import { chromium, type Page } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'
import { parseProject } from '../src/core/project/parse.ts'
import type { Round } from './list-page.ts'
import { bundle } from './bundle.ts'
import { measureUnwatched } from './unwatched.ts'

const requests = 100_000
const rounds = 5

/** The scroll map of 100,000 requests, in Chromium. */
export async function benchScrollMap(): Promise<Line[]> {
  const browser = await chromium.launch(launchOptions)
  try {
    return await benchMap(await pageWithoutHints(browser))
  } finally {
    await browser.close()
  }
}

/** The live list of 100,000 rows under a fast scroll, in Chromium. */
export async function benchBrowser(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  try {
    return await benchList(server.address)
  } finally {
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

async function benchList(address: string): Promise<Line[]> {
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
  const parsed = parseProject(project)
  if (!parsed.ok) throw new Error(parsed.message)
  const measured = await measureUnwatched<Round[]>(
    async (page) => {
      await page.goto(`${address}hand-off`)
      await page.getByLabel('Project file').setInputFiles({
        name: 'long.tiletug.json',
        mimeType: 'application/json',
        buffer: Buffer.from(JSON.stringify(project)),
      })
      await page.getByText('long list').first().waitFor()
      await page.locator('.tt-slot[data-stage="settled"]').nth(20).waitFor()
    },
    'bench/list-page.ts',
    {
      count: rounds,
      addresses: items.map(({ photo }) => photo),
      network: parsed.project.network,
    },
  )
  const work = measured.map(({ p95 }) => p95)
  const moreThanEmpty = (which: 'late' | 'lateMoved' | 'lateLoading' | 'lateShowing') =>
    measured.map((round) => 1000 * (round[which] - round.lateEmpty))
  const more = moreThanEmpty('late')
  const shares = (list: number[]) => `${fixed(middle(list), 0)} (${list.map((each) => fixed(each, 0)).join(', ')})`
  const middle = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!
  return [
    {
      what: 'live list, 100,000 rows, 44 cells, fast scroll: our main-thread work a frame, p95',
      value: `${fixed(middle(work), 1)} ms`,
      target: '≤ 2 ms',
      ok: middle(work) <= 2,
      note: `${rounds} drives: ${work.map((each) => fixed(each, 1)).join(', ')}`,
    },
    {
      what: 'the same: late frames against an empty page, per 1,000',
      value: fixed(middle(more), 0),
      target: '≤ + 2',
      ok: middle(more) <= 2,
      note: `${rounds} rounds at ${[...new Set(measured.map(({ refreshHz }) => refreshHz))].join(', ')} Hz: ${more.map((each) => fixed(each, 0)).join(', ')}; as many canvases that are only moved: ${shares(moreThanEmpty('lateMoved'))}; the same while the pictures are loaded by nothing but fetch and createImageBitmap: ${shares(moreThanEmpty('lateLoading'))}; the same and each is drawn into one of the canvases and faded in: ${shares(moreThanEmpty('lateShowing'))}, which is the browser’s and the server’s own share`,
    },
  ]
}
