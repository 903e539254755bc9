import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { readFile } from 'node:fs/promises'
import { EventSender } from '../../src/cli/demo-app/event-sender.ts'
import { phone, PhoneApp } from '../../src/cli/demo-app/phone-app.ts'
import { importRun } from '../../src/core/evidence/import-run.ts'
import { simulate as simulateProject } from '../../src/core/simulate/simulate.ts'
import { eventsText, filledProject, harText, profileRun, readHar } from '../support/evidence.ts'
import { launchOptions } from '../support/launch.ts'
import type { Request } from '@playwright/test'
import { expect, keptRuns, openShell, openWith, test } from './fixture.ts'

test('a stranger records the demo app, sees the map grow over a reload, and opens a finding', async ({ page }) => {
  // On so slow a link there is something to find, even when a busy machine moves the list late.
  const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object
  await openWith(page, '/drive', { ...demo, network: { rttMs: 60, downKbps: 1000 } })
  // Made beforehand: how fast this machine makes them would decide how fast the link seems to be.
  const pictures = Array.from({ length: 30 }, (_, n) => `/tiles/${n}?width=360&as=webp`)
  const other = await page.evaluate(async () => {
    const order = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{"upstream":"origin"}' }
    return (await (await fetch('/api/recordings', order)).json()) as { base: string }
  })
  for (const picture of pictures) await (await fetch(other.base + picture)).arrayBuffer()
  let clicks = 0
  const click = async (name: string) => {
    clicks++
    await page.getByRole('button', { name, exact: true }).click()
  }
  await click('recorded')
  await click('● Record the real app')
  await expect(page.locator('.tt-address')).toHaveCount(2)
  const [base, events] = await page.locator('.tt-address').allTextContents()
  const addresses = pictures.map((picture) => base! + picture)
  const now = () => performance.now() + 500_000
  const sender = new EventSender(events!, { app: 'Demo app', ...phone }, now)
  const letGo = events!.replace(/events$/, 'let-go')
  const app = new PhoneApp({ base: base!, letGo, addresses, seed: 1, cancels: 'never', now }, sender)
  const running = app.run()
  const state = page.getByRole('status').filter({ hasText: 'pictures' })
  await expect(page.getByRole('img', { name: /^pictures: \d+ events/ })).toBeVisible()
  await expect(page.getByRole('img', { name: /^app events: \d+ events/ })).toBeVisible()
  await expect(page.locator('.tt-recorded-map canvas')).toBeVisible()
  // Losing the page loses nothing: the recording goes on, and so does the view of it.
  await page.reload()
  await expect(state).toContainText('clock ±')
  await page.getByRole('button', { name: 'Mark now' }).click()
  const counts = await running
  await expect(state).toContainText(`${counts.requests} pictures, 0 cut off, ${(counts.bytes / 1e6).toFixed(2)} MB`)
  await click('■ End and keep')
  await expect(page.getByRole('heading', { name: /^Run \d+ · recorded/ })).toBeVisible()
  const [run] = await keptRuns(page)
  expect([run!.metrics['bytes.received'], run!.metrics['requests.total']]).toEqual([counts.bytes, counts.requests])
  // Which findings there are depends on the machine here; in virtual time not cancelling is the first
  // (recordings.test.ts).
  const finding = page.getByRole('article').filter({ hasText: 'Proof is simulated' }).first()
  clicks++
  await finding.getByRole('button', { name: /^(fixed run|that visit)$/ }).click()
  expect(clicks).toBeLessThanOrEqual(6)
})

