import { readFile } from 'node:fs/promises'
import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { parseProject, type Raw } from '../../src/core/project/parse.ts'
import { measureOnce } from '../../src/core/sweep/measure.ts'
import { sweepCsv } from '../../src/core/sweep/sweep-csv.ts'
import { rowOf } from '../../src/core/sweep/sweep-row.ts'
import { combinations } from '../../src/core/sweep/vary.ts'
import { expect, keptRuns, openApp, openWith, test, withGesture } from './fixture.ts'

const raw = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Raw
/** A shorter gesture, where a hundred simulations of it are run and no more is reported of them. */
const short = withGesture(raw, [
  { do: 'wait', ms: 600 },
  { do: 'flick', dpPerS: 9000 },
  { do: 'wait', ms: 1500 },
])

async function vary(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: '+ vary' }).click()
  await page.getByRole('button', { name, exact: true }).click()
}

test('a stranger has a budget that is broken, finds settings that meet it on fresh seeds, and applies them', async ({
  page,
}) => {
  await openApp(page, '/compare')
  let clicks = 0
  const click = async (name: string | RegExp) => {
    clicks++
    await page.getByRole('button', { name }).click()
  }
  await click('Budgets')
  const limit = page.getByRole('spinbutton', { name: 'of bytes nobody saw, at most' })
  await limit.fill('0.2')
  await expect(page.getByRole('heading', { name: 'Compare · budgets: 1 broken' })).toBeVisible()
  clicks += 2
  await vary(page, 'Fetch slots')
  await click(/^Find settings among \d+$/)
  await expect(page.getByText('These settings meet every budget')).toBeVisible()
  await expect(page.getByText(/^✓ of bytes nobody saw: .* on 10 seeds that it has not seen$/)).toBeVisible()
  await click('Apply')
  await expect(page.getByRole('heading', { name: 'Compare · budgets: all held' })).toBeVisible()
  expect(clicks).toBeLessThanOrEqual(8)
  // One step takes it back.
  await page.locator('body').press('Control+z')
  await expect(page.getByRole('heading', { name: 'Compare · budgets: 1 broken' })).toBeVisible()
  // A budget that nothing in the range meets is reported as the one that binds.
  await limit.fill('0.001')
  await page.getByRole('button', { name: /^Find settings among/ }).click()
  await expect(page.getByText('Nothing in the range meets the budgets.')).toBeVisible()
  await expect(page.getByRole('list', { name: 'Best so far' })).toContainText(/budgets missed by \d+ %/)
  // One relative to a baseline is judged once a run is pinned, and searched for as the limit that it amounts to.
  await limit.fill('0.01')
  await page.getByRole('combobox', { name: 'of bytes nobody saw, limits are' }).selectOption('over the baseline')
  const row = page.getByRole('row').filter({ has: limit })
  await expect(row).toContainText('pin a run of this screen and visit')
  await page.getByRole('button', { name: 'Simulate', exact: true }).click()
  await page.locator('body').press('5')
  await page.getByRole('button', { name: 'pin', exact: true }).click()
  await page.locator('body').press('6')
  await page.getByRole('button', { name: 'Budgets' }).click()
  await expect(row).toContainText(/[+−]\d+\.\d %/)
  await expect(page.getByText('are not searched for')).toHaveCount(0)
})

