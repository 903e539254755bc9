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
  await expect(page.getByRole('group', { name: /^Every byte accounted for/ })).toBeVisible()
  expect(live.metrics['requests.peakActive']).toBeLessThanOrEqual(6)
  // How near the two come is measured by those that run alone: a busy machine draws fewer frames, and binds fewer rows.
  expect(live.metrics['bytes.received']! / before!.metrics['bytes.received']!).toBeGreaterThan(0.3)

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

test(
  'a live drive and the origin agree on every byte, and what was let go stops at the origin',
  { tag: '@alone' },
  async ({ page }) => {
    const sessions: string[] = []
    page.on('response', (response) => {
      if (response.url().endsWith('/api/origin/sessions'))
        void response.json().then(({ id }: { id: string }) => sessions.push(id))
    })
    await openApp(page)
    const run = await driveLive(page)
    expect(run.checks.filter((check) => !check.ok)).toEqual([])
    const { facts } = profileRun(await keptLog(page, run.id))
    const cut = facts.transfers.filter((transfer) => transfer.end === 'cut')
    expect(cut.length).toBeGreaterThan(5)
    const reply = await page.request.get(`/api/origin/sessions/${sessions.at(-1)}/ledger`)
    const { responses } = (await reply.json()) as {
      responses: { address: string; status: number; bodyBytes: number; aborted: boolean }[]
    }
    const pictures = responses.filter(({ address }) => address.includes('/tiles/'))
    // Where the two sides know different bytes, the failure says of which pictures.
    const here = facts.transfers.map(
      ({ asset, bytes, inFlight, end }) =>
        `${new URL(facts.log.assets[asset]!.address).pathname} ${bytes + inFlight}: ${end}, ${inFlight} of it in flight`,
    )
    const there = responses.map(
      ({ address, bodyBytes, status, aborted }) =>
        `/${address.split('/').slice(5).join('/').split('?')[0]} ${bodyBytes}: ${status}${aborted ? ', aborted' : ''}`,
    )
    const keyOf = (line: string) => line.split(':')[0]!
    const without = (lines: string[], others: string[]) => {
      const left = others.map(keyOf)
      return lines.filter((line) => {
        const at = left.indexOf(keyOf(line))
        if (at >= 0) left.splice(at, 1)
        return at < 0
      })
    }
    const apart = { onlyHere: without(here, there), onlyThere: without(there, here) }
    expect(run.metrics['ledger.gapShare'], JSON.stringify(apart, null, 1)).toBeLessThan(0.005)
    const totals = new Map(
      facts.transfers.map((transfer) => [new URL(facts.log.assets[transfer.asset]!.address).pathname, transfer.total]),
    )
    for (const { address, status, bodyBytes, aborted } of pictures) {
      const total = totals.get(`/${address.split('/').slice(5).join('/').split('?')[0]}`)
      if (status === 200 && typeof total === 'number' && bodyBytes < total)
        expect([address, aborted]).toEqual([address, true])
    }
    // What the origin wrote to its end before it heard of a cut came whole to the client too: finished, or read on.
    const known = facts.transfers.map(({ asset, bytes, inFlight }) => ({
      path: new URL(facts.log.assets[asset]!.address).pathname,
      bytes: bytes + inFlight,
    }))
    let written = 0
    let unknown = 0
    for (const { address, status, bodyBytes, aborted } of pictures) {
      written += bodyBytes
      if (status !== 200 || aborted) continue
      const at = known.findIndex((each) => each.bytes === bodyBytes && address.includes(`${each.path}?`))
      if (at < 0) unknown += bodyBytes
      else known.splice(at, 1)
    }
    expect(unknown / written).toBeLessThan(0.005)
  },
)

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