test('files that an app left behind become a run: known by content, shifted, mapped by hand, and what they do not hold is said', async ({
  page,
}) => {
  await openShell(page, '/drive?run=recorded')
  const original = profileRun(simulateProject(filledProject({}).project).log)
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })
  const picker = page.getByLabel('Evidence files')
  await picker.setInputFiles([file('run.har', harText(original)), file('odd.txt', 'a=0.5 b=7\na=0.6 b=9\n')])
  await expect(page.getByText('requests (HAR) ·')).toBeVisible()
  await expect(page.locator('[data-metric="bytes.wastedShare"]')).toHaveCount(0)
  await expect(page.getByText(': record bind events with the address that each cell was given')).not.toHaveCount(0)
  // A file of no known kind is read as the user says.
  const odd = page.getByRole('group', { name: 'odd.txt could not be read' })
  await expect(odd.getByRole('alert')).toContainText('log lines need a pattern')
  await odd.getByRole('combobox', { name: 'event', exact: true }).selectOption('memory')
  await odd.getByLabel('0.5 is', { exact: true }).selectOption('a time')
  await odd.getByLabel('7 is', { exact: true }).selectOption('bytes')
  await odd.getByRole('button', { name: 'Add the pattern' }).click()
  // The mapping is kept, and reads the next file of its kind by one click.
  await odd.getByLabel('A name for this mapping').fill('our memory line')
  await page.keyboard.press('Enter')
  await expect(odd.getByRole('button', { name: 'our memory line', exact: true })).toBeVisible()
  await page.reload()
  await picker.setInputFiles([file('run.har', harText(original)), file('odd.txt', 'a=0.5 b=7\na=0.6 b=9\n')])
  await odd.getByRole('button', { name: 'our memory line', exact: true }).click()
  await expect(page.getByText('log lines · 2')).toBeVisible()
  await page.getByRole('button', { name: 'Remove odd.txt' }).click()
  await picker.setInputFiles([
    file('app.ndjson', eventsText(original.facts.log)),
    file('mem.csv', 'time_ms,memory_mb\n10,90\n500,140.5\n'),
  ])
  await expect(page.locator('[data-metric="memory.peakMb"]')).toHaveText('141')
  const shift = page.getByLabel('Shift of mem.csv, ms')
  await shift.fill('-240')
  await shift.press('Enter')
  await expect(page.getByText(/^memory · 2 · 0\.00–0\.49 s/)).toBeVisible()
  // Two events that are one: the second of memory with the first of the app.
  const bar = (name: string) => page.getByRole('img', { name: new RegExp(`^${name.replace('.', '\\.')}: \\d+ events`) })
  await bar('app.ndjson').focus()
  await page.keyboard.press('ArrowRight')
  await bar('mem.csv').focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  const matched = await page.locator('.tt-match').innerText()
  const [first, second] = ['app\\.ndjson', 'mem\\.csv'].map((name) =>
    Number(new RegExp(`${name} at ([\\d.]+) s`).exec(matched)![1]),
  )
  expect(second).toBeCloseTo(0.49, 2)
  await page.getByRole('button', { name: /^They are one: shift mem\.csv by/ }).click()
  await expect.poll(async () => Number(await shift.inputValue())).toBeCloseTo(-240 + 1000 * (first! - second!), 0)
  await page.getByText('Readings, typed in').click()
  await page.getByLabel('memory after a collection, MB').fill('77,5')
  await page.getByLabel('memory after a collection, MB').blur()
  await expect(page.getByText('typed in · 1')).toBeVisible()
  await page.getByText(/^The bench fitted to it: \d+ values; its simulation has/).click()
  await expect(page.getByRole('rowheader', { name: 'Round trip' })).toBeVisible()
  // The fit is shown against the recorded values; the gesture over the evidence, with its uncertainty.
  expect(await page.locator('.tt-fit-mark').count()).toBeGreaterThan(2)
  const chart = page.getByRole('img', { name: /^The gesture recovered from scrolls/ })
  const lines = await chart
    .locator('polyline')
    .evaluateAll((all) =>
      all.map((line) => (line.getAttribute('points') ?? '').split(' ').map((point) => point.split(',').map(Number))),
    )
  const [recorded, recovered] = lines.map((line) => Math.max(...line.map(([, y]) => y!)))
  expect(Math.abs(recorded! - recovered!)).toBeLessThan(2)
  await page.getByRole('button', { name: 'Take network, device and gesture into the project' }).click()
  await expect(page.getByText('The project is driven in the recorded world now')).toBeVisible()
  await page.getByRole('button', { name: 'Keep as a run' }).click()
  await expect(page.getByRole('heading', { name: /^Run 1 · recorded/ })).toBeVisible()
  const [run] = await keptRuns(page)
  for (const id of ['bytes.received', 'bytes.wastedShare', 'requests.total', 'pictures.waitP50'] as const)
    expect(run!.metrics[id]).toBeCloseTo(original.metrics[id]!, 6)
  expect([run!.metrics['memory.afterCollectMb'], run!.metrics['decode.pixelRatio']]).toEqual([77.5, null])
  // Files cannot decide every check: those have no tick, and are counted apart.
  await page.getByRole('button', { name: /^\d+ checks? hold.* not decided$/ }).click()
  const marks = page.getByRole('region', { name: 'Checks' }).locator('li > span')
  const open = run!.checks.filter(({ ok }) => ok === null).length
  expect(open).toBeGreaterThan(0)
  await expect(marks.filter({ hasText: /^–$/ })).toHaveCount(open)
  await expect(marks.filter({ hasText: /^✓$/ })).toHaveCount(run!.checks.filter(({ ok }) => ok).length)
})

