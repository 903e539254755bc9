import { readFile } from 'node:fs/promises'
import { chromium, type Page } from '@playwright/test'
import { calibrated } from '../src/core/compare/calibrate.ts'
import { fidelityOf, type Fidelity } from '../src/core/compare/fidelity.ts'
import { decodeLog, type EncodedLog } from '../src/core/log/log-encoding.ts'
import type { Facts } from '../src/core/profile/facts/facts.ts'
import { profileRun, type Profile } from '../src/core/profile/profile.ts'
import { parseProject } from '../src/core/project/parse.ts'
import { simulate } from '../src/core/simulate/simulate.ts'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'

/** Policies that differ in what they start, keep and let go. */
const policies: Record<string, object> = {
  plain: {},
  'two slots': { fetchSlots: 2 },
  'twelve slots': { fetchSlots: 12, fetchSlotsPerHost: 12 },
  'first come': { order: 'first-come' },
  'last come': { order: 'last-come' },
  'nothing ahead': { ahead: { amount: 0 } },
  'eight rows ahead': { ahead: { amount: 8 } },
  'ahead at once': { ahead: { amount: 4, onlyWhenIdle: false } },
  'keep above 50 %': { cancel: { keepAbove: 0.5 } },
  'by zone': { cancel: { when: 'zone', zoneRows: 6 } },
  'no cancelling': { cancel: { when: 'never' } },
  'no memory': { memoryMb: 0 },
}
const networks: Record<string, object> = {
  ferry: { rttMs: 90, jitterMs: 0, downKbps: 4000 },
  coast: { rttMs: 50, jitterMs: 0, downKbps: 12_000 },
  room: { rttMs: 15, jitterMs: 0, downKbps: 40_000 },
}
const script = {
  name: 'pair',
  steps: [
    { do: 'wait', ms: 1000 },
    { do: 'flick', dpPerS: 4500 },
    { do: 'wait', ms: 1400 },
    { do: 'flick', dpPerS: -3000 },
    { do: 'wait', ms: 1200 },
  ],
}

/**
 * Each policy on each network, live and simulated on the same script and seed, on a device calibrated to this browser
 * beforehand.
 */
export async function benchFidelity(): Promise<Line[]> {
  const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as {
    screens: object[]
    loading: object
  }
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  const lines: Line[] = []
  const all: Fidelity[] = []
  try {
    const page = await pageWithoutHints(browser)
    await page.goto(`${server.address}hand-off`)
    await page.waitForTimeout(3000)
    for (const [link, network] of Object.entries(networks))
      for (const [name, loading] of Object.entries(policies)) {
        const raw = {
          ...demo,
          name: `${name} ${link}`,
          screens: [demo.screens[0]],
          loading,
          network: { name: link, ...network },
          scripts: [script],
          script: 'pair',
          variants: [],
          budgets: [],
        }
        const parsed = parseProject(raw)
        if (!parsed.ok) throw new Error(parsed.message)
        // A drive beforehand tells what this browser costs now: a shared machine is another one every minute.
        const device = calibrated(parsed.project.device, (await driveOnce(page, raw)).facts, parsed.project.network)
        const live = await driveOnce(page, raw)
        const simulated = profileRun(simulate({ ...parsed.project, device }).log).metrics
        const pair = fidelityOf(live.metrics, simulated)
        all.push(pair)
        const text = (id: keyof Fidelity) => (pair[id] === null ? '–' : fixed(pair[id]!))
        console.error(
          `${name}, ${link}: requests ${text('fidelity.requests')} (live ${live.metrics['requests.total']}), bytes ${text('fidelity.bytes')} (live ${live.metrics['bytes.received']}), wait ${text('fidelity.waitP50')} (live ${fixed(live.metrics['pictures.waitP50'] ?? 0, 0)}), wasted ${text('fidelity.wastedShareGap')}, late ${fixed(live.metrics['frames.lateMsPerS'] ?? 0, 0)} against ${fixed(simulated['frames.lateMsPerS'] ?? 0, 0)}`,
        )
      }
  } finally {
    await browser.close()
    await server.close()
  }
  const values = (id: keyof Fidelity) => all.flatMap((pair) => pair[id] ?? []).sort((a, b) => a - b)
  const middle = (list: number[]) => list[list.length >> 1]!
  for (const id of ['fidelity.requests', 'fidelity.bytes'] as const) {
    const list = values(id)
    const near = list.filter((value) => value >= 0.9 && value <= 1.1).length / list.length
    lines.push({
      what: `${id}: median over ${list.length} pairs; pairs within 0.9–1.1`,
      value: `${fixed(middle(list))}; ${Math.round(100 * near)} %`,
      target: '0.95–1.05; ≥ 90 %',
      ok: middle(list) >= 0.95 && middle(list) <= 1.05 && near >= 0.9,
      note: `${fixed(list[0]!)}–${fixed(list.at(-1)!)}`,
    })
  }
  const waits = values('fidelity.waitP50')
  lines.push({
    what: 'fidelity.waitP50: median',
    value: fixed(middle(waits)),
    target: '0.85–1.15',
    ok: middle(waits) >= 0.85 && middle(waits) <= 1.15,
    note: `${fixed(waits[0]!)}–${fixed(waits.at(-1)!)}`,
  })
  const gaps = values('fidelity.wastedShareGap')
    .map(Math.abs)
    .sort((a, b) => a - b)
  lines.push({
    what: 'fidelity.wastedShareGap: median of |gap|',
    value: fixed(middle(gaps), 3),
    target: '≤ 0.03',
    ok: middle(gaps) <= 0.03,
    note: `at most ${fixed(gaps.at(-1)!, 3)}`,
  })
  return lines
}

async function driveOnce(page: Page, raw: object): Promise<{ metrics: Profile['metrics']; facts: Facts }> {
  await page.getByLabel('Project file').setInputFiles({
    name: 'pair.tiletug.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(raw)),
  })
  await page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(8).waitFor()
  const before = await lastLog(page, false)
  await page.getByRole('button', { name: 'Drive live' }).click()
  for (;;) {
    await page.waitForTimeout(400)
    if ((await lastLog(page, false)).run > before.run) break
  }
  const { log } = await lastLog(page, true)
  const { metrics, facts } = profileRun(
    decodeLog({
      ...log!,
      tables: Uint8Array.from(log!.tables),
      chunks: log!.chunks.map((chunk) => Uint8Array.from(chunk)),
    } as unknown as EncodedLog),
  )
  return { metrics, facts }
}

/** The number of the run that was kept last, and its log when it is wanted. */
const lastLog = (page: Page, whole: boolean) =>
  page.evaluate(async (wanted) => {
    const open = indexedDB.open('tile-tug')
    await new Promise((resolve) => (open.onsuccess = resolve))
    const keys = open.result.transaction('runLogs').objectStore('runLogs').getAllKeys()
    await new Promise((resolve) => (keys.onsuccess = resolve))
    const run = Math.max(-1, ...(keys.result as number[]))
    if (!wanted) {
      open.result.close()
      return { run, log: null }
    }
    const one = open.result.transaction('runLogs').objectStore('runLogs').get(run)
    await new Promise((resolve) => (one.onsuccess = resolve))
    open.result.close()
    const { log } = one.result as { log: { tables: Uint8Array; chunks: Uint8Array[] } }
    return { run, log: { ...log, tables: [...log.tables], chunks: log.chunks.map((chunk) => [...chunk]) } }
  }, whole)
