import { chromium, type Page } from '@playwright/test'
import { startServer } from '../src/server/server.ts'

/** Makes the pictures of docs/screenshots from the demo: one a main view, 1280 × 800. Build the app first. */
const folder = 'docs/screenshots'
const server = await startServer({ port: 0, dist: 'dist', pictures: null })
const browser = await chromium.launch({
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
})
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
const at = (path: string) => server.address + path
const settled = (on: Page, count: number) => on.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(count).waitFor()
const shot = (name: string) => page.screenshot({ path: `${folder}/${name}.png` })

await page.goto(at('loading'))
await settled(page, 15)
await page.getByRole('button', { name: 'Simulate', exact: true }).click()
await page.getByText('run 1, simulated').waitFor()
await page.getByRole('slider', { name: 'Coming up: rows ahead' }).press('PageUp')
await page.getByText(/^follows your hand/).waitFor()
await page.waitForTimeout(1500)
await shot('loading')
await page.keyboard.press('Control+z')
await page.getByText('run 1, simulated').waitFor()
await page.getByRole('button', { name: 'Drive live' }).click()
await page.getByText('run 2, live').waitFor({ timeout: 60_000 })
await page.goto(at('feed'))
await settled(page, 15)
await page.getByRole('region', { name: 'Addresses' }).waitFor()
await page.waitForTimeout(1000)
await shot('feed')
await page.goto(at('cell'))
await settled(page, 15)
await page.locator('.tt-stage-card[data-stage="settled"] canvas').waitFor()
await page.locator('.tt-track-area').click({ position: { x: 640, y: 30 } })
await page.waitForTimeout(1000)
await shot('cell')
await page.goto(at('drive'))
await settled(page, 15)
await page.getByRole('button', { name: '+ no network' }).click()
await page.getByRole('button', { name: '+ turn' }).click()
await page.waitForTimeout(1500)
await shot('drive')
await page.keyboard.press('Control+z')
await page.keyboard.press('Control+z')
await page.getByText('Saved in this browser').waitFor()
await page.waitForTimeout(600)
await page.goto(at('profile'))
await settled(page, 15)
await page.getByRole('button', { name: 'Try this' }).first().waitFor()
await shot('profile')
await page.getByRole('slider', { name: 'Moment of the run, ms' }).fill('2600')
await page.locator('.tt-played[data-ms="2600"]').waitFor()
await page.getByRole('button', { name: 'Threads', exact: true }).click()
await page.locator('.tt-threads').waitFor()
await page.waitForTimeout(500)
await shot('playback')
await page.getByRole('button', { name: 'back to live' }).click()
await page.getByRole('button', { name: 'distance' }).click()
await page.getByRole('button', { name: 'Tiers', exact: true }).click()
await page.locator('.tt-curve svg').first().waitFor()
await page.waitForTimeout(500)
await shot('distance')
await page.goto(at('loading'))
await page.getByRole('button', { name: 'no cancelling' }).click()
await page.getByText(/^follows your hand/).waitFor()
await page.getByRole('button', { name: 'Simulate', exact: true }).click()
await page.getByText('run 3, simulated').waitFor()
await page.goto(at('compare'))
await page.getByRole('button', { name: 'On ten seeds' }).click()
await page.getByText('no difference seen').first().waitFor()
await page.getByLabel('Moment of the runs, ms').fill('4200')
await page.locator('.tt-devices .tt-played[data-ms="4200"]').nth(1).waitFor()
await page.waitForTimeout(500)
await shot('compare')
await page.goto(at('profile'))
await settled(page, 15)
await page.emulateMedia({ colorScheme: 'dark' })
const map = page.getByRole('img', { name: /^Scroll map of/ })
await map.focus()
for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowRight')
await page
  .getByRole('region', { name: /^Story of request/ })
  .getByRole('listitem')
  .nth(2)
  .waitFor()
await page.waitForTimeout(500)
await shot('story-dark')
await browser.close()
await server.close()
