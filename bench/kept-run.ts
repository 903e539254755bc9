import { chromium, type Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { decodeLog, type EncodedLog } from '../src/core/log/log-encoding.ts'
import { draw } from '../src/core/numbers/draw.ts'
import { startServer } from '../src/server/server.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'
import { fixed, time, type Line } from './measure.ts'

const openings = 7

/**
 * A kept run of 1,000,000 events in Chromium: how long it takes to open, and what the page and its workers hold of it.
 */
export async function benchKeptRun(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  try {
    const page = await pageWithoutHints(browser)
    // What runs this file marks functions with a helper that the page has not.
    await page.addInitScript('globalThis.__name = (named) => named')
    await page.goto(`${server.address}loading`)
    await page.getByLabel('Project file').setInputFiles({
      name: 'kept.tiletug.json',
      mimeType: 'application/json',
      buffer: Buffer.from(await projectText()),
    })
    await page.getByRole('button', { name: 'A long run' }).waitFor()
    await page.getByTestId('deltas').waitFor()
    await simulate(page, 1)
    await page.getByRole('combobox', { name: 'Script' }).selectOption('short')
    await simulate(page, 2)
    const log = await storedLog(page)
    const decoding = time(openings, () => void decodeLog(log))
    const times: number[] = []
    const grown: { page: number; workers: number }[] = []
    for (let i = 0; i < openings; i++) {
      await open(page, 2)
      const before = await held(page)
      times.push(await open(page, 1))
      const after = await held(page)
      grown.push({ page: after.page - before.page, workers: after.workers - before.workers })
    }
    grown.sort((a, b) => a.page - b.page)
    times.sort((a, b) => a - b)
    const bytes = log.chunks.reduce((sum, chunk) => sum + chunk.length, log.tables.length)
    const ratio = times[openings >> 1]! / decoding.median
    const more = grown[openings >> 1]!
    const share = more.page / bytes
    return [
      {
        what: `a kept run of ${log.count.toLocaleString('en')} events, opened in Profile: from the address to its map ÷ decoding it in Node`,
        value: fixed(ratio),
        target: '≤ 1.5',
        ok: ratio <= 1.5,
        note: `${fixed(times[openings >> 1]!, 0)} ms (${fixed(times[0]!, 0)}–${fixed(times.at(-1)!, 0)}), decoding ${fixed(decoding.median, 0)} ms`,
      },
      {
        what: 'the same: what the page holds of it ÷ its encoded columns',
        value: fixed(share),
        target: '≤ 3',
        ok: share <= 3,
        note: `${fixed(bytes / 1e6, 1)} MB encoded; the page ${fixed(more.page / 1e6, 1)} (${fixed(grown[0]!.page / 1e6, 1)}–${fixed(grown.at(-1)!.page / 1e6, 1)}), its workers ${fixed(more.workers / 1e6, 0)}`,
      },
    ]
  } finally {
    await browser.close()
    await server.close()
  }
}

async function simulate(page: Page, number: number): Promise<void> {
  await page.getByRole('button', { name: 'Simulate', exact: true }).click()
  await page.getByText(`run ${number}, simulated`).waitFor({ timeout: 120_000 })
}

/** Opens a run by its address; from there until its map is drawn, ms. */
function open(page: Page, run: number): Promise<number> {
  return page.evaluate(async (run) => {
    const project = location.pathname.split('/')[2]!
    const start = performance.now()
    history.pushState({}, '', `/p/${project}/profile/${run}`)
    dispatchEvent(new PopStateEvent('popstate', { state: {} }))
    const isThere = () =>
      document.querySelector('h1')?.textContent?.startsWith(`Run ${run} ·`) &&
      document.querySelector('.tt-map canvas') !== null
    while (!isThere()) await new Promise(requestAnimationFrame)
    await new Promise(requestAnimationFrame)
    return performance.now() - start
  }, run)
}

/** What the page and its workers hold, bytes, as the browser measures it after it has collected. */
function held(page: Page): Promise<{ page: number; workers: number }> {
  return page.evaluate(async () => {
    const measure = (
      performance as unknown as {
        measureUserAgentSpecificMemory: () => Promise<{
          breakdown: { bytes: number; attribution: { scope: string }[] }[]
        }>
      }
    ).measureUserAgentSpecificMemory
    const { breakdown } = await measure.call(performance)
    const sum = (ofPage: boolean) =>
      breakdown
        .filter(({ attribution }) => attribution.some(({ scope }) => scope === 'Window') === ofPage)
        .reduce((total, { bytes }) => total + bytes, 0)
    return { page: sum(true), workers: sum(false) }
  })
}

/** The log of the first run as the browser keeps it. */
async function storedLog(page: Page): Promise<EncodedLog> {
  const { chunks, tables, ...rest } = await page.evaluate(async () => {
    const text = (bytes: Uint8Array) => {
      let binary = ''
      for (const byte of bytes) binary += String.fromCharCode(byte)
      return btoa(binary)
    }
    const done = <T>(request: IDBRequest<T>) =>
      new Promise<T>((resolve, reject) => {
        request.onsuccess = () => resolve(request.result)
        request.onerror = () => reject(new Error(String(request.error)))
      })
    const database = await done(indexedDB.open('tile-tug'))
    const { log } = (await done(database.transaction('runLogs').objectStore('runLogs').get(1))) as {
      log: { format: string; version: number; count: number; tables: Uint8Array; chunks: Uint8Array[] }
    }
    database.close()
    return { ...log, tables: text(log.tables), chunks: log.chunks.map(text) }
  })
  const bytes = (text: string) => new Uint8Array(Buffer.from(text, 'base64'))
  return { ...(rest as EncodedLog), tables: bytes(tables), chunks: chunks.map(bytes) }
}

/**
 * The demo with a script that makes a million events, and a short one: no flick is as fast as another, as no hand’s
 * are.
 */
async function projectText(): Promise<string> {
  const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object
  const by = (n: number) => draw(11, 'gesture', n)
  const flicks = Array.from({ length: 1420 }, (_, i) => [
    { do: 'flick', dpPerS: Math.round((i % 4 === 3 ? -9000 : 7000) * (0.7 + 0.6 * by(2 * i))) },
    { do: 'wait', ms: Math.round(2000 + 900 * by(2 * i + 1)) },
  ]).flat()
  return JSON.stringify({
    ...demo,
    name: 'A long run',
    network: { rttMs: 40, downKbps: 20_000 },
    scripts: [
      { name: 'long', steps: flicks },
      { name: 'short', steps: flicks.slice(0, 4) },
    ],
    script: 'long',
  })
}
