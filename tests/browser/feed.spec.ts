import { readFile, stat, writeFile } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { hashText } from '../../src/core/numbers/draw.ts'
import { expect, openApp, openProject, simulate, test } from './fixture.ts'
import { storedIn } from '../support/stored.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as object

/** A list that nobody here prepared, from a public package. */
const strange = 'node_modules/node-releases/data/processed/envs.json'
let pictures: Server
let host = ''
/** What pictures' requests have sent to the tests' own host. */
const authorizations = new Set<string>()
/** The third page is refused once when this is set. */
let failOnce = false

/** Each address of the tests' own host is a picture of one colour, worked out from the address. */
const colourOf = (path: string) =>
  [0, 8, 16].map((shift) => (hashText(path) >> shift) & 0xff) as [number, number, number]

test.beforeAll(async () => {
  pictures = createServer((req, res) => {
    if (req.url === '/feed') return void res.writeHead(500).end()
    if (req.url?.startsWith('/pages/')) {
      const page = Number(req.url.slice(7))
      if (page === 3 && failOnce) {
        failOnce = false
        return void res.writeHead(503).end()
      }
      const body = JSON.stringify({
        rows: Array.from({ length: 30 }, (_, i) => ({ sku: `P${page}-${i}`, img: `/by/${page}-${i}.png` })),
        next: page < 3 ? `/pages/${page + 1}` : null,
      })
      return void res.writeHead(200, { 'content-type': 'application/json' }).end(body)
    }
    authorizations.add(req.headers.authorization ?? 'nothing')
    const [r, g, b] = colourOf(req.url!)
    void sharp({ create: { width: 60, height: 60, channels: 3, background: { r, g, b } } })
      .png()
      .toBuffer()
      .then((png) => res.writeHead(200, { 'content-type': 'image/png' }).end(png))
  })
  await new Promise<void>((done) => pictures.listen(0, '127.0.0.1', done))
  host = `pics.tests.example.test:${(pictures.address() as AddressInfo).port}`
})
test.afterAll(
  () =>
    new Promise<void>((done) => {
      pictures.closeAllConnections()
      pictures.close(() => done())
    }),
)

const field = (page: Page, pointer: string) =>
  page.locator('.tt-value').filter({ has: page.locator('.tt-pointer', { hasText: new RegExp(`^${pointer}$`) }) })
const place = (page: Page, name: string) =>
  page.locator('.tt-places').getByRole('button', { name, exact: false }).first()

/** The middle pixel of each visible cell's picture, by the item that it is bound to. */
const middles = (page: Page) =>
  page.locator('.tt-glass .tt-cell[data-index]').evaluateAll((cells) =>
    cells.flatMap((cell) => {
      const canvas = cell.querySelector('canvas')!
      if (canvas.style.visibility === 'hidden') return []
      const { data } = canvas.getContext('2d')!.getImageData(canvas.width >> 1, canvas.height >> 1, 1, 1)
      return [{ index: Number((cell as HTMLElement).dataset.index), colour: [...data.slice(0, 3)] }]
    }),
  )

/**
 * Waits until the device, which begins again at each change, shows pictures, and each cell its own: by their pixels.
 */
async function expectOwnColours(page: Page, addressOf: (index: number) => string): Promise<void> {
  await expect
    .poll(async () => {
      const shown = await middles(page)
      const strangers = shown.filter(({ index, colour }) =>
        colour.some((value, channel) => Math.abs(value - colourOf(addressOf(index))[channel]!) > 2),
      )
      return shown.length > 6 ? strangers : 'too few'
    })
    .toEqual([])
}

