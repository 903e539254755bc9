import { expect, openApp, simulate, test, unfold } from './fixture.ts'

test('two runs are compared: maps overlaid, figures subtracted, settings listed, noise named', async ({ page }) => {
  await openApp(page, '/loading')
  const before = await simulate(page)
  await page.getByRole('button', { name: 'Remove a fetch slot' }).click()
  await page.getByRole('button', { name: 'Remove a fetch slot' }).click()
  await unfold(page, 'Common mistakes')
  await page.getByRole('button', { name: 'no cancelling' }).click()
  const after = await simulate(page)
  await page.keyboard.press('6')
  await expect(page.getByRole('heading', { name: 'Compare · better, worse, or noise' })).toBeVisible()
  await expect(page.getByLabel('Run A')).toHaveValue(String(before.id))
  await expect(page.getByLabel('Run B')).toHaveValue(String(after.id))
  const row = page.getByRole('row', { name: /of bytes nobody saw/ })
  const shares = [before, after].map((run) => (100 * run.metrics['bytes.wastedShare']!).toFixed(1))
  await expect(row).toContainText(`${shares[0]} %`)
  await expect(row).toContainText(`${shares[1]} %`)
  await expect(row.locator('.tt-delta')).toHaveText(
    `+${(100 * (after.metrics['bytes.wastedShare']! - before.metrics['bytes.wastedShare']!)).toFixed(1)}`,
  )
  const work = page.getByRole('row', { name: /work/i }).first()
  for (const run of [before, after]) await expect(work).toContainText(run.metrics['frames.workP95']!.toFixed(1))
  await expect(page.getByRole('region', { name: 'Settings that differ' })).toContainText('Fetch slots: 6 → 4')
  await expect(page.getByRole('img', { name: /^Scroll map of/ })).toBeVisible()
  await page.getByRole('button', { name: 'On ten seeds' }).click()
  await expect(row).toContainText(/worse \+\d+\.\d \(\+\d+\.\d … \+\d+\.\d\)/)
  await expect(page.getByRole('row', { name: /wrong pictures/ })).toContainText('no difference seen')
  // The mark of each interval is on its own side of none.
  const sideOf = (name: RegExp) =>
    page
      .getByRole('row', { name })
      .locator('.tt-interval')
      .evaluate((svg) => svg.querySelector('path')!.getBBox().x + 5 - svg.querySelector('line')!.x1.baseVal.value)
  expect(await sideOf(/of bytes nobody saw/)).toBeGreaterThan(5)
  expect(await sideOf(/wrong pictures/)).toBe(0)

  // Their devices are at the same moment of the drive; requests of only one of them are marked.
  const moment = page.getByLabel('Moment of the runs, ms')
  await moment.fill('3000')
  await expect(page.locator('.tt-devices .tt-played[data-ms="3000"]')).toHaveCount(2)
  const counts = await Promise.all(
    ['only in A', 'only in B', 'in both'].map(async (word) =>
      Number(/\d+$/.exec(await page.getByRole('button', { name: word }).innerText())![0]),
    ),
  )
  expect(counts[0]! + counts[2]!).toBe(before.metrics['requests.total'])
  expect(counts[1]! + counts[2]!).toBe(after.metrics['requests.total'])

  // A third beside them; then another gesture: it is shown beside them, and nothing is subtracted.
  await page.getByLabel('Script').selectOption('Slow read')
  const other = await simulate(page)
  await page.getByLabel('Run A').selectOption(String(before.id))
  await page.getByLabel('Run B').selectOption(String(after.id))
  await page.getByRole('button', { name: '+ run' }).click()
  await expect(page.getByLabel('Run C', { exact: true })).toHaveValue(String(other.id))
  await expect(page.getByText(`Run ${other.number} was not driven by the same gesture`)).toBeVisible()
  await expect(page.getByRole('columnheader', { name: 'B, against A' })).toHaveCount(1)
  await expect(page.getByRole('columnheader', { name: 'C, against A' })).toHaveCount(0)
  await expect(page.locator('.tt-devices figure')).toHaveCount(3)
})
