import { chromium } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
const [path, name, width = '1280', height = '800'] = process.argv.slice(2)
const server = await startServer({ port: 0, dist: 'dist', pictures: null })
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu','--disable-quic'] })
const page = await browser.newPage({ viewport: { width: Number(width), height: Number(height) } })
page.on('console', (m) => m.type() === 'error' && console.log(m.text(), m.location().url)); page.on('pageerror', (e) => console.log('ERR', e.stack))
if (process.env.DARK) await page.emulateMedia({ colorScheme: 'dark' })
await page.goto(server.address + path); await page.waitForTimeout(3500)
if (process.env.DO) await new Function('page', `return (async () => {${process.env.DO}})()`)(page)
await page.screenshot({ path: `/tmp/${name}.png` })
await browser.close(); process.exit(0)
