import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, type BrowserContext, type Page, type Response } from '@playwright/test'
import { fillStorage } from '../support/chaos.ts'
import { storedIn } from '../support/stored.ts'
import { freePorts, serverAt, ServerProcess } from '../support/servers.ts'
import {
  driveLive,
  expect,
  keptRuns,
  openApp,
  openProject,
  openShell,
  openWith,
  pickProject,
  simulate,
  test,
  withGesture,
  keptRunCount,
} from './fixture.ts'
import { launchOptions } from '../support/launch.ts'

const demo = await readFile('demo/saltmarsh.tiletug.json', 'utf8')
const demoFile = JSON.parse(demo) as Record<string, unknown>
const short = withGesture({ ...demoFile, name: 'Short' }, [
  { do: 'wait', ms: 600 },
  { do: 'flick', dpPerS: 2500 },
])
const settled = (page: Page) => page.locator('.tt-glass .tt-slot[data-stage="settled"]')
const storedProjects = (page: Page) =>
  storedIn<{ id: string; name: string; rev: number; raw: { seed?: number; name: string } }>(page, 'projects')

/** A browser whose profile outlives it, as a person's does. */
async function withProfile(use: (open: () => Promise<BrowserContext>) => Promise<void>): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'tug-profile-'))
  const { executablePath, args } = launchOptions
  try {
    await use(() =>
      chromium.launchPersistentContext(folder, {
        executablePath: executablePath!,
        args: args!,
        viewport: { width: 1280, height: 800 },
      }),
    )
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

test('the same browser, another day: after each restart of the server, with other extra ports, pictures load', async () => {
  const [port, ...rest] = await freePorts(1 + 3 * 11)
  await withProfile(async (open) => {
    for (let day = 0; day < 3; day++) {
      const server = await serverAt(port!, rest.slice(11 * day, 11 * (day + 1)))
      const context = await open()
      const page = context.pages()[0] ?? (await context.newPage())
      await page.goto(server.address)
      await expect(settled(page).nth(2)).toBeVisible()
      await expect(page.locator('.tt-trouble')).toHaveCount(0)
      await context.close()
      await server.close()
    }
  })
})

test('a page that stays open while the server restarts goes on by itself, on other ports, in a session of its own', async ({
  page,
}) => {
  const [port, ...rest] = await freePorts(23)
  const first = await serverAt(port!, rest.slice(0, 11))
  await page.goto(first.address)
  await expect(settled(page).nth(2)).toBeVisible()
  await first.close()
  // The browser itself reports what it could not reach.
  page.removeAllListeners('console')
  const glass = page.locator('.tt-glass')
  await glass.focus()
  // While the server is away the rows that come up cannot have their pictures.
  for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown')
  await expect(glass.locator('.tt-slot[data-stage="failed"]').first()).toBeVisible()
  // What needs no server goes on: a project file is opened, and simulated.
  await openProject(page, short)
  await simulate(page)
  const second = await serverAt(port!, rest.slice(11))
  // Without any action, what is on screen is requested again. Some addresses of the demo are wrong on purpose.
  await expect.poll(() => settled(page).count()).toBeGreaterThan(12)
  const run = await driveLive(page)
  expect(run.metrics['pictures.exposures']!).toBeGreaterThan(20)
  expect(run.metrics['bytes.shown']!).toBeGreaterThan(0)
  await second.close()
})

test('a session that the server has forgotten is opened again without a word, and a drive is kept when it cannot say what it wrote', async ({
  page,
}) => {
  const sessions: string[] = []
  page.on('response', (reply) => {
    if (reply.url().endsWith('/api/origin/sessions')) sessions.push(reply.url())
  })
  await openWith(page, '/loading', short)
  await expect(settled(page).nth(2)).toBeVisible()
  const opened = sessions.length
  // The server answers for the present session what it answers for one that it does not have.
  let lost = 0
  await page.route(/\/origin\/[^/]+\/tiles\//, async (route) => {
    if (sessions.length > opened) return route.continue()
    lost++
    await route.fulfill({
      status: 404,
      headers: {
        'Tile-Tug-Session': 'lost',
        'Access-Control-Allow-Origin': new URL(page.url()).origin,
        'Access-Control-Expose-Headers': 'Tile-Tug-Session',
        'Cross-Origin-Resource-Policy': 'cross-origin',
      },
      body: '{}',
    })
  })
  await page.locator('.tt-glass').focus()
  for (let i = 0; i < 4; i++) await page.keyboard.press('PageDown')
  await expect.poll(() => sessions.length).toBe(opened + 1)
  await expect(settled(page).nth(2)).toBeVisible()
  expect(lost).toBeGreaterThan(0)
  await expect(page.locator('.tt-trouble')).toHaveCount(0)
  // A drive begins with a session of its own, which the server has.
  page.removeAllListeners('console')
  await page.route('**/ledger', (route) => route.fulfill({ status: 500, body: '' }))
  const run = await driveLive(page)
  expect(run.metrics['bytes.received']!).toBeGreaterThan(0)
  expect(run.metrics['ledger.gapShare']).toBeNull()
  await page.keyboard.press('5')
  await expect(page.getByText('origin’s ledger not observed')).toBeAttached()
})

