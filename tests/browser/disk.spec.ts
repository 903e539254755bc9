import { readFile } from 'node:fs/promises'
import { driveLive, expect, keptRuns, openApp, openWith, test, withGesture, keptRunCount } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Record<string, unknown>
const short = withGesture(demo, [
  { do: 'wait', ms: 900 },
  { do: 'flick', dpPerS: 2500 },
  { do: 'wait', ms: 1200 },
])

/** What can be wrong with storage, as a script in the worker that keeps the disk tier, before it asks for anything. */
const broken = {
  full: () => {
    const put = IDBObjectStore.prototype.put
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...given: [unknown]) {
      if (this.name === 'files') throw new DOMException('no room is left', 'QuotaExceededError')
      return put.apply(this, given)
    }
  },
  refused: () => {
    const open = indexedDB.open.bind(indexedDB)
    indexedDB.open = (name: string, version?: number) => {
      if (name === 'tile-tug-disk') throw new DOMException('storage is not allowed', 'SecurityError')
      return open(name, version)
    }
  },
}

for (const [how, spoil] of Object.entries(broken))
  test(`a disk tier whose storage is ${how} is none, which is reported once, and everything loads all the same`, async ({
    page,
  }) => {
    await page.route(/\/disk-worker-/, async (route) => {
      const response = await route.fetch()
      await route.fulfill({ response, body: `(${spoil.toString()})();${await response.text()}` })
    })
    await openWith(page, '/drive', short)
    const run = await driveLive(page)
    await expect(
      page.getByText(/The disk tier cannot be used \(\w+\); pictures are loaded again instead\./),
    ).toBeVisible()
    expect(run.metrics['pictures.failed']).toBe(0)
    await page.getByRole('button', { name: 'restarted' }).click()
    const later = await driveLive(page)
    expect(later.metrics).toMatchObject({ 'pictures.failed': 0, 'pictures.wrong': 0, 'tier.diskShare': 0 })
    for (const { checks } of [run, later]) expect(checks.filter((check) => !check.ok)).toEqual([])
  })

test('two tabs that drive one project at once do no harm to what either shows, nor to the disk that they share', async ({
  page,
  context,
}) => {
  await openWith(page, '/drive', short)
  const other = await context.newPage()
  await openApp(other, '/drive')
  await expect(other.getByText('This project is open in another tab too')).toBeVisible()
  await Promise.all(
    [page, other].map(async (tab) => {
      await tab.getByRole('button', { name: 'restarted' }).click()
      await tab.getByRole('button', { name: 'Drive live' }).click()
    }),
  )
  // Both keep their runs in the one database.
  await expect.poll(() => keptRunCount(page)).toBe(2)
  const runs = await keptRuns(page)
  for (const { metrics, checks } of runs) {
    expect(metrics).toMatchObject({ 'pictures.wrong': 0, 'pictures.failed': 0 })
    expect(checks.filter((check) => !check.ok)).toEqual([])
  }
  /** What both have left: places in the index, and of bodies, at one moment: something may still be written. */
  const left = () =>
    page.evaluate(async () => {
      const open = indexedDB.open('tile-tug-disk')
      await new Promise((resolve) => (open.onsuccess = resolve))
      const both = open.result.transaction(['index', 'files'])
      const keys = ['index', 'files'].map((store) => both.objectStore(store).getAllKeys())
      await Promise.all(keys.map((asked) => new Promise((resolve) => (asked.onsuccess = resolve))))
      open.result.close()
      return keys.map((asked) => (asked.result as string[]).filter((place) => !place.startsWith('hand ')).sort())
    })
  await expect.poll(async () => (await left())[0]!.length).toBeGreaterThan(20)
  // It is whole: every entry of the index has its body, and no body is without one.
  const [index, files] = await left()
  expect(files).toEqual(index)
})