test('a feed that nobody prepared is bound by clicks to live pictures', async ({ page }) => {
  await openApp(page, '/feed')
  await page.getByLabel('Feed file').setInputFiles(strange)
  const items = JSON.parse(await readFile(strange, 'utf8')) as { version: string }[]
  await expect(page.getByText(`Item 1 of ${items.length}`)).toBeVisible()
  await expect(field(page, '/version')).toContainText('key')
  // A line of text by click, another by dragging.
  await field(page, '/version').click()
  await place(page, '+ line').click()
  await expect(field(page, '/version')).toContainText('line 1')
  await field(page, '/date').dragTo(place(page, '+ line'))
  await expect(field(page, '/date')).toContainText('line 2')
  await field(page, '/version').click()
  await place(page, 'picture').click()
  await page.getByRole('button', { name: 'at the slot’s size' }).click()
  const template = page.getByLabel('URI template (RFC 6570)')
  await template.fill(`http://${host}/by/{version}.png`)
  await template.press('Enter')
  await expect(page.getByRole('img', { name: `Addresses: ${items.length} cleartext` })).toBeVisible()
  // Refused until the host is allowed.
  await expect(page.locator('.tt-glass .tt-slot[data-stage="failed"]').first()).toBeVisible()
  // The sample is asked for as the app would ask.
  const refused = page.getByText('Its picture is unavailable: the address is cleartext http')
  await expect(refused).toBeVisible()
  const addresses = page.getByRole('region', { name: 'Addresses' })
  const before = await addresses.boundingBox()
  await page.getByRole('button', { name: `allow cleartext for ${host}` }).click()
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(8)).toBeVisible()
  await expect(refused).toHaveCount(0)
  // What is said of the picture comes and goes without moving what someone may be about to click.
  expect((await addresses.boundingBox())!.y).toBe(before!.y)
  await expect(page.locator('.tt-glass .tt-text').first()).toHaveText(items[0]!.version)
  await expectOwnColours(page, (index) => `/by/${items[index]!.version}.png`)
  expect((await simulate(page)).metrics['pictures.exposures']).toBeGreaterThan(10)
  // One step back takes the host's leave away; the feed's own check says so again.
  await page.keyboard.press('Control+z')
  await page.getByRole('button', { name: `allow cleartext for ${host}` }).click()
  await expect(page.getByRole('button', { name: `✓ cleartext allowed for ${host}` })).toBeVisible()

  // A header that the host wants is given by hand: what is typed as its secret is what the host gets.
  expect([...authorizations]).toEqual(['nothing'])
  await page.getByText('Permissions and headers').click()
  await page.getByLabel('Host that wants a header').fill(host.split(':')[0]!)
  await page.keyboard.press('Enter')
  // The list is there again before its secret is.
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(8)).toBeVisible()
  const asked = authorizations.size
  await page.reload()
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(8)).toBeVisible()
  expect(authorizations.size).toBe(asked)
  await page.getByLabel('Secret “').fill('a word of the tests')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /^forget “/ })).toBeVisible()
  await expect.poll(() => [...authorizations]).toEqual(['nothing', 'Bearer a word of the tests'])

  // Without the network nothing comes, and each cell says so; with it everything is there again.
  const network = page.getByRole('button', { name: 'network' })
  await network.click()
  await expect(page.locator('.tt-glass .tt-slot[data-stage="failed"]').nth(4)).toBeVisible()
  await page.locator('.tt-glass .tt-cell[data-index="1"]').hover()
  await expect(page.getByRole('tooltip')).toContainText(
    'Picture unavailable: the app has no permission for the network',
  )
  await network.click()
  await expectOwnColours(page, (index) => `/by/${items[index]!.version}.png`)
})

test('a paged feed at an address comes through the relay, its pictures too', async ({ page }) => {
  let opened = 0
  const given = new Set<string>()
  page.on('requestfinished', (request) => {
    const { pathname } = new URL(request.url())
    if (pathname === '/api/origin/sessions') opened++
    if (request.method() === 'DELETE') given.add(pathname)
  })
  await openApp(page, '/feed')
  await page.getByRole('button', { name: 'Address…' }).click()
  await page.getByLabel('Feed address').fill(`http://${host}/pages/1`)
  await page.keyboard.press('Enter')
  await expect(page.getByText('Item 1 of 90')).toBeVisible()
  await field(page, '/img').click()
  await place(page, 'picture').click()
  await page.getByRole('button', { name: `allow cleartext for ${host}` }).click()
  await expectOwnColours(page, (index) => `/by/1-${index}.png`)
  // Each edit made the list again: the server holds the last one's session, and that of the samples.
  await expect.poll(() => opened - given.size).toBe(2)
  // A page that fails is reported on the device, and comes when it is asked for again.
  failOnce = true
  await page.reload()
  await page.locator('.tt-glass').focus()
  const again = page.getByRole('button', { name: 'Ask again' })
  await expect(async () => {
    await page.keyboard.press('PageDown')
    expect(await again.count()).toBe(1)
  }).toPass()
  await expect(page.locator('.tt-feed-sign[data-is="failed"]')).toContainText('Page 3 failed: ')
  await again.click()
  await expect(page.locator('.tt-feed-sign[data-is="failed"]')).toHaveCount(0)
  // The last page arrives as the list is scrolled towards it.
  await page.locator('.tt-glass').focus()
  await page.locator('.tt-glass').focus()
  await expect(async () => {
    await page.keyboard.press('PageDown')
    expect(await page.locator('.tt-glass .tt-cell[data-index="89"]').count()).toBe(1)
  }).toPass()
})

