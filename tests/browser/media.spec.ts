import { readFile } from 'node:fs/promises'
import type { Page } from '@playwright/test'
import { profileRun } from '../../src/core/profile/profile.ts'
import { driveLive, expect, keptLog, openProject, openShell, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as {
  screens: { cells: { slots: object[] }[] }[]
}
const wall = demo.screens[0]!
/** The wall with moving tiles, whose slots play them or do not. */
const moving = (play: string) => ({
  ...demo,
  screens: [
    {
      ...wall,
      feed: {
        source: {
          type: 'inline',
          items: Array.from({ length: 9 }, (_, i) => ({
            id: i,
            photo: `tiles/${40 + i}?width=120&height=120&frames=6`,
          })),
        },
        base: 'https://archive.example.test/',
      },
      cells: [
        {
          ...wall.cells[0],
          slots: [
            {
              ...wall.cells[0]!.slots[0],
              address: { type: 'pointer', at: '/photo' },
              media: { type: 'animated', play },
            },
          ],
        },
      ],
    },
  ],
  scripts: [{ name: 'look', steps: [{ do: 'wait', ms: 2500 }] }],
  script: 'look',
})

/** What a cell's canvas shows, over some frames of the page. */
const seen = (page: Page) =>
  page.locator('.tt-glass .tt-cell[data-index="0"] canvas').evaluate(async (canvas: HTMLCanvasElement) => {
    const found = new Set<string>()
    for (let i = 0; i < 60; i++) {
      await new Promise((done) => requestAnimationFrame(done))
      found.add(canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data.join())
    }
    return found.size
  })

test('a moving picture plays where it may, and each of its frames is reported as the main thread’s work', async ({
  page,
}) => {
  await openShell(page, '/loading')
  /** The list of nine, and not the one before it with nine of its pictures there. */
  const nine = async () => {
    await expect(page.locator('.tt-glass .tt-cell[data-index]')).toHaveCount(9)
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(9)
  }
  await openProject(page, moving('on-screen'))
  await nine()
  expect(await seen(page)).toBeGreaterThan(3)
  const run = await driveLive(page)
  expect(run.checks.filter((check) => !check.ok)).toEqual([])
  const played = profileRun(await keptLog(page, run.id)).facts.frames.filter((frame) => frame.causes.has('animation'))
  // A busy machine draws fewer frames, in which it plays fewer of the picture's.
  expect(played.length).toBeGreaterThan(2)
  await openProject(page, moving('first-frame'))
  await nine()
  // The list before it may still be there for a moment.
  await expect.poll(() => seen(page)).toBe(1)
})
