import { expect, keptRuns, openProject, openShell, simulate, test } from './fixture.ts'
import { mainTasks } from './main-thread.ts'

/** A project of so many items; 50,000 are a file of some 10 MB. */
const projectOf = (count: number) => ({
  format: 'tile-tug/project',
  version: 1,
  name: `of ${count}`,
  screens: [
    {
      id: 'list',
      feed: { source: { type: 'inline', items: itemsOf(count) } },
      layout: { columns: 3 },
      cells: [
        {
          slots: [{ address: { type: 'pointer', at: '/photo' }, size: { type: 'fixed', widthDp: 120, heightDp: 120 } }],
        },
      ],
    },
  ],
})

const itemsOf = (count: number) =>
  Array.from({ length: count }, (_, i) => ({
    id: `k${i}`,
    photo: `https://archive.example.test/tiles/${i}?width=120&height=120&as=webp`,
    title: `Tile ${i} of the archive`,
    note: 'glazed '.repeat(12),
  }))

/**
 * Of so many edits as many of the longest tasks are examined: if each edit had a long one, the last of them would be
 * long too.
 */
const edits = 4

test(
  'a project of 10 MB: an edit takes the page no longer than one of a small project, and its runs share its items',
  { tag: '@alone' },
  async ({ page, browser }) => {
    await openShell(page, '/loading')
    const ahead = page.getByRole('slider', { name: 'Coming up: rows ahead' })
    /** An edit is over when it is drawn, which is a moment after the key, and saved. */
    const edit = async (by: 1 | -1) => {
      const rows = Number(await ahead.getAttribute('aria-valuenow')) + by
      await ahead.press(by > 0 ? 'ArrowDown' : 'ArrowUp')
      await expect(ahead).toHaveAttribute('aria-valuenow', String(rows))
      await expect(page.getByText('Saved in this browser')).toBeVisible()
    }
    const edited = async (project: object) => {
      await openProject(page, project)
      await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(2)).toBeVisible()
      await edit(1)
      const tasks = await mainTasks(browser, page, async () => {
        for (let i = 0; i < edits; i++) await edit(i % 2 === 0 ? 1 : -1)
      })
      return tasks.slice(0, edits)
    }
    const small = await edited(projectOf(200))
    const large = await edited(projectOf(50_000))
    // Measured by the same machine in the same minute: its speed is in both. Of the small one's edits two may share a
    // task on a busy machine: its second longest is one edit's at least.
    expect(large.at(-1)!.ms, JSON.stringify({ small, large })).toBeLessThan(3 * small[1]!.ms)
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
    // One for each of the two projects.
    expect(stored).toBe(2)
    // A reload has them all again.
    await page.reload()
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(2)).toBeVisible()
  },
)