for (const [how, broken] of [
  ['is refused', "indexedDB.open = () => { throw new DOMException('not here', 'SecurityError') }"],
  [
    'fails',
    'const open = indexedDB.open.bind(indexedDB); indexedDB.open = () => { const request = open("tug-broken", 1); Object.defineProperty(request, "onsuccess", { set() {} }); setTimeout(() => request.onerror?.(new Event("error"))); return request }',
  ],
  ['never answers', 'indexedDB.open = () => new EventTarget()'],
] as const)
  test(`storage that ${how}: the app works for the session, says so, and tries again`, async ({ page }) => {
    // What is broken is fixed when the page says so.
    await page.addInitScript(
      `const real = indexedDB.open; ${broken.replaceAll('indexedDB.open =', 'IDBFactory.prototype.open =')}; window.fix = () => { IDBFactory.prototype.open = real; sessionStorage.fixed = 1 }; if (sessionStorage.fixed) window.fix()`,
    )
    await page.goto('/')
    const notice = page.getByText('storage cannot be used')
    await expect(notice).toBeVisible()
    await expect(settled(page).nth(2)).toBeVisible()
    // What was made meanwhile is kept then: one case is enough, since how storage fails makes no difference any more.
    const made = how === 'never answers'
    if (made) {
      await page.getByRole('button', { name: 'Simulate', exact: true }).click()
      await page.keyboard.press('5')
      await expect(page.getByRole('heading', { name: /^Run 1 ·/ })).toBeVisible()
    }
    await page.evaluate('window.fix()')
    await page.getByRole('button', { name: 'Try storage again' }).click()
    await expect(notice).toHaveCount(0)
    await expect.poll(async () => (await storedProjects(page)).length).toBe(1)
    if (!made) return
    await expect.poll(() => keptRunCount(page)).toBe(1)
    await page.reload()
    await expect(page.getByRole('heading', { name: /^Run 1 ·/ })).toBeVisible()
  })

test('an older version in another tab that does not let go is named, and once it is closed storage is used', async ({
  page,
  context,
}) => {
  const other = await context.newPage()
  await other.goto('/favicon.svg')
  await other.evaluate(async () => {
    const open = indexedDB.open('tile-tug', 10)
    open.onupgradeneeded = () => open.result.createObjectStore('old')
    await new Promise((resolve) => (open.onsuccess = resolve))
    Object.assign(window, { held: open.result })
  })
  await page.bringToFront()
  await page.goto('/')
  await expect(page.getByText('another tab has an older version of Tile Tug open')).toBeVisible()
  await expect(settled(page).nth(2)).toBeVisible()
  await other.close()
  await expect(page.getByText('storage cannot be used')).toHaveCount(0)
})

