import type { Locator } from '@playwright/test'
import sharp from 'sharp'
import { driveLive, expect, openProject, openWith, simulate, test, unfold } from './fixture.ts'

/** The item at the top of the device. */
const atTop = (glass: Locator) =>
  glass.evaluate((element) => {
    const top = element.getBoundingClientRect().top
    const cells = [...element.querySelectorAll<HTMLElement>('.tt-cell')].filter(
      (cell) => cell.getBoundingClientRect().top >= top - 1,
    )
    return Math.min(...cells.map((cell) => Number(cell.dataset.index)))
  })

test('what a newcomer stumbles over on Feed is reported there, and fixed there', async ({ page }) => {
  await test.step('on Feed a run gives a sign, a repeated feed says how long it is, hosts out of reach are told apart, and what is added on top moves nothing unless it is to be followed', async () => {
    const photo = (i: number) =>
      i % 10 === 9 ? `https://elsewhere.invalid/${i}.jpg` : `https://archive.example.test/tiles/${i}?width=60&height=60`
    await openWith(page, '/feed', {
      format: 'tile-tug/project',
      version: 1,
      name: 'lines',
      screens: [
        {
          id: 'list',
          feed: {
            source: {
              type: 'inline',
              items: Array.from({ length: 40 }, (_, i) => ({ id: `line ${i}`, photo: photo(i) })),
            },
            key: '/id',
          },
          layout: { columns: 1, gapDp: 0, paddingDp: 0 },
          cells: [
            {
              arrangement: 'picture-start',
              height: { type: 'fixed', dp: 80 },
              slots: [{ size: { type: 'fixed', widthDp: 60, heightDp: 60 } }],
              texts: [{ at: '/id' }],
            },
          ],
        },
      ],
      scripts: [{ name: 'short', steps: [{ do: 'wait', ms: 300 }] }],
      script: 'short',
    })
    // A host that cannot be reached from here is a class of its own, with what to do.
    await expect(page.getByRole('button', { name: /^36 good/ })).toBeVisible()
    await expect(page.getByRole('button', { name: /^4 on a host that this bench may not ask/ })).toBeVisible()
    await expect(page.getByText('TUG_RELAY_HOSTS=elsewhere.invalid npm start')).toBeVisible()
    // Simulated and driven without leaving Feed: the strip shows both.
    const strip = page.locator('.tt-strip')
    await simulate(page)
    await expect(strip).toContainText('run 1, simulated')
    await driveLive(page)
    await expect(strip).toContainText(/run 2, live/)
    await expect(strip.getByRole('button', { name: 'Open in Profile' })).toBeVisible()
    // Repeated it has 120 items, and the device shows its last and its first by one key each.
    await page.locator('input[data-path="/screens/0/feed/repeat/times"]').fill('3')
    await page.keyboard.press('Enter')
    await expect(page.getByText(/^120 items of this kind in the list/)).toBeVisible()
    const glass = page.locator('.tt-glass')
    // The list starts again with each change of its feed: the key counts once it has.
    await expect
      .poll(async () => {
        await glass.press('End')
        return glass.locator('.tt-cell[data-index="119"]').allInnerTexts()
      })
      .toEqual([expect.stringContaining('line 39')])
    await glass.press('Home')
    await expect.poll(() => atTop(glass)).toBe(0)
    // At the top what is added is followed only where the list is set so.
    await unfold(page, 'Edits on screen')
    const addOnTop = async () => {
      await glass.press('Home')
      await page.getByRole('button', { name: 'Add 3 on top' }).click()
      await glass.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
      return atTop(glass)
    }
    await expect.poll(addOnTop).toBe(3)
    await page.getByText('follow', { exact: true }).click()
    await expect(page.getByRole('radio', { name: 'follow' })).toBeChecked()
    await expect.poll(addOnTop).toBe(0)
    // What is added has data of its own where some is typed; what cannot be read is reported.
    const own = page.getByLabel('Own data for what is added or updated')
    await own.fill('[{"id": "mine"')
    await expect(page.getByText('This is not JSON yet')).toBeVisible()
    await expect(page.getByRole('button', { name: 'Add 3 on top' })).toBeDisabled()
    await own.fill(JSON.stringify([{ id: 'my own', photo: photo(7) }]))
    await page.getByRole('button', { name: 'Add 1 on top' }).click()
    await expect(glass.locator('.tt-cell[data-index="0"]')).toContainText('my own')
    await expect(glass.locator('.tt-cell[data-index="0"] .tt-slot[data-stage="settled"]')).toBeVisible()
  })
  await test.step('a picture that arrives looks as waiting was chosen to, and nothing is said to be missing beside fallbacks that are shown', async () => {
    const project = (fault: object, failed: object) => ({
      format: 'tile-tug/project',
      version: 1,
      name: 'on its way',
      loading: { fetchSlots: 2, fetchSlotsPerHost: 2, ahead: { amount: 0 }, timeoutMs: 600_000 },
      network: { faults: [{ match: '*width=61*', ...fault }] },
      screens: [
        {
          id: 'list',
          feed: {
            source: {
              type: 'inline',
              items: Array.from({ length: 5 }, (_, id) => ({
                id,
                photo: `https://archive.example.test/tiles/${id}?width=61&height=61`,
              })),
            },
            key: '/id',
          },
          layout: { columns: 1, gapDp: 0, paddingDp: 0 },
          cells: [
            {
              arrangement: 'picture-start',
              height: { type: 'fixed', dp: 80 },
              slots: [
                {
                  size: { type: 'fixed', widthDp: 60, heightDp: 60 },
                  stages: { waiting: { visual: { type: 'colour', colour: '#b05020' } }, failed },
                },
              ],
            },
          ],
        },
      ],
    })
    const slot = (stage: string) => page.locator(`.tt-glass .tt-slot[data-stage="${stage}"]`)
    const sign = page.locator('.tt-feed-sign[data-is="blank"]')
    await openProject(page, project({ kind: 'stall', afterBytes: 100 }, {}))
    await expect(slot('arriving')).toHaveCount(2)
    await expect(slot('waiting')).toHaveCount(3)
    for (const stage of ['arriving', 'waiting']) {
      const { data, info } = await sharp(await slot(stage).first().screenshot())
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true })
      const at = 3 * ((info.height >> 1) * info.width + (info.width >> 1))
      expect([...data.subarray(at, at + 3)], stage).toEqual([0xb0, 0x50, 0x20])
    }
    await expect(sign).toHaveText('Nothing is shown: everything is still on its way.')
    const missing = { kind: 'status', status: 404 }
    await openProject(page, project(missing, {}))
    await expect(sign).toHaveText('Nothing is shown: the host answers every request with an error.')
    await openProject(
      page,
      project(missing, { fallbacks: ['https://archive.example.test/tiles/7?width=60&height=60'] }),
    )
    await expect(page.locator('.tt-glass .tt-slot canvas').nth(4)).toBeVisible()
    await expect(sign).toHaveCount(0)
    // No picture of its own ever arrives: the fallbacks are shown, for longer than a blank screen would take to be
    // explained.
    const run = await simulate(page)
    expect(run.metrics['requests.failed']).toBeGreaterThan(0)
    await expect(sign).toHaveCount(0)
  })
  await test.step('the frame of the item is that of the bound fields, and relative addresses are fixed where they are reported', async () => {
    await openProject(page, {
      format: 'tile-tug/project',
      version: 1,
      name: 'nested',
      screens: [
        {
          id: 'list',
          feed: {
            source: {
              type: 'inline',
              items: Array.from({ length: 12 }, (_, i) => ({ id: i, pic: { url: `tiles/${i}`, w: 300, h: 200 } })),
            },
          },
          cells: [
            {
              slots: [
                {
                  address: { type: 'pointer', at: '/pic/url' },
                  widthAt: '/pic/w',
                  heightAt: '/pic/h',
                  size: { type: 'fixed', widthDp: 90, heightDp: 90 },
                },
              ],
            },
          ],
        },
      ],
    })
    await page.getByRole('button', { name: /^12 .*relative/ }).waitFor()
    await page.getByText('Pages, base and what counts as the same').click()
    await page.getByLabel(/^Base/).fill('https://archive.example.test/')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /^12 good/ })).toBeVisible()
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').first()).toBeVisible()
    await page.getByRole('link', { name: 'Cell', exact: true }).click()
    await page.getByRole('button', { name: 'of the item', exact: true }).click()
    // 3 : 2, as the nested fields say.
    await expect
      .poll(async () => {
        // The list starts again with the change: for a moment there is no slot.
        const box = await page.locator('.tt-glass .tt-slot').first().boundingBox()
        return box ? Math.abs(box.width / box.height - 1.5) : Infinity
      })
      .toBeLessThan(0.02)
  })
})
