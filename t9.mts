import { chromium } from '@playwright/test'
import { startServer } from './src/server/server.ts'
import { launchOptions, withoutHints } from './tests/support/launch.ts'
const server = await startServer({ port: 0, dist: 'dist', pictures: null })
const browser = await chromium.launch({ ...launchOptions, executablePath: '/usr/bin/chromium-headless-shell' })
for (let k = 0; k < 3; k++) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } }); await withoutHints(context)
  const page = await context.newPage()
  await page.addInitScript(() => { const o = new MutationObserver(() => { const s = document.querySelectorAll('.tt-glass .tt-slot[data-stage="settled"]'); if (s.length > 0 && !(window as any).first) (window as any).first = performance.now(); if (s.length > 2 && !(window as any).third) (window as any).third = performance.now() }); o.observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ['data-stage'] }) })
  for (let w = 0; w < 2; w++) {
    const t0 = performance.now()
    await page.goto(`${server.address}loading`); await page.locator('.tt-slot[data-stage="settled"]').nth(2).waitFor()
    const wall = performance.now() - t0
    const r = await page.evaluate(() => ({ first: (window as any).first, third: (window as any).third, paint: performance.getEntriesByName('first-contentful-paint')[0]?.startTime, res: performance.getEntriesByType('resource').map((e: any) => [Math.round(e.startTime), Math.round(e.responseEnd), e.name.replace(location.origin, '').slice(0, 60)]) }))
    console.log(k, w, 'wall', wall.toFixed(0), 'fcp', r.paint?.toFixed(0), 'first', r.first?.toFixed(0), 'third', r.third?.toFixed(0), 'resources', r.res.length)
    if (k === 1) for (const x of r.res) console.log('  ', x.join(' '))
  }
  await context.close()
}
await browser.close(); await server.close()
