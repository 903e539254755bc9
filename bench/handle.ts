import { chromium } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'

const changes = 60

/** A handle of Loading moved on the demo, in Chromium: from the change's leaving for the worker to its answer on the page. */
export async function benchHandle(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  try {
    const page = await pageWithoutHints(browser)
    await page.addInitScript(() => {
      const times: number[] = []
      const waiting: (() => void)[] = []
      const since = new Map<number, number>()
      Object.assign(window, {
        times,
        answered(count: number) {
          return new Promise<void>((resolve) => (times.length > count ? resolve() : waiting.push(resolve)))
        },
      })
      const post = Worker.prototype.postMessage
      Worker.prototype.postMessage = function (
        this: Worker,
        message: { id?: number; type?: string; job?: { do: string } },
        ...rest: []
      ) {
        if (message?.type === 'start' && message.job?.do === 'follow') {
          since.set(message.id!, performance.now())
          this.addEventListener('message', ({ data }: MessageEvent<{ id: number; type: string }>) => {
            const from = since.get(data.id)
            if (from === undefined || data.type !== 'done') return
            since.delete(data.id)
            times.push(performance.now() - from)
            for (const go of waiting.splice(0)) go()
          })
        }
        post.call(this, message, ...rest)
      }
    })
    await page.goto(`${server.address}loading`)
    await page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(12).waitFor()
    await page.getByTestId('deltas').waitFor()
    const handle = page.getByRole('slider', { name: 'Coming up: rows ahead' })
    await handle.focus()
    // As long as a hand takes from coming near a handle to having taken it, and a little more.
    await page.waitForTimeout(2500)
    for (let i = 0; i < changes; i++) {
      const before = await page.evaluate(() => (window as unknown as { times: number[] }).times.length)
      await page.keyboard.press(i % 6 < 3 ? 'ArrowDown' : 'ArrowUp')
      // The page tells when: asking again and again would take a part of the time that is measured.
      await page.evaluate(
        (count) => (window as unknown as { answered: (n: number) => Promise<void> }).answered(count),
        before,
      )
    }
    const times = (await page.evaluate(() => (window as unknown as { times: number[] }).times))
      .slice(-Math.floor(changes / 2))
      .sort((a, b) => a - b)
    const middle = times[times.length >> 1]!
    return [
      {
        what: 'a handle dragged on the demo (7 s script), in Chromium: from the change to its answer',
        value: `${fixed(middle, 0)} ms`,
        target: '≤ 33 ms, two frames',
        ok: middle <= 33,
        note: `${fixed(times[0]!, 0)}–${fixed(times.at(-1)!, 0)} ms`,
      },
    ]
  } finally {
    await browser.close()
    await server.close()
  }
}
