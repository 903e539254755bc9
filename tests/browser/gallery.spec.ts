import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { driveLive, expect, openApp, test } from './fixture.ts'
import { launchOptions } from '../support/launch.ts'

// The build without windows has no codecs of videos.
test.use({ launchOptions })

/** The middle pixel of a cell's picture. */
const middle = (page: Page, index: number) =>
  page.locator(`.tt-glass .tt-cell[data-index="${index}"] canvas`).evaluate((canvas: HTMLCanvasElement) => [
    ...canvas
      .getContext('2d')!
      .getImageData(canvas.width >> 1, canvas.height >> 1, 1, 1)
      .data.slice(0, 3),
  ])

test('a gallery of this machine needs no network: pictures and the poster of a video, live', async ({ page }, info) => {
  await openApp(page, '/feed')
  // A video of two seconds: red, then blue. Recorded beforehand: what a busy machine records has gaps.
  const video = await readFile('tests/support/red-then-blue.webm')
  const colours = ['#208040', '#c0a020', '#804080']
  const pictures = await Promise.all(
    colours.map(async (background, i) => ({
      name: `glaze ${i}.png`,
      mimeType: 'image/png',
      buffer: await sharp({ create: { width: 60, height: 60, channels: 3, background } })
        .png()
        .toBuffer(),
    })),
  )
  await page
    .getByLabel('Pictures', { exact: true })
    .setInputFiles([
      ...pictures,
      { name: 'kiln.webm', mimeType: 'video/webm', buffer: video },
      { name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('no picture') },
    ])
  await expect(
    page.getByText('4 items of this machine opened. 1 entries that are not items were left out.'),
  ).toBeVisible()
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(4)
  expect((await middle(page, 3))[0]).toBeGreaterThan(150)
  // A whole folder is taken with the folders in it.
  const folder = info.outputPath('kilns')
  await mkdir(join(folder, 'old', 'older'), { recursive: true })
  for (const [i, place] of ['.', 'old', 'old/older'].entries())
    await writeFile(join(folder, place, `${i}.png`), pictures[i]!.buffer)
  await page.getByLabel('Gallery', { exact: true }).setInputFiles(folder)
  await expect(page.getByText('3 items of this machine opened.')).toBeVisible()
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(3)
  await page.keyboard.press('ControlOrMeta+z')
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(4)
  await page.goto('/cell')
  await page.getByRole('region', { name: 'Picture slot' }).getByText('More').click()
  await page.getByRole('button', { name: 'poster', exact: true }).click()
  await page.getByLabel('Poster at, ms').fill('1500')
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(4)
  for (const [i, colour] of colours.entries())
    await expect.poll(() => middle(page, i)).toEqual([1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16)))
  await expect
    .poll(async () => {
      const [red, , blue] = await middle(page, 3)
      return red! < 80 && blue! > 150
    })
    .toBe(true)
  const run = await driveLive(page)
  expect(run.metrics).toMatchObject({ 'tier.localShare': 1, 'bytes.received': 0, 'pictures.failed': 0 })
  await page.goto('/profile')
  await expect(page.getByText(/^No byte came over the network: .* ms of decoding/)).toBeVisible()
})