test('a newer version in another tab is given the database at once, and this tab asks to be reloaded', async ({
  page,
  context,
}) => {
  await openWith(page, '/loading', short)
  const other = await context.newPage()
  await other.goto('/favicon.svg')
  const opened = other.evaluate(
    () => new Promise((resolve) => (indexedDB.open('tile-tug', 9990).onsuccess = () => resolve('open'))),
  )
  await page.bringToFront()
  await expect(page.getByText('A newer version of Tile Tug has been opened in another tab')).toBeVisible()
  expect(await opened).toBe('open')
})

test('a step that could not be loaded is loaded when it can be; of a newer build the page is told to reload', async ({
  page,
}) => {
  const chunk = /assets\/ProfileStep-/
  // The browser itself reports a script that it could not get.
  page.removeAllListeners('console')
  // From the beginning: steps are fetched ahead while the page is idle.
  await page.route(chunk, (route) => route.abort())
  await openApp(page)
  await page.keyboard.press('5')
  await expect(page.getByRole('heading', { name: 'Profile could not be loaded' })).toBeVisible()
  await page.route('**/', (route) =>
    route.fulfill({ contentType: 'text/html', body: '<script src="/other.js"></script>' }),
  )
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByText('The app on the server is a newer one than this page')).toBeVisible()
  await page.unroute('**/')
  await page.unroute(chunk)
  await page.getByRole('button', { name: 'Reload the page' }).click()
  await expect(page.getByText('There is no run yet.')).toBeVisible()
})

test('a change is kept when the page is left a moment later, and one undo history has changes and deletes', async ({
  page,
}) => {
  await openWith(page, '/loading', short)
  await page.keyboard.press('4')
  await page.getByRole('button', { name: '+ turn' }).click()
  await page.goto('/profile')
  const stored = async () => JSON.stringify((await storedProjects(page)).find(({ name }) => name === 'Short')!.raw)
  await expect.poll(stored).toContain('rotate')
  // Runs are deleted, the last one and the only one among them; each comes back, after a look elsewhere too.
  const count = 3
  for (let i = 0; i < count; i++) await simulate(page)
  const runs = page.getByRole('region', { name: 'Runs' })
  await expect(runs.getByRole('row')).toHaveCount(count + 1)
  for (let left = count; left > 0; left--) {
    await runs
      .getByRole('button', { name: /^Delete run/ })
      .first()
      .click()
    await expect.poll(() => keptRunCount(page)).toBe(left - 1)
  }
  await expect(page.getByText('There is no run yet.')).toBeVisible()
  await page.keyboard.press('3')
  await page.keyboard.press('5')
  for (let back = 1; back <= count; back++) {
    await page.locator('body').press('Control+z')
    await expect.poll(() => keptRunCount(page)).toBe(back)
  }
  await page.locator('body').press('Control+Shift+z')
  await expect.poll(() => keptRunCount(page)).toBe(count - 1)
})

