import { readFile } from 'node:fs/promises'
import { parseProjectText } from '../../src/core/project/parse-text.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { simulate as simulateInNode } from '../../src/core/simulate/simulate.ts'
import { driveLive, expect, keptLog, keptRuns, openApp, simulate, test } from './fixture.ts'

const demo = await readFile('demo/saltmarsh.tiletug.json', 'utf8')

function demoProject() {
  const parsed = parseProjectText(demo)
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed.project
}

test('a stranger opens the demo, gets to a proven finding that is applied in three clicks, drives it, and finds out what happened', async ({
  page,
}) => {
  await openApp(page, '/')
  await expect(page.getByRole('heading', { name: 'Loading · for the whole app' })).toBeVisible()
  await expect(page.getByRole('img', { name: /^Scroll map of/ })).toBeVisible()
  // The page itself counts, so that a click on anything at all is seen.
  await page.evaluate(() => {
    addEventListener('click', () => (document.documentElement.dataset.clicks = String(clicks() + 1)), true)
    const clicks = () => Number(document.documentElement.dataset.clicks ?? 0)
  })
  const click = async (name: string) => {
    await page.getByRole('button', { name, exact: true }).first().click()
  }
  await click('Simulate')
  await click('Open in Profile')
  const finding = page.getByRole('article', { name: 'Requests start for rows that only fly past.' })
  await expect(finding).toContainText(/transfers were cut off/)
  await expect(finding).toContainText(/of bytes nobody saw \d+\.\d % → \d+\.\d %/)
  await expect(finding).toContainText(/edian of 10 seeds, 95 % within −/)
  await click('Try this')
  await expect(page.locator('html')).toHaveAttribute('data-clicks', '3')
  // What is simulated on screen is what the command line simulates, to the last bit.
  const { log } = simulateInNode(demoProject())
  const { metrics, checks } = profileRun(log)
  const [before] = await keptRuns(page)
  expect(before).toMatchObject({ hash: hashLog(log), metrics, checks })
  expect(hashLog(await keptLog(page, before!.id))).toBe(hashLog(log))
  // It is one change of the project, that the next run shows and one step takes back.
  const after = await simulate(page)
  expect(after.changed).toEqual(['Flicking: none → 1500 dp/s'])
  expect(after.metrics['bytes.wastedShare']!).toBeLessThan(before!.metrics['bytes.wastedShare']! - 0.05)
  await page.locator('body').press('Control+z')
  expect((await simulate(page)).hash).toBe(before!.hash)

  await page.locator('body').press('3')
  const live = await driveLive(page)

  await page.keyboard.press('5')
  await expect(page.getByRole('heading', { name: 'Run 4 · Flick down and back' })).toBeVisible()
  await expect(page.getByText('All 10 checks hold')).toBeVisible()
  const runs = page.getByRole('region', { name: 'Runs' })
  await expect(runs.getByRole('row')).toHaveCount(5)
  // With its longest actions, and runs that say what was changed, no row is cut off.
  await runs.getByRole('button', { name: 'pin', exact: true }).first().click()
  await expect(runs.getByRole('button', { name: 'pinned' })).toBeVisible()
  expect(await runs.evaluate((list) => list.scrollWidth - list.clientWidth)).toBe(0)
  await runs.getByRole('button', { name: 'pinned' }).click()
  await expect(page.getByRole('group', { name: /^Every byte accounted for/ })).toBeVisible()
  expect(live.metrics['requests.peakActive']).toBeLessThanOrEqual(6)
  // How near the two come is measured by one that runs alone: a busy machine draws fewer frames, and binds fewer rows.
  expect(live.metrics['bytes.received']!).toBeGreaterThan(0)

  // A click on a request's mark opens its story.
  const map = page.getByRole('img', { name: /^Scroll map of/ })
  await map.focus()
  await page.keyboard.press('ArrowRight')
  const story = page.getByRole('region', { name: /^Story of request \d+/ })
  await expect(story.getByRole('listitem').first()).toContainText(
    /^\d+\.\d\d s wanted: cell \d+ was bound in row \d+\./,
  )
  await expect(page).toHaveURL(/\/profile\/\d+\/\d+$/)

  // Everything is still there after a reload, at the same address.
  await page.reload()
  await expect(story).toBeVisible()
  await expect(runs.getByRole('row')).toHaveCount(5)
  await story.getByRole('button', { name: 'Close the story' }).click()
  await runs.getByRole('button', { name: 'Delete run 1' }).click()
  await expect(runs.getByRole('row')).toHaveCount(4)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(runs.getByRole('row')).toHaveCount(5)
})

test('the list follows the hand, a handle is dragged and the simulation follows, settings reach both; undo takes it back', async ({
  page,
}) => {
  await openApp(page)
  const glass = page.locator('.tt-glass')
  const { x, y } = (await glass.boundingBox())!
  const shown = () =>
    glass
      .locator('.tt-cell[data-index]')
      .evaluateAll((cells) => Math.max(...cells.map((cell) => Number((cell as HTMLElement).dataset.index))))
  const first = await shown()
  await page.mouse.move(x + 60, y + 300)
  await page.mouse.down()
  await page.mouse.move(x + 60, y + 60, { steps: 6 })
  await page.mouse.up()
  await expect.poll(shown).toBeGreaterThan(first + 8)
  await glass.press('PageDown')
  await glass.press('PageDown')
  await expect.poll(shown).toBeGreaterThan(first + 40)

  await simulate(page)
  const waste = page.getByTestId('deltas').locator('dd').nth(2)
  await expect(waste).toHaveText(/^\d+\.\d %$/)
  const before = await waste.innerText()
  const ahead = page.getByRole('slider', { name: 'Coming up: rows ahead' })
  const box = (await ahead.boundingBox())!
  await page.mouse.move(box.x + 9, box.y + 7)
  await page.mouse.down()
  for (let step = 1; step <= 6; step++) await page.mouse.move(box.x + 9, box.y + 7 + step * 28)
  await page.mouse.up()
  await expect(ahead).toHaveAttribute('aria-valuenow', '8')
  await expect(waste).toContainText(`${before} → `)
  await expect(page.getByText(/^follows your hand; run 1/)).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(ahead).toHaveAttribute('aria-valuenow', '2')

  // The cell's settings too: columns, fit, corners, placeholder, fade.
  await page.keyboard.press('2')
  await page.locator('input[data-path="/screens/0/layout/columns"]').fill('4')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/^follows your hand/)).toBeVisible()
  await page.getByRole('region', { name: 'Picture slot' }).getByText('contain', { exact: true }).click()
  await page.getByRole('slider', { name: 'Corner radius' }).press('ArrowRight')
  await page.getByRole('button', { name: 'Colour #31465C' }).click()
  await page.getByText('none', { exact: true }).first().click()
  await expect(page.locator('.tt-glass .tt-slot').first()).toHaveCSS('border-radius', '7px')
  await expect(page.locator('.tt-glass .tt-slot').first()).toHaveCSS('width', /^96\.7/)
  await expect(page.getByText('Saved in this browser')).toBeVisible()
  await page.reload()
  await expect(page.locator('input[data-path="/screens/0/layout/columns"]')).toHaveValue('4')
})