test('the demo’s feed stays where another cannot be opened, where the list is edited on the device, and until a large one is read', async ({
  page,
}, info) => {
  await openApp(page, '/feed')
  await test.step('what cannot be opened is reported with its place, and the former feed stays', async () => {
    const stays = async (message: RegExp) => {
      await expect(page.getByRole('alert').filter({ hasText: message })).toBeVisible()
      await expect(page.getByText('Item 8 of 2,400')).toBeVisible()
    }
    const file = (name: string, text: string | Buffer) =>
      page.getByLabel('Feed file').setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) })
    await file('broken.json', '[{"id":1},\n{"id":]')
    await stays(/broken\.json was not opened: line 2, column 7/)
    await file('none.json', '{"a":1}')
    await stays(/no list of items was found/)
    await file('latin.csv', Buffer.from([0x69, 0x64, 0x2c, 0xe9, 0x0a, 0x31, 0x2c, 0x32]))
    await stays(/neither UTF-8 nor marked as UTF-16/)
    await page.getByRole('button', { name: 'Address…' }).click()
    for (const [address, message] of [
      [`http://${host}/feed`, /answers with status 500/],
      ['https://elsewhere.example.test/feed', /was not named when the server was started/],
    ] as const) {
      await page.getByLabel('Feed address').fill(address)
      await page.getByRole('button', { name: 'Fetch it' }).click()
      await stays(message)
      await page.getByRole('button', { name: 'Address…' }).click()
    }
    // A key that repeats is reported too.
    await field(page, '/colour').click()
    await place(page, 'key').click()
    await expect(page.getByText(/The key stays as it was\. \/colour: "#/)).toBeVisible()
    await expect(field(page, '/id')).toContainText('key')
  })
  await test.step('edits on the live device keep the place and every unchanged picture', async () => {
    await page.locator('.tt-glass').focus()
    for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown')
    await expect.poll(async () => (await middles(page)).length).toBeGreaterThan(14)
    // Nothing is on its way any more that would change the list by itself.
    for (const stage of ['waiting', 'arriving'])
      await expect(page.locator(`.tt-glass .tt-cell[data-index] .tt-slot[data-stage="${stage}"]`)).toHaveCount(0)
    const look = async () =>
      sharp(await page.locator('.tt-glass').screenshot())
        .removeAlpha()
        .raw()
        .toBuffer()
    /** Pixels that differ by more than the edge of a shape drawn half a px lower does. */
    const moved = (now: Buffer, before: Buffer) =>
      now.reduce((count, value, i) => (Math.abs(value - before[i]!) > 60 ? count + 1 : count), 0)
    await page.getByText('Edits on screen').click()
    await page.locator('.tt-glass').blur()
    await expect.poll(async () => moved(await look(), await look())).toBe(0)
    const before = await look()
    for (const edit of ['Add 3 on top', 'Refresh all']) {
      await page.getByRole('button', { name: edit }).click()
      await page
        .locator('.tt-glass')
        .evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
      expect(moved(await look(), before), edit).toBe(0)
    }
    // The same measure sees a list that moved by one dp.
    await page
      .locator('.tt-glass')
      .evaluate((glass) => (glass.firstElementChild as HTMLElement).style.setProperty('margin-top', '2px'))
    expect(moved(await look(), before)).toBeGreaterThan(500)
  })
  await test.step('a feed of nearly 50 MB opens in the worker with progress, can be cancelled, and the page stays alive', async () => {
    const count = 163_000
    const path = info.outputPath('large.json')
    await writeFile(
      path,
      `[${Array.from({ length: count }, (_, i) => `{"id":${i},"photo":"https://archive.example.test/tiles/${i % 4000}?width=300&height=300","title":"${'A glazed tile from the long room '.repeat(6)}${i}"}`).join(',')}]`,
    )
    expect((await stat(path)).size).toBeGreaterThan(47_000_000)
    // It is read within a second or so: the page itself clicks Cancel as soon as it is there.
    await page.evaluate(() =>
      new MutationObserver((_, observer) => {
        const cancel = [...document.querySelectorAll('.tt-source button')].find(
          (button) => button.textContent === 'Cancel',
        ) as HTMLElement | undefined
        if (!cancel || !document.querySelector('[role="progressbar"][aria-label="Opening the feed"]')) return
        observer.disconnect()
        cancel.click()
        document.body.dataset.cancelled = 'yes'
      }).observe(document.body, { subtree: true, childList: true }),
    )
    await page.getByLabel('Feed file').setInputFiles(path)
    await expect(page.locator('body[data-cancelled]')).toHaveCount(1)
    await expect(page.getByText('Item 8 of 2,400')).toBeVisible()
    /** How often the page came to look while the feed was read: it was never held up for long. */
    const looks = page.evaluate(
      () =>
        new Promise<number>((done) => {
          let count = 0
          const look = () => {
            if (document.querySelector('[role="progressbar"][aria-label="Opening the feed"]')) count++
            if (document.body.innerText.includes('items of large.json opened')) done(count)
            else setTimeout(look, 10)
          }
          look()
        }),
    )
    await page.getByLabel('Feed file').setInputFiles(path)
    await expect(page.getByText(`${count} items of large.json opened`)).toBeVisible()
    expect(await looks).toBeGreaterThan(20)
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(8)).toBeVisible()
  })
})