test('all projects are listed and searched; made, renamed, duplicated, deleted with undo; screens too', async ({
  page,
}) => {
  await openWith(page, '/loading', { ...short, name: 'Number 0' })
  for (let i = 1; i < 14; i++) await openProject(page, { ...short, name: `Number ${i}` })
  const menu = page.locator('#project-menu')
  const all = async () => {
    await menu.click()
    await page.getByRole('button', { name: 'All projects…' }).click()
  }
  await all()
  const dialog = page.getByRole('dialog')
  // Fourteen, and the demo.
  await expect(dialog.getByRole('row')).toHaveCount(16)
  await dialog.getByRole('searchbox', { name: 'Search projects' }).fill('number 0')
  await expect(dialog.getByRole('row')).toHaveCount(2)
  await expect(dialog.getByRole('row').nth(1)).toContainText(/\d+ kB/)
  await dialog.getByRole('button', { name: 'Rename Number 0' }).click()
  await dialog.getByRole('textbox', { name: 'Name of Number 0' }).fill('The first')
  await page.keyboard.press('Enter')
  await dialog.getByRole('searchbox', { name: 'Search projects' }).fill('first')
  await dialog.getByRole('button', { name: 'Duplicate The first' }).click()
  await expect(dialog.getByRole('row')).toHaveCount(3)
  await expect(menu).toHaveText('The first (copy)')
  await dialog.getByRole('button', { name: 'Delete The first (copy)' }).click()
  await expect(dialog.getByRole('row')).toHaveCount(2)
  await dialog.getByRole('button', { name: 'Close' }).click()
  await expect(menu).not.toHaveText('The first (copy)')
  await page.getByRole('alert').or(page.getByRole('status')).getByRole('button', { name: 'Undo' }).click()
  await expect(menu).toHaveText('The first (copy)')
  await menu.click()
  await page.getByRole('button', { name: 'New empty project' }).click()
  await expect(menu).toHaveText('New project')
  const screens = page.locator('#screens')
  await expect(screens).toHaveText('List')
  await screens.click()
  await page.getByRole('button', { name: 'Add a screen' }).click()
  await expect(screens).toHaveText('Screen 2')
  await screens.click()
  await page.getByRole('button', { name: 'Rename “Screen 2”…' }).click()
  await page.getByRole('textbox', { name: 'Screen name' }).fill('Details')
  await page.getByRole('button', { name: 'Rename', exact: true }).click()
  await screens.click()
  await page.getByRole('button', { name: 'Duplicate “Details”' }).click()
  await expect(screens).toHaveText('Details (copy)')
  await screens.click()
  await page.getByRole('button', { name: 'Remove “Details (copy)”' }).click()
  await expect(screens).toHaveText('Details')
  // Another project begins at its first screen; back in the one before, the device shows what it showed there.
  await openProject(page, { ...short, name: 'Beside' })
  await expect(screens).toHaveText('Tile wall')
  await menu.click()
  await page.getByRole('button', { name: /^New project / }).click()
  await expect(screens).toHaveText('Details')
})

test('each tab keeps the project of its address; a copy keeps the runs and says so', async ({ page, context }) => {
  await openWith(page, '/loading', { ...short, name: 'Mine' })
  await simulate(page)
  const mine = page.url()
  const other = await context.newPage()
  await other.goto('/loading')
  await openProject(other, { ...short, name: 'Other' })
  await other.reload()
  await page.reload()
  await expect(page.locator('#project-menu')).toHaveText('Mine')
  await expect(other.locator('#project-menu')).toHaveText('Other')
  // The other tab opens mine too, and both change it.
  await other.goto(mine)
  await expect(other.locator('#project-menu')).toHaveText('Mine')
  await other.keyboard.press('4')
  await other.getByRole('button', { name: '+ turn' }).click()
  await expect(other.getByText('Saved in this browser')).toBeVisible()
  await page.keyboard.press('4')
  await page.locator('#screens').click()
  await page.getByRole('button', { name: 'Makers', exact: true }).click()
  await page.getByRole('button', { name: '+ no network' }).click()
  await expect(page.getByText('continues as a copy')).toBeVisible()
  // It continues where it was: on the same screen, too.
  await expect(page.locator('#screens')).toHaveText('Makers')
  await expect(page.locator('#project-menu')).toHaveText('Mine (copy of this tab)')
  await expect.poll(() => keptRunCount(page)).toBe(2)
  await page.keyboard.press('5')
  await expect(page.getByRole('heading', { name: /^Run 1 ·/ })).toBeVisible()
  // What is later added to the original can be compared with it.
  await other.getByRole('button', { name: 'Simulate', exact: true }).click()
  await page.keyboard.press('6')
  await expect(page.getByLabel('Run A').getByText(/original: run 2/)).toBeAttached()
})

