import { readFile } from 'node:fs/promises'
import { chromium, type CDPSession, type Page } from '@playwright/test'
import { draw } from '../src/core/numbers/draw.ts'
import { startServer } from '../src/server/server.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'

/**
 * Random live driving with faults for so many minutes (the first argument, 10 by default): what the page holds after a
 * forced collection, its nodes and its open requests end where they began, and the console stays clean. Exit code 1 if
 * not.
 */
const minutes = Number(process.argv[2] ?? 10)
const seed = Number(process.argv[3] ?? 7)
/** What the page may hold more at its end than at its beginning, MB. */
const spareMb = 24
/** An answer of the origin that is wrong on purpose is told by the browser too. */
const onPurpose = /\/origin\/[^/]+\/(tiles|pictures|nothing)/

const server = await startServer({ port: 0, dist: 'dist', pictures: null })
const browser = await chromium.launch({ ...launchOptions, args: [...launchOptions.args, '--js-flags=--expose-gc'] })
const page = await pageWithoutHints(browser)
const troubles: string[] = []
page.on(
  'console',
  (message) => message.type() === 'error' && !onPurpose.test(message.location().url) && troubles.push(message.text()),
)
page.on('pageerror', (error) => troubles.push(error.message))
/** Every session of the origin that the page has opened: its ledger knows which responses are not over. */
const sessions: string[] = []
page.on('response', (reply) => {
  if (!reply.url().endsWith('/api/origin/sessions') || reply.request().method() !== 'POST') return
  reply.json().then(
    ({ id }: { id: string }) => sessions.push(id),
    (error: unknown) => troubles.push(String(error)),
  )
})

let draws = 0
const chance = () => draw(seed, 'gesture', draws++)
const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object
const faulty = {
  ...demo,
  network: {
    downKbps: 8000,
    rttMs: 40,
    faults: ['status', 'stall', 'truncate', 'broken', 'empty', 'redirect-loop'].map((kind) => ({
      match: '*/tiles/*',
      kind,
      status: 503,
      rate: 0.04,
      afterBytes: 2000,
    })),
  },
  loading: { timeoutMs: 1500 },
}

await page.goto(`${server.address}drive`)
await page.getByLabel('Project file').setInputFiles({
  name: 'soak.tiletug.json',
  mimeType: 'application/json',
  buffer: Buffer.from(JSON.stringify(faulty)),
})
await page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(4).waitFor()
const cdp = await page.context().newCDPSession(page)
await drive(page, 20_000)
const before = await held(cdp)
console.log(`after a warm-up: ${summary(before)}`)
const end = Date.now() + minutes * 60_000
while (Date.now() < end) {
  await drive(page, Math.min(60_000, end - Date.now()))
  console.log(`${((end - Date.now()) / 60_000).toFixed(1)} min left: ${summary(await held(cdp))}`)
}
const after = await held(cdp)
const grown = after.heapMb - before.heapMb
const fine = grown <= spareMb && after.nodes <= before.nodes * 1.5 && after.open === 0 && troubles.length === 0
console.log(
  `${summary(after)}; ${grown.toFixed(1)} MB more than at the beginning, ${troubles.length} errors on the console${troubles.length > 0 ? `: ${troubles.slice(0, 3).join('; ')}` : ''}. ${fine ? 'It ends where it began.' : 'It does NOT end where it began.'}`,
)
await browser.close()
await server.close()
process.exit(fine ? 0 : 1)

/** Scrolls, jumps, edits and loads at random on the live device. */
async function drive(on: Page, ms: number): Promise<void> {
  const until = Date.now() + ms
  await on.locator('.tt-glass').focus()
  while (Date.now() < until) {
    const what = chance()
    if (what < 0.55) await on.keyboard.press(chance() < 0.7 ? 'PageDown' : 'PageUp')
    else if (what < 0.9) await fling(on)
    else if (what < 0.95) await on.keyboard.press('r')
    else await on.getByRole('button', { name: 'Load what is on screen again' }).click()
    await on.waitForTimeout(120 + 400 * chance())
  }
  await on.waitForTimeout(4000)
}

async function fling(on: Page): Promise<void> {
  const glass = (await on.locator('.tt-glass').boundingBox())!
  const [x, y] = [glass.x + glass.width / 2, glass.y + glass.height / 2]
  const by = (chance() - 0.35) * 40
  await on.mouse.move(x, y)
  await on.mouse.down()
  for (let i = 1; i <= 6; i++) await on.mouse.move(x, y - by * i)
  await on.mouse.up()
}

interface Held {
  heapMb: number
  nodes: number
  /** Responses that the origin still writes. */
  open: number
}

/** What the page holds after a forced collection. */
async function held(session: CDPSession): Promise<Held> {
  await session.send('HeapProfiler.collectGarbage')
  await session.send('Performance.enable')
  const { metrics } = await session.send('Performance.getMetrics')
  const value = (name: string) => metrics.find((each) => each.name === name)?.value ?? 0
  let open = 0
  for (const id of sessions) {
    const { responses } = (await (await fetch(`${server.address}api/origin/sessions/${id}/ledger`)).json()) as {
      responses: { endMs: number | null }[]
    }
    open += responses.filter(({ endMs }) => endMs === null).length
  }
  return { heapMb: value('JSHeapUsedSize') / 1e6, nodes: value('Nodes'), open }
}

function summary({ heapMb, nodes, open }: Held): string {
  return `${heapMb.toFixed(1)} MB of heap, ${nodes} nodes, ${open} requests open`
}