test('a pasted feed is bound as it proposes; kinds from a field get cells of their own', async ({ page }) => {
  await test.step('a pasted feed is bound as it proposes, without the archive’s rule; what nothing here may ask is reported', async () => {
    await openApp(page, '/feed')
    const paste = async (text: string) => {
      await page.getByRole('button', { name: 'Paste…' }).click()
      await page.getByLabel('Feed text').fill(text)
      await page.getByRole('button', { name: 'Read it' }).click()
    }
    const items = Array.from({ length: 24 }, (_, i) => ({
      sku: `s${i}`,
      cover: { href: `https://archive.example.test/tiles/${i}.jpg`, w: 300, h: 300 },
      headline: `Headline ${i}`,
    }))
    await paste(JSON.stringify(items))
    await expect(page.getByText('Its values look like picture /cover/href, sizes /cover/w and /cover/h')).toBeVisible()
    await page.getByRole('button', { name: 'Bind them' }).click()
    await expect(page.locator('.tt-glass .tt-cell[data-index="0"] .tt-text')).toHaveText('Headline 0')
    await expect(page.getByRole('button', { name: 'the field' })).toHaveAttribute('aria-pressed', 'true')
    for (const bound of ['/cover/href', '/cover/w', '/cover/h', '/headline', '/sku'])
      await expect(page.locator('.tt-place small').getByText(bound, { exact: true })).toBeVisible()
    // One step takes all of it back.
    await page.locator('body').press('Control+z')
    await expect(page.locator('.tt-glass .tt-text')).toHaveCount(0)
    await paste('https://far.example.org/1.jpg\nhttps://far.example.org/2.jpg\n')
    await expect(page.getByText('Item 1 of 2')).toBeVisible()
    await page.getByRole('button', { name: 'Bind them' }).click()
    await expect(page.getByText('TUG_RELAY_HOSTS=far.example.org npm start')).toBeVisible()
  })
  await test.step('kinds from a field get cells of their own, and an item that none fits is reported', async () => {
    await openProject(page, { ...demo, name: 'Kinds' })
    const items = Array.from({ length: 30 }, (_, i) => ({
      id: i,
      group: i === 4 ? 'stray' : ['people', 'posts', 'posts'][i % 3],
      photo: `https://archive.example.test/tiles/${i}`,
      title: `Item ${i}`,
    }))
    await page.getByRole('button', { name: 'Paste…' }).click()
    // Addresses alone make a feed too, one a line.
    await page.getByLabel('Feed text').fill(items.map(({ photo }) => photo).join('\n'))
    await page.getByRole('button', { name: 'Read it' }).click()
    await expect(page.getByText('30 items of pasted opened.')).toBeVisible()
    await page.getByRole('button', { name: 'Paste…' }).click()
    await page.getByLabel('Feed text').fill(JSON.stringify(items))
    await page.getByRole('button', { name: 'Read it' }).click()
    await expect(page.getByText('Item 1 of 30')).toBeVisible()
    await field(page, '/group').click()
    await place(page, 'kind').click()
    await page.getByRole('button', { name: 'give “posts” one (19)' }).click()
    await page.getByRole('button', { name: 'give “people” one (10)' }).click()
    // A new cell is a copy of what the file says: what follows the app's defaults goes on following them.
    interface Written {
      name: string
      raw: { screens: { cells: { kind?: string; slots?: object[] }[] }[] }
    }
    const written = async () => {
      const projects = await storedIn<Written>(page, 'projects')
      return projects
        .find(({ name }) => name === 'Kinds')!
        .raw.screens.flatMap(({ cells }) => cells)
        .filter(({ kind }) => kind === 'posts' || kind === 'people')
        .map(({ slots }) => Object.keys(slots?.[0] ?? {}).length)
    }
    await expect.poll(async () => (await written()).length).toBe(2)
    expect(Math.max(...(await written()))).toBeLessThan(6)
    // The cell for any kind still takes the stray one; a line of text goes to the people's cells alone.
    await field(page, '/title').click()
    await place(page, '+ line').click()
    await expect(page.locator('.tt-glass .tt-cell[data-index="0"] .tt-text')).toHaveText('Item 0')
    await expect(page.locator('.tt-glass .tt-cell[data-index="1"] .tt-text')).toHaveCount(0)
    await expect(page.locator('.tt-glass .tt-cell[data-index="4"]')).toHaveCount(1)
    // Cell opens on the kind of the sample, whichever stands first in the file.
    await page.locator('body').press('2')
    await expect(page.getByRole('button', { name: 'people · main' })).toHaveAttribute('aria-pressed', 'true')
    await expect(page.getByRole('button', { name: 'all other kinds · main' })).toBeVisible()
  })
})