test('without room everything stays in the tab, it says what can be freed, and it is kept when there is room', async ({
  page,
}) => {
  const browser = await page.context().newCDPSession(page)
  await page.goto('/favicon.svg')
  await browser.send('Storage.overrideQuotaForOrigin', { origin: new URL(page.url()).origin, quotaSize: 4_000_000 })
  await openWith(page, '/loading', short)
  await simulate(page)
  const full = page.getByText('This browser has no room left')
  /** Until it cannot be saved: what the database tidies up meanwhile can make room again. */
  const withoutRoom = async (act: () => Promise<void>, unsaved: RegExp) =>
    expect(async () => {
      await fillStorage(page)
      await act()
      await expect(full).toContainText(unsaved, { timeout: 3000 })
    }).toPass()
  await withoutRoom(() => page.getByRole('button', { name: 'Simulate', exact: true }).click(), /run \d/)
  const [run] = /run \d+/.exec((await full.textContent())!)!
  await page.keyboard.press('5')
  await expect(page.getByRole('heading', { name: new RegExp(`^${run} ·`, 'i') })).toBeVisible()
  await withoutRoom(async () => {
    await pickProject(page, { ...short, name: 'No room' })
    await expect(page.locator('#project-menu')).toHaveText('No room')
  }, /the project “No room”/)
  await page.evaluate(() => indexedDB.deleteDatabase('filler'))
  await expect(full).toHaveCount(0)
  expect((await keptRuns(page)).map(({ number }) => `run ${number}`)).toContain(run)
  expect((await storedProjects(page)).map(({ name }) => name)).toContain('No room')
})

test('Cancel ends a drive at once, with one run, whatever the server does; a page in a drive asks before it goes', async ({
  page,
}) => {
  const [port] = await freePorts(1)
  const server = new ServerProcess(port!)
  await server.start()
  page.removeAllListeners('console')
  // What is settled may still be the hand's list: a drive has begun when a picture of its own session has come.
  const sessionOf = (response: Response) => /\/origin\/([^/~]+)[^/]*\/tiles\//.exec(response.url())?.[1]
  const before = new Set<string | undefined>([undefined])
  const note = (response: Response) => before.add(sessionOf(response))
  page.on('response', note)
  try {
    // Long enough that it is cancelled before its end, however late this process looks.
    const { steps } = short.scripts[0]!
    await openWith(page, server.address, withGesture(short, [...steps, { do: 'wait', ms: 60_000 }]))
    await expect(settled(page).nth(2)).toBeVisible()
    const drive = page.getByRole('button', { name: 'Drive live' })
    const cancel = page.getByRole('button', { name: 'Cancel', exact: true })
    page.off('response', note)
    const came = page.waitForResponse((response) => !before.has(sessionOf(response)))
    await drive.click()
    await came
    await expect(settled(page).nth(2)).toBeVisible()
    const asked = page.waitForEvent('dialog')
    const closing = page.close({ runBeforeUnload: true })
    const dialog = await asked
    expect(dialog.type()).toBe('beforeunload')
    await dialog.dismiss()
    await closing
    server.freeze()
    await cancel.click()
    await expect.poll(() => keptRunCount(page)).toBe(1)
    await expect(drive).toBeEnabled()
    // The server does not answer at all: there is nothing of this drive yet.
    await drive.click()
    await cancel.click()
    await expect(page.getByText('The drive was cancelled before the server had answered')).toBeVisible()
    await expect(drive).toBeEnabled()
    server.thaw()
    await expect(settled(page).nth(2)).toBeVisible()
    expect(await keptRunCount(page)).toBe(1)
  } finally {
    await server.stop()
  }
})