test('an archive that a real browser has written equals what its page counted', async ({ playwright }, info) => {
  const { server, origin, ends } = await oddHost()
  const browser = await playwright.chromium.launch(launchOptions)
  try {
    const path = info.outputPath('real.har')
    const context = await browser.newContext({ recordHar: { path, mode: 'full', content: 'omit' } })
    const page = await context.newPage()
    // An exchange is in the archive as it ended only once the browser has reported its end, which may be after the page
    // knows.
    const going = new Set<Request>()
    page.on('request', (request) => going.add(request))
    for (const end of ['requestfinished', 'requestfailed'] as const)
      page.on(end as 'requestfinished', (request) => going.delete(request))
    await page.goto(`${origin}/`)
    const counted = await page.evaluate(askAll)
    await ends
    await expect.poll(() => going.size).toBe(0)
    await context.close()
    const source = readHar(await readFile(path, 'utf8'))
    const { metrics, facts } = profileRun(importRun([source], new Map(), { project: 'x', screen: 'x' }).log)
    expect(counted.whole).toBeGreaterThan(0)
    expect(facts.transfers.filter(({ end }) => end === 'complete').length).toBe(counted.whole)
    expect(facts.transfers.filter(({ end }) => end === 'cut').length).toBe(counted.aborted)
    expect(facts.transfers.filter(({ end }) => end === 'failed').length).toBe(counted.failed)
    const { bytes } = facts.transfers.reduce(
      (sum, transfer) => ({ bytes: sum.bytes + (transfer.end === 'complete' ? transfer.bytes : 0) }),
      { bytes: 0 },
    )
    // This browser counts the frames of chunks with a body: two of 5,000 bytes, and the last.
    const framing = 2 * '1388\r\n\r\n'.length + '0\r\n\r\n'.length
    expect(bytes).toBe(counted.bytes + framing)
    expect(metrics['bytes.wastedShare']).toBeNull()
  } finally {
    await browser.close()
    server.closeAllConnections()
    server.close()
  }
})

/** Asks for pictures in every way in which an exchange can end; counts what came. Runs in the page. */
async function askAll() {
  const counted = { whole: 0, aborted: 0, failed: 0, bytes: 0 }
  const ask = async (path: string, more: RequestInit = {}) => {
    try {
      const answer = await fetch(path, { cache: 'no-store', ...more })
      const { byteLength } = await answer.arrayBuffer()
      if (!answer.ok) counted.failed++
      else {
        counted.whole++
        counted.bytes += byteLength
      }
    } catch (error) {
      if ((error as Error).name === 'AbortError') counted.aborted++
      else counted.failed++
    }
  }
  await ask('/p/whole.png')
  await ask('/p/chunked.png')
  await ask('/go/moved.png')
  await ask('/p/missing.png')
  await ask('/p/broken.png')
  const before = new AbortController()
  const silent = ask('/p/silent.png', { signal: before.signal })
  await fetch('/told/silent')
  before.abort()
  await silent
  const within = new AbortController()
  const slow = fetch('/p/slow.png', { cache: 'no-store', signal: within.signal }).then(async ({ body }) => {
    const reader = body!.getReader()
    await reader.read()
    within.abort()
    await reader.read()
  })
  await slow.catch(() => counted.aborted++)
  return counted
}

/** A host that answers whole, in chunks, elsewhere, not at all, half, and never. */
async function oddHost(): Promise<{ server: Server; origin: string; ends: Promise<void> }> {
  const picture = Buffer.alloc(5000, 7)
  let asked: () => void
  const silentAsked = new Promise<void>((resolve) => (asked = resolve))
  let ended: () => void
  const ends = new Promise<void>((resolve) => (ended = resolve))
  const server = createServer((req, res) => {
    const png = { 'content-type': 'image/png' }
    switch (req.url) {
      case '/':
        return void res.writeHead(200, { 'content-type': 'text/html' }).end('<title>odd</title>')
      case '/p/whole.png':
        return void res.writeHead(200, { ...png, 'content-length': '5000' }).end(picture)
      case '/p/chunked.png':
        res.writeHead(200, png)
        res.write(picture)
        return void res.end(picture)
      case '/go/moved.png':
        return void res.writeHead(302, { location: '/p/whole.png' }).end()
      case '/p/missing.png':
        return void res.writeHead(404, { ...png, 'content-length': '3' }).end('no!')
      case '/p/broken.png':
        return void req.socket.destroy()
      case '/p/silent.png':
        return asked()
      case '/told/silent':
        return void silentAsked.then(() => res.writeHead(200, { 'content-type': 'text/plain' }).end('asked'))
      case '/p/slow.png':
        res.writeHead(200, { ...png, 'content-length': '50000' })
        res.write(picture)
        res.on('close', ended)
        return
      default:
        res.writeHead(404, { 'content-type': 'text/html' }).end('nothing')
    }
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return { server, origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, ends }
}
