import type { Browser, BrowserContext, Page } from '@playwright/test'

/** Debian's Chromium as tests, benches and screenshots start it: offline, and drawn by the processor. */
export const launchOptions = {
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
}

/** Pages of a context show no hints, which would cover what tests press; for all but newcomers' tests. */
export function withoutHints(context: BrowserContext): Promise<unknown> {
  return context.addInitScript(() => {
    const place = 'tile-tug preferences'
    try {
      if (localStorage.getItem(place) === null) localStorage.setItem(place, '{"hint":"away"}')
    } catch {
      // A page without storage of its own shows none either.
    }
  })
}

export async function pageWithoutHints(browser: Browser): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  await withoutHints(context)
  return context.newPage()
}
