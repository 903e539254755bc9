import { driveLive, expect, openProject, openShell, test } from './fixture.ts'

test('a list of a million rows, far taller than a browser can lay out, shows its last rows', async ({ page }) => {
  await openShell(page, '/loading')
  const items = Array.from({ length: 1000 }, (_, i) => ({
    id: `i${i}`,
    photo: `https://archive.example.test/tiles/${i}?width=60&height=60&as=webp`,
  }))
  await openProject(page, {
    format: 'tile-tug/project',
    version: 1,
    name: 'long',
    screens: [
      {
        id: 'list',
        feed: { source: { type: 'inline', items }, repeat: { times: 1000 } },
        layout: { columns: 1, gapDp: 0, paddingDp: 0 },
        cells: [
          {
            arrangement: 'picture-start',
            height: { type: 'fixed', dp: 100 },
            slots: [{ size: { type: 'fixed', widthDp: 100, heightDp: 100 } }],
            texts: [{ at: '/id' }],
          },
        ],
      },
    ],
    scripts: [
      {
        name: 'far',
        steps: [
          { do: 'wait', ms: 200 },
          { do: 'jump', row: 500_000 },
          { do: 'wait', ms: 400 },
          { do: 'jump', row: 999_999 },
          { do: 'flick', dpPerS: -2000 },
          { do: 'flick', dpPerS: 4000 },
          { do: 'wait', ms: 300 },
        ],
      },
    ],
    script: 'far',
  })
  await expect(page.locator('#project-menu')).toHaveText('long')
  const run = await driveLive(page)
  expect(run.checks.filter((check) => !check.ok)).toEqual([])
  const last = page.locator('.tt-glass .tt-cell[data-index="999999"]')
  // The list of the drive gives way to that of the hand, which has cells of its own.
  await expect(async () => {
    // A drive waits 10 s for what still loads: on a slower machine the hand goes on from where it ended.
    await page.locator('.tt-glass').press('End')
    await expect(last.locator('.tt-slot')).toHaveAttribute('data-stage', 'settled')
    await expect(last).toContainText('i999')
    const glass = (await page.locator('.tt-glass').boundingBox())!
    const box = await last.boundingBox()
    expect(Math.abs(box!.y + box!.height - glass.y - glass.height)).toBeLessThan(2)
  }).toPass()
})