test('a sweep is cancelled, goes on after a reload, has the bytes of the command line, and a row of it is used', async ({
  page,
}) => {
  // A setting is put on the sweep where it is set, with the keyboard too; at most three are.
  await openWith(page, '/loading', short)
  const varyButton = (name: string) => page.getByRole('button', { name: `Vary ${name}`, exact: true })
  for (const name of ['Let go', 'Direction', 'Next in line']) {
    await varyButton(name).focus()
    await page.keyboard.press('Enter')
    await expect(varyButton(name)).toHaveAttribute('aria-pressed', 'true')
  }
  await varyButton('Coming up').click()
  await expect(page.getByText('take one off first.')).toBeVisible()
  await varyButton('Let go').click()
  await expect(varyButton('Let go')).toHaveAttribute('aria-pressed', 'false')
  await page.locator('body').press('6')
  await page.getByRole('button', { name: 'Sweep', exact: true }).click()
  await page.getByRole('button', { name: 'Remove Direction' }).click()
  await page.getByRole('button', { name: 'Remove Next in line' }).click()
  await vary(page, 'Fetch slots')
  await vary(page, 'Next in line')
  await page.getByRole('textbox', { name: 'Values of Fetch slots' }).fill('2..8:2')
  await page.getByRole('textbox', { name: 'Values of Fetch slots' }).press('Enter')
  await expect(page.getByRole('heading', { name: 'sweep of 12 combinations, 10 seeds each' })).toBeVisible()
  // It may be over within a second: the page itself clicks Cancel as soon as three of its rows are there.
  await page.evaluate(() =>
    new MutationObserver((_, observer) => {
      const done = Number(/(\d+) of 13/.exec(document.querySelector('.tt-panel')!.textContent!)?.[1])
      const cancel = [...document.querySelectorAll('button')].find((button) => button.textContent === 'Cancel')
      if (!cancel || !(done >= 3)) return
      observer.disconnect()
      cancel.click()
      document.body.dataset.cancelled = 'yes'
    }).observe(document.body, { subtree: true, childList: true, characterData: true }),
  )
  // How long it takes is reported before it starts.
  await page.getByRole('button', { name: /^Run · 130 simulations, about \d+ s$/ }).click()
  await expect(page.locator('body[data-cancelled]')).toHaveCount(1)
  const goOn = page.getByRole('button', { name: /^Go on · \d+ simulations, about \d+ s$/ })
  await expect(goOn).toBeVisible()
  // Maps are drawn when the page has time; the rest is reported at once, and is not all of it.
  const left = await goOn.innerText()
  expect(Number(/\d+/.exec(left)![0])).toBeLessThan(130)
  await page.reload()
  await expect(goOn).toHaveText(left)
  await goOn.click()
  await expect(page.locator('.tt-small-map')).toHaveCount(12)
  await expect(page.getByRole('progressbar', { name: 'Sweeping' })).toHaveCount(0)
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).click(),
  ])
  const parsed = parseProject(short)
  if (!parsed.ok) throw new Error(parsed.message)
  const { seed, screens, script } = parsed.project
  const bench = { raw: short, screen: screens[0]!.id, script: script!, visits: ['first' as const], items: null }
  const varied = [
    { path: '/loading/fetchSlots', values: [2, 4, 6, 8] },
    { path: '/loading/order', values: ['nearest', 'first-come', 'last-come'] },
  ]
  const rows = combinations(varied).map((settings, row) => {
    const runs = Array.from({ length: 10 }, (_, n) => measureOnce(bench, settings, seed + n)[0]!)
    return rowOf(row, settings, runs, seed)
  })
  expect(await readFile(await download.path(), 'utf8')).toBe(
    sweepCsv(
      varied.map(({ path }) => path),
      rows,
    ),
  )
  const [plot] = await Promise.all([
    page.waitForEvent('download'),
    page.locator('.tt-trade-off').getByRole('button', { name: 'SVG' }).click(),
  ])
  const drawn = await readFile((await plot.path())!, 'utf8')
  expect([drawn.startsWith('<svg'), drawn.includes('var(--'), drawn.split('tt-plot-mark').length > 12]).toEqual([
    true,
    false,
    true,
  ])
  const { violations } = await new AxeBuilder({ page }).include('.tt-panel').setLegacyMode().analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes[0]!.html])).toEqual([])
  // The row under the pointer in one of the two is marked in the other, with its figures.
  const lastMap = page.getByRole('button', { name: /^Fetch slots 8, Next in line last-come/ })
  await lastMap.hover()
  const last = await lastMap.getAttribute('data-row')
  const mark = page.locator(`.tt-plot-mark[data-row="${last}"] circle`)
  await expect(page.locator('.tt-plot-ring')).toHaveAttribute('cx', (await mark.getAttribute('cx'))!)
  await page.locator('.tt-plot-mark[data-rank="now"] path').last().hover()
  await expect(page.locator('.tt-trade-details')).toContainText('as it is now')
  await mark.hover()
  await expect(page.locator('.tt-trade-details')).toContainText('Fetch slots 8, Next in line last-come')
  await expect(lastMap).toHaveAttribute('data-hovered', '')
  // Maps are in the order of a figure, the better first; the address says so, and which is picked.
  const inOrder = page.getByRole('combobox', { name: 'in order of' })
  await inOrder.selectOption('of bytes nobody saw')
  const best = rows.reduce((one, other) =>
    other.metrics['bytes.wastedShare']!.median < one.metrics['bytes.wastedShare']!.median ? other : one,
  )
  await expect(page.locator('.tt-small-map').first()).toHaveAttribute('data-row', String(best.row))
  await page.getByRole('button', { name: /^Fetch slots 2, Next in line last-come/ }).click()
  await expect(page).toHaveURL(/order=bytes\.wastedShare&picked=2/)
  await page.reload()
  await expect(inOrder).toHaveValue('bytes.wastedShare')
  await expect(page.getByRole('button', { name: /^Fetch slots 2, Next in line last-come/ })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  // A click on the settings as they are takes it back.
  await page.locator('.tt-plot-mark[data-rank="now"] path').last().click()
  await expect(page).not.toHaveURL(/picked/)
  await page.getByRole('button', { name: /^Fetch slots 2, Next in line last-come/ }).click()
  // The run behind a row is one like any other, with the figures of its first seed.
  await page.getByRole('button', { name: 'Open in Profile' }).click()
  await expect(page.getByRole('heading', { name: /^Run 1 · / })).toBeVisible()
  const [opened] = await keptRuns(page)
  const picked = [
    { path: '/loading/fetchSlots', value: 2 },
    { path: '/loading/order', value: 'last-come' },
  ]
  const own = measureOnce(bench, picked, seed)[0]!
  expect(opened!.metrics['bytes.received']).toBe(own['bytes.received'])
  await page.goBack()
  await page.getByRole('button', { name: 'Keep as variant' }).click()
  await page.getByRole('button', { name: 'Use these' }).click()
  await expect(page.getByText('The settings have changed since')).toBeVisible()
  await page.locator('body').press('3')
  await expect(page.getByRole('radio', { name: 'last come' })).toBeChecked()
  await page.getByRole('button', { name: 'as it is' }).click()
  await expect(page.getByText('Fetch slots 2, Next in line last-come')).toBeVisible()
})

