import { chromium, type Page } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
import { launchOptions, withoutHints } from '../tests/support/launch.ts'
import { fixed, type Line } from './measure.ts'

const rounds = 7

/**
 * From navigation to the first picture on the device, on the demo: with nothing of the app in the browser, and opened
 * again.
 */
export async function benchFirstPicture(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  const times = { cold: [] as number[], warm: [] as number[] }
  try {
    for (let round = 0; round < rounds; round++) {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
      await withoutHints(context)
      const page = await context.newPage()
      await page.addInitScript(watchFor)
      times.cold.push(await firstPicture(page, `${server.address}loading`))
      times.warm.push(await firstPicture(page, `${server.address}loading`))
      await context.close()
    }
  } finally {
    await browser.close()
    await server.close()
  }
  return (['cold', 'warm'] as const).map((which) => {
    const sorted = times[which].toSorted((one, other) => one - other)
    return {
      what: `from navigation to the first live picture of the demo, ${which}`,
      value: `${fixed(sorted[rounds >> 1]! / 1000, 2)} s`,
      target: 'recorded',
      ok: true,
      note: `${fixed(sorted[0]! / 1000, 2)}–${fixed(sorted.at(-1)! / 1000, 2)} s`,
    }
  })
}

/** ms, by the page's own clock. */
async function firstPicture(page: Page, address: string): Promise<number> {
  await page.goto(address)
  await page.locator('.tt-glass .tt-slot[data-stage="settled"]').first().waitFor()
  return page.evaluate(() => (window as unknown as { firstPictureMs: number }).firstPictureMs)
}

/** Notes when a picture is there first; a test's own looks at the page come later. */
const watchFor = `{
  const watch = new MutationObserver(() => {
    if (!document.querySelector('.tt-glass .tt-slot[data-stage="settled"]')) return
    window.firstPictureMs = performance.now()
    watch.disconnect()
  })
  watch.observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ['data-stage'] })
}`