test('addresses name what they show: a run, its view and its request; what is not there is said', async ({ page }) => {
  await openWith(page, '/loading', short)
  const [one] = [await simulate(page)]
  await page.getByRole('button', { name: 'Open in Profile' }).click()
  await expect(page).toHaveURL(new RegExp(`/profile/${one.id}$`))
  const two = await simulate(page)
  await expect(page).toHaveURL(new RegExp(`/profile/${two.id}$`))
  const project = page.url().replace(/\/profile.*/, '')
  await page.getByRole('button', { name: 'Ledger' }).click()
  await page.getByRole('button', { name: 'distance' }).click()
  const link = page.url()
  await page.goto('about:blank')
  await page.goto(link)
  await expect(page.getByRole('button', { name: 'Ledger' })).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByRole('button', { name: 'distance' })).toHaveAttribute('aria-pressed', 'true')
  await page.goto(`${project}/profile/${one.id}/1.5`)
  await expect(page.getByText('There is no request “1.5” in run 1')).toBeVisible()
  await page.goto(`${project}/profile/999`)
  await expect(page.getByRole('heading', { name: 'This run is not here' })).toBeVisible()
  await openProject(page, { ...short, name: 'Another' })
  const another = page.url().replace(/\/(loading|profile).*/, '')
  await page.goto(`${another}/profile/${one.id}`)
  await expect(page.getByText('belongs to another project, “Short”')).toBeVisible()
  await page.getByRole('link', { name: 'Open it in “Short”' }).click()
  await expect(page.getByRole('heading', { name: /^Run 1 ·/ })).toBeVisible()
  await page.goto('/p/nobody/loading')
  await expect(page.getByRole('heading', { name: 'This project is not in this browser' })).toBeVisible()
  await page.getByRole('link', { name: 'Another' }).click()
  await expect(page.locator('#project-menu')).toHaveText('Another')
  // Views are left before they are drawn.
  for (const key of '5365153656351') await page.keyboard.press(key)
})

test('a project goes out as a file and comes back the same wherever it is dropped; everything goes out and comes in as one file', async ({
  page,
}) => {
  // Unknown fields are kept.
  const mine = { ...short, name: 'Mine', mine: { kept: true } }
  await openWith(page, '/feed', mine)
  await simulate(page)
  const menu = page.locator('#project-menu')
  await menu.click()
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByText('Save as a file').click()])
  expect(file.suggestedFilename()).toBe('mine.tiletug.json')
  const text = await readFile(await file.path(), 'utf8')
  expect(JSON.parse(text)).toEqual(mine)
  const before = (await menu.getAttribute('data-project'))!
  await dropFile(page, 'any.txt', text)
  await expect(menu).not.toHaveAttribute('data-project', before)
  await menu.click()
  await expect(page.getByRole('button', { name: /^Mine / })).toHaveCount(2)
  await page.keyboard.press('Escape')
  await dropFile(page, 'feed.json', JSON.stringify([{ id: 1, photo: 'tiles/1' }]))
  await expect(page.getByText('1 items of feed.json opened.')).toBeVisible()
  await page.locator('#project-menu').click()
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export everything…' }).click(),
  ])
  const zip = await readFile(await saved.path())
  // Another address of the app is another store.
  const [port] = await freePorts(1)
  const server = await serverAt(port!)
  await openShell(page, server.address)
  await page.getByLabel('Project file').setInputFiles({ name: 'all.zip', mimeType: 'application/zip', buffer: zip })
  await expect(page.getByText('3 projects and 1 run were brought in')).toBeVisible()
  const [run] = await keptRuns(page)
  await page.goto(`${server.address}profile/${run!.id}`)
  await page.getByRole('link', { name: /^Open it in/ }).click()
  await expect(page.getByRole('heading', { name: /^Run 1 ·/ })).toBeVisible()
  await expect(page.getByRole('img', { name: /^Scroll map of/ })).toBeVisible()
  await page
    .getByLabel('Project file')
    .setInputFiles({ name: 'all.zip', mimeType: 'application/zip', buffer: zip.subarray(0, 900) })
  await expect(page.getByText('all.zip was not opened: it is not a zip that can be read')).toBeVisible()
  await page.goto('about:blank')
  await server.close()
})

async function dropFile(page: Page, name: string, text: string): Promise<void> {
  const data = await page.evaluateHandle(
    ([file, content]) => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([content!], file!))
      return transfer
    },
    [name, text],
  )
  await page.locator('.tt-panel').dispatchEvent('drop', { dataTransfer: data })
}