test('the settings on every device and network: the worst pair is reported, and one that is clicked is in use', async ({
  page,
}) => {
  // A network of your own is one more, here and in a sweep, where it is put by the button before the networks.
  await openWith(page, '/drive', short)
  const networks = page.getByRole('group', { name: 'Network', exact: true })
  await networks.getByRole('button', { name: '+ keep as own' }).click()
  await page.getByLabel('A name for this network').fill('Harbour')
  await page.getByRole('button', { name: 'keep', exact: true }).click()
  await expect(networks.getByRole('button', { name: 'Harbour', exact: true })).toBeVisible()
  await networks.getByRole('button', { name: 'Vary Network' }).click()
  await page.locator('body').press('6')
  await page.getByRole('button', { name: 'Sweep', exact: true }).click()
  await expect(page.getByRole('textbox', { name: 'Values of Network' })).toHaveValue(/, Harbour$/)
  await page.getByRole('button', { name: 'Devices and networks' }).click()
  // A network can be left out; a variant is tried beside the present settings.
  await page.getByRole('group', { name: 'Networks' }).getByRole('button', { name: 'Salt flats' }).click()
  await page.getByRole('combobox', { name: 'beside' }).selectOption('Full-size decode')
  await page.getByRole('button', { name: 'Run 4 × 4 · 160 simulations' }).click()
  const worst = page.getByText(/^Worst: .* on .*, .* holes/)
  await expect(worst).toBeVisible()
  // It comes first, with the variant beside the present settings.
  const [, device, network] = /^Worst: (.*?) on (.*?)(?: with .*?)?, /.exec(await worst.innerText())!
  const first = page.locator('.tt-pair').first()
  await expect(first).toHaveAccessibleName(new RegExp(`^${device} on ${network}: .*; Full-size decode, `))
  await page.getByRole('button', { name: /^Old 60 on Harbour:/ }).click()
  await page.locator('body').press('4')
  for (const name of ['Old 60', 'Harbour'])
    await expect(page.getByRole('button', { name, exact: true })).toHaveAttribute('aria-pressed', 'true')
})
