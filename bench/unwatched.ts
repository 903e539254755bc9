import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { launchOptions, withoutHints } from '../tests/support/launch.ts'
import { bundle } from './bundle.ts'

/**
 * What a page is called once what was begun in it has ended; its result is `window.result`, or its fault
 * `window.trouble`.
 */
const ended = 'measured'

/**
 * Measures in a page that nothing is attached to. What drives a browser hears of every request and asks again and
 * again; on two cores that took a tenth of the machine.
 *
 * @param prepare makes the page ready, and is attached meanwhile.
 * @param entry a file that is bundled for the page; it puts a function into `window.measure`.
 * @param given what that function is called with, as JSON.
 * @returns what the function has returned, as JSON.
 */
export async function measureUnwatched<Result>(
  prepare: (page: Page) => Promise<void>,
  entry: string,
  given: unknown,
): Promise<Result> {
  const code = await bundle(entry)
  const folder = mkdtempSync(join(tmpdir(), 'tug-bench-'))
  const browser = spawn(
    launchOptions.executablePath,
    [...launchOptions.args, '--headless=new', '--remote-debugging-port=0', `--user-data-dir=${folder}`, 'about:blank'],
    { stdio: ['ignore', 'ignore', 'pipe'] },
  )
  const gone = new Promise((resolve) => browser.on('close', resolve))
  try {
    const address = await debuggingAddress(browser.stderr)
    // Attached to before its first page is there, the browser may not answer.
    while ((await titles(address)).length === 0) await new Promise((resolve) => setTimeout(resolve, 100))
    const first = await chromium.connectOverCDP(address)
    const page = await first.contexts()[0]!.newPage()
    await withoutHints(page.context())
    await page.setViewportSize({ width: 1280, height: 800 })
    await prepare(page)
    const url = page.url()
    await page.evaluate(code)
    await page.evaluate(
      ([what, title]) => {
        void (window as unknown as Measuring)
          .measure(what)
          .then(
            (result) => ({ result }),
            (trouble: unknown) => ({ trouble: String(trouble) }),
          )
          .then((outcome) => {
            Object.assign(window, outcome)
            document.title = title
          })
      },
      [given, ended] as const,
    )
    await first.close()
    while (!(await titles(address)).includes(ended)) await new Promise((resolve) => setTimeout(resolve, 1000))
    const second = await chromium.connectOverCDP(address)
    const same = second
      .contexts()[0]!
      .pages()
      .find((each) => each.url() === url)!
    const { result, trouble } = await same.evaluate(() => {
      const { result, trouble } = window as unknown as Measuring
      return { result, trouble }
    })
    await second.close()
    if (trouble !== undefined) throw new Error(`${entry}: ${trouble}`)
    return result as Result
  } finally {
    browser.kill()
    await gone
    rmSync(folder, { recursive: true, force: true })
  }
}

interface Measuring {
  measure: (given: unknown) => Promise<unknown>
  result: unknown
  /** Why it has failed; only where it has. */
  trouble?: string
}

/** Where the browser can be reached, which it says when it has started. */
function debuggingAddress(says: NodeJS.ReadableStream): Promise<string> {
  return new Promise((resolve, reject) => {
    let said = ''
    says.on('data', (part) => {
      said += String(part)
      const port = /DevTools listening on ws:\/\/127\.0\.0\.1:(\d+)/.exec(said)?.[1]
      if (port) resolve(`http://127.0.0.1:${port}`)
    })
    says.on('close', () => reject(new Error(`Chromium did not start: ${said}`)))
  })
}

/** What the pages are called, asked of the browser without attaching to them. */
async function titles(address: string): Promise<string[]> {
  const pages = (await (await fetch(`${address}/json/list`)).json()) as { title: string }[]
  return pages.map(({ title }) => title)
}
