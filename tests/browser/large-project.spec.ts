import { expect, keptRuns, openProject, openShell, simulate, test } from './fixture.ts'
import { mainTasks } from './main-thread.ts'

/** A file of some 10 MB. */
const items = Array.from({ length: 50_000 }, (_, i) => ({
  id: `k${i}`,
  photo: `https://archive.example.test/tiles/${i}?width=120&height=120&as=webp`,
  title: `Tile ${i} of the archive`,
  note: 'glazed '.repeat(12),
}))
const large = {
  format: 'tile-tug/project',
  version: 1,
  name: 'large',
  screens: [
    {
      id: 'list',
      feed: { source: { type: 'inline', items } },
      layout: { columns: 3 },
      cells: [
        {
          slots: [{ address: { type: 'pointer', at: '/photo' }, size: { type: 'fixed', widthDp: 120, heightDp: 120 } }],
        },
      ],
    },
  ],
}

test(
  'a project of 10 MB: an edit takes the page at most 50 ms, and its runs share its items',
  { tag: '@alone' },
  async ({ page, browser }) => {
    await openShell(page, '/loading')
    await openProject(page, large)
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(2)).toBeVisible()
    const ahead = page.getByRole('slider', { name: 'Coming up: rows ahead' })
    await ahead.press('ArrowDown')
    await expect(page.getByText('Saved in this browser')).toBeVisible()
    const tasks = await mainTasks(browser, page, async () => {
      for (let i = 0; i < 4; i++) {
        await ahead.press(i % 2 === 0 ? 'ArrowDown' : 'ArrowUp')
        await expect(page.getByText('Saved in this browser')).toBeVisible()
      }
    })
    expect(tasks[0]!.ms, JSON.stringify(tasks.slice(0, 5))).toBeLessThan(50)
    for (let i = 0; i < 4; i++) await simulate(page)
    const raws = (await keptRuns(page)).map(({ raw }) => JSON.stringify(raw).length)
    expect(Math.max(...raws)).toBeLessThan(10_000)
    const stored = await page.evaluate(async () => {
      const open = indexedDB.open('tile-tug')
      await new Promise((resolve) => (open.onsuccess = resolve))
      const count = open.result.transaction('shared').objectStore('shared').count()
      await new Promise((resolve) => (count.onsuccess = resolve))
      open.result.close()
      return count.result
    })
    expect(stored).toBe(1)
    // A reload has them all again.
    await page.reload()
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(2)).toBeVisible()
  },
)
