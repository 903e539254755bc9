import { readFile } from 'node:fs/promises'
import type { Metrics } from '../../src/core/profile/figures/metric-definitions.ts'
import { test as base, expect, type Page } from '@playwright/test'
import { decodeLog, type EncodedLog } from '../../src/core/log/log-encoding.ts'
import type { RunLog } from '../../src/core/log/run-log.ts'
import type { Check } from '../../src/core/profile/figures/checks.ts'
import { countIn, storedIn } from '../support/stored.ts'
import { withoutHints } from '../support/launch.ts'
import type { Step } from '../../src/core/project/types.ts'

export { expect }

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as { screens: object[] }

/** An answer of the origin that is wrong on purpose is reported by the browser too; nothing else may be. */
const onPurpose = /\/origin\/[^/]+\/(tiles|pictures|nothing|feeds\/[^?]+\?page=\d)|\/relay\//

/** Every test fails on a console error, an unhandled rejection, or a request that leaves this machine. */
export const test = base.extend<{ watched: undefined; hints: boolean }>({
  /** Whether the page is that of a newcomer, with hints. */
  hints: [false, { option: true }],
  watched: [
    async ({ page, context, hints }, use) => {
      // Hints cover what tests press; the tests of hints turn them on.
      if (!hints) await withoutHints(context)
      const troubles: string[] = []
      page.on('console', (message) => {
        if (message.type() === 'error' && !onPurpose.test(message.location().url))
          troubles.push(`console: ${message.text()} ${message.location().url}`)
      })
      page.on('pageerror', (error) => troubles.push(`uncaught: ${error.stack ?? error.message}`))
      page.on('request', (request) => {
        const { protocol, hostname } = new URL(request.url())
        if (/^https?:$/.test(protocol) && hostname !== '127.0.0.1') troubles.push(`left this machine: ${request.url()}`)
      })
      await use(undefined)
      expect(troubles).toEqual([])
    },
    { auto: true },
  ],
})

export interface KeptRun {
  id: number
  number: number
  world: string
  screen: string
  hash: string
  metrics: Metrics
  checks: Check[]
  changed: string[]
  raw: { scripts: { name: string; steps: Step[] }[] }
}

/** The runs that the app has kept in the browser, oldest first. */
export const keptRuns = (page: Page) => storedIn<KeptRun>(page, 'runs')

/** How many there are. */
export const keptRunCount = (page: Page) => countIn(page, 'runs')

/** The log of a kept run, decoded. */
export async function keptLog(page: Page, run: number): Promise<RunLog> {
  const stored = await page.evaluate(async (id) => {
    const open = indexedDB.open('tile-tug')
    await new Promise((resolve) => (open.onsuccess = resolve))
    const one = open.result.transaction('runLogs').objectStore('runLogs').get(id)
    await new Promise((resolve) => (one.onsuccess = resolve))
    open.result.close()
    return (one.result as { log: EncodedLog }).log
  }, run)
  return decodeLog(stored)
}

/** Opens the app and waits until its list shows pictures. */
export async function openApp(page: Page, path = '/loading'): Promise<void> {
  await page.goto(path)
  await expect(page.locator('.tt-slot[data-stage="settled"]').nth(2)).toBeVisible()
}

/** Unfolds a card of less everyday settings; one that is open stays so. */
export async function unfold(page: Page, title: string): Promise<void> {
  const card = page.getByRole('group', { name: title, exact: true })
  if ((await card.getAttribute('open')) === null) await card.locator('summary').first().click()
}

/** Opens the app with a project of your own, whatever the demo's pictures do. */
export async function openWith(page: Page, path: string, project: unknown): Promise<void> {
  await openShell(page, path)
  await openProject(page, project)
}

/** A project with one gesture, and no longer one than a test needs. */
export const withGesture = <P extends object>(project: P, steps: Step[]) => ({
  ...project,
  scripts: [{ name: 'short', steps }],
  script: 'short',
})

/** Replaces the demo for tests with a project of their own: a list without a row, which costs nothing to start. */
const nothing = {
  format: 'tile-tug/project',
  version: 1,
  name: 'Nothing yet',
  screens: [
    {
      ...demo.screens[0],
      feed: { source: { type: 'inline', items: [] } },
    },
  ],
}

/** Opens the app and waits for its frame alone, with nothing in it: for tests with a project of their own. */
export async function openShell(page: Page, path: string): Promise<void> {
  // The browser does not cache what it loads while requests are intercepted: a server of the test's own that is frozen
  // or stopped later would be missed by workers that start then.
  if (path.startsWith('http')) {
    await page.goto(path)
    await expect(page.locator('#project-menu')).toBeVisible()
    return
  }
  const demoChunk = /\/saltmarsh\.tiletug-[^/]*\.js$/
  await page.route(demoChunk, (route) =>
    route.fulfill({ contentType: 'text/javascript', body: `export default ${JSON.stringify(nothing)}` }),
  )
  await page.goto(path)
  await expect(page.locator('#project-menu')).toBeVisible()
  await page.unroute(demoChunk)
}

/** Opens a project from a text, as a picked file, and waits until it is the open one. */
export async function openProject(page: Page, project: unknown): Promise<void> {
  const menu = page.locator('#project-menu')
  const before = (await menu.getAttribute('data-project'))!
  await pickProject(page, project)
  await expect(menu).not.toHaveAttribute('data-project', before)
  await expect(page).toHaveURL(new RegExp(`/p/${(await menu.getAttribute('data-project'))!}/`))
}

/** Picks a text as a project file. */
export async function pickProject(page: Page, project: unknown): Promise<void> {
  await page.getByLabel('Project file').setInputFiles({
    name: 'picked.tiletug.json',
    mimeType: 'application/json',
    buffer: Buffer.from(typeof project === 'string' ? project : JSON.stringify(project)),
  })
}

/**
 * Waits, from now on, for something that the page may show for a moment only: it is looked for in every frame, while an
 * expectation may look no more than once a second.
 *
 * @returns what `look` has found, once it is there
 */
export async function seenInPage<T>(page: Page, look: () => T): Promise<T> {
  const found = await page.waitForFunction(look, undefined, { polling: 'raf', timeout: 60_000 })
  return (await found.jsonValue()) as T
}

/** Drives the script live and gives the run that was kept. */
export async function driveLive(page: Page, timeout = 60_000): Promise<KeptRun> {
  const before = await keptRunCount(page)
  await page.getByRole('button', { name: 'Drive live' }).click()
  await expect.poll(() => keptRunCount(page), { timeout }).toBe(before + 1)
  return (await keptRuns(page)).at(-1)!
}

export async function simulate(page: Page): Promise<KeptRun> {
  const before = await keptRunCount(page)
  await page.getByRole('button', { name: 'Simulate', exact: true }).click()
  await expect.poll(() => keptRunCount(page)).toBe(before + 1)
  return (await keptRuns(page)).at(-1)!
}
