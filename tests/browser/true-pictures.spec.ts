import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { madeUpPage } from '../../src/core/feed/made-up.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { picturesFolder } from '../../playwright.config.ts'
import { photoCount } from '../support/photos.ts'
import { driveLive, expect, keptLog, openApp, openProject, openWith, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as { screens: Record<string, unknown>[] }
const wall = demo.screens[0] as { cells: { slots: Record<string, unknown>[] }[] }

/** The demo with stamps on its tiles and a drive over more than 300 rows. */
function stamped(changes: object): object {
  const address = { type: 'template', template: '{+photo}?width={widthPx}&height={heightPx}&as=webp&stamp=1' }
  return {
    ...demo,
    screens: [
      {
        ...wall,
        cells: [
          {
            ...wall.cells[0],
            slots: [{ ...wall.cells[0]!.slots[0], address, cornersDp: [0, 0, 0, 0], transition: { type: 'none' } }],
          },
        ],
      },
    ],
    scripts: [
      {
        name: 'far',
        steps: [
          { do: 'wait', ms: 500 },
          { do: 'to', where: 310, dpPerS: 9000 },
          { do: 'wait', ms: 500 },
        ],
      },
    ],
    script: 'far',
    ...changes,
  }
}

/** The number in each visible cell's pixels, beside the feed index of the item that it is bound to. */
function readStamps(page: Page): Promise<{ index: number; stamp: number }[]> {
  return page.locator('.tt-glass .tt-cell[data-index]').evaluateAll((cells) => {
    const glass = document.querySelector('.tt-glass')!.getBoundingClientRect()
    return cells.flatMap((cell) => {
      const box = cell.getBoundingClientRect()
      const canvas = cell.querySelector('canvas')!
      if (box.bottom <= glass.top || box.top >= glass.bottom || canvas.style.visibility === 'hidden') return []
      const { width, height } = canvas
      const row = height - Math.max(2, Math.floor(height * 0.03))
      const { data } = canvas.getContext('2d')!.getImageData(0, row, width, 1)
      let stamp = 0
      for (let bar = 0; bar < 24; bar++) {
        const at = 4 * Math.floor(((bar + 0.5) * width) / 24)
        stamp = stamp * 2 + ((data[at]! + data[at + 1]! + data[at + 2]!) / 3 < 128 ? 1 : 0)
      }
      return [{ index: Number((cell as HTMLElement).dataset.index), stamp }]
    })
  })
}

/** The tile that an item of the wall asks for. */
function tileOf(index: number): number {
  const { items } = madeUpPage('wall', Math.floor(index / 240) + 1)!
  return Number(/(\d+)$/.exec(String(items[index % 240]!.photo))?.[1] ?? -1)
}

test('after a fast drive over 300 rows every cell shows its own picture, by its pixels', async ({ page }) => {
  await openWith(page, '/loading', stamped({ network: { downKbps: 20_000, rttMs: 40 } }))
  const run = await driveLive(page)
  const { facts } = profileRun(await keptLog(page, run.id))
  expect(Math.max(...facts.places.map(({ row }) => row))).toBeGreaterThanOrEqual(310)
  const areTrue = (stamps: { index: number; stamp: number }[]) => {
    for (const { index, stamp } of stamps) expect([index, stamp]).toEqual([index, tileOf(index)])
  }
  areTrue(await readStamps(page))
  // A drive waits ten seconds for its last pictures, in which a busy machine may not have them: the hand's list has
  // time.
  await page.getByRole('button', { name: 'Load what is on screen again' }).click()
  await expect(page.locator('.tt-glass .tt-cell[data-index="930"] .tt-slot')).toHaveAttribute('data-stage', 'settled')
  await expect.poll(async () => (await readStamps(page)).length).toBeGreaterThanOrEqual(15)
  areTrue(await readStamps(page))
  expect(run.metrics['pictures.wrong']).toBe(0)
})

test('without guard, reset and cancelling on a slow network the same check sees wrong ones', async ({ page }) => {
  // Where the drive ends no picture of its own is answered: whatever is shown came for others, however few frames this
  // machine draws.
  await openWith(
    page,
    '/loading',
    stamped({
      network: { downKbps: 2500, rttMs: 120, faults: [{ match: '*/tiles/9*', kind: 'timeout' }] },
      loading: { guard: false, resetOnBind: false, cancel: { when: 'never' }, order: 'first-come' },
    }),
  )
  const run = await driveLive(page)
  const wrong = (await readStamps(page)).filter(({ index, stamp }) => stamp !== tileOf(index))
  expect(wrong.length).toBeGreaterThan(0)
  expect(run.metrics['pictures.wrong']).toBeGreaterThan(0)
})

test('a folder of photos of 2 to 12 megapixels becomes a feed, as they are and resized', async ({ page }) => {
  await openApp(page)
  await page.locator('#screens').click()
  await page.getByText(`Add your folder (${photoCount} pictures)`).click()
  await expect(page.locator('.tt-slot[data-stage="settled"]').nth(4)).toBeVisible()
  await page.locator('select').selectOption('Far at speed')
  const resized = await driveLive(page)
  expect(resized.checks.filter((check) => !check.ok)).toEqual([])

  // As they are: whole files, decoded down to the slot, within the memory tier's budget.
  const folder = {
    id: 'folder',
    name: 'Your folder',
    feed: { source: { type: 'origin', feed: 'folder' }, key: '/id' },
    layout: { columns: 2, gapDp: 6, paddingDp: 8 },
    cells: [
      {
        height: { type: 'content' },
        slots: [
          {
            address: { type: 'pointer', at: '/photo' },
            size: { type: 'aspect', ratio: 1 },
            cornersDp: [0, 0, 0, 0],
            transition: { type: 'none' },
          },
        ],
      },
    ],
  }
  const script = {
    name: 'down',
    steps: [
      { do: 'wait', ms: 400 },
      { do: 'drag', dp: 2000, ms: 2000 },
      { do: 'wait', ms: 500 },
    ],
  }
  await openProject(page, {
    ...demo,
    screens: [folder],
    scripts: [script],
    script: 'down',
    loading: { memoryMb: 8 },
    network: { downKbps: 400_000, rttMs: 20 },
  })
  const run = await driveLive(page)
  expect(run.checks.filter((check) => !check.ok)).toEqual([])
  expect(run.metrics['memory.ended']).toBe(0)
  expect(run.metrics['decode.count']).toBeGreaterThan(4)
  const seen = await page.locator('.tt-glass .tt-cell[data-index]').evaluateAll((cells) =>
    cells.flatMap((cell) => {
      const canvas = cell.querySelector('canvas')!
      if (canvas.style.visibility === 'hidden') return []
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      const mean = [0, 1, 2].map((channel) => {
        let sum = 0
        for (let i = channel; i < data.length; i += 4) sum += data[i]!
        return (4 * sum) / data.length
      })
      return [{ index: Number((cell as HTMLElement).dataset.index), mean }]
    }),
  )
  expect(seen.length).toBeGreaterThan(4)
  const files = (await readdir(picturesFolder)).sort()
  for (const { index, mean } of seen) {
    const square = await sharp(join(picturesFolder, files[index]!))
      .rotate()
      .resize(80, 80, { fit: 'cover' })
      .flatten()
      .removeAlpha()
      .toBuffer()
    const { channels } = await sharp(square).stats()
    for (const [channel, value] of mean.entries())
      expect(Math.abs(value - channels[channel]!.mean), `${files[index]}, channel ${channel}`).toBeLessThan(6)
  }
})
