import { readFile } from 'node:fs/promises'
import { expect, openWith, seenInPage, test, unfold } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Record<string, unknown>
/** No tile is ever answered: what waits is still waiting when the test looks. */
const slow = {
  ...demo,
  network: { rttMs: 20, downKbps: 60_000, faults: [{ match: '*/tiles/*', kind: 'timeout' }] },
  loading: { fetchSlots: 2, fetchSlotsPerHost: 2, ahead: { amount: 0 } },
}

test('the line of the live device is the loader’s own, and what is let go, finished and kept is dragged on the thing itself, or typed', async ({
  page,
}) => {
  await openWith(page, '/loading', slow)
  await test.step('the line of the live device stands in the loader’s own order, fills the slots, and falls when it is let go', async () => {
    const line = page.getByRole('list', { name: /in line$/ })
    // Seven rows of three are on screen: two of them run, the rest waits, from the top before anybody has scrolled.
    await expect(line).toHaveAccessibleName('19 in line')
    await expect(line.locator('li').first()).toHaveText('1row 0')
    const rows = (await line.locator('li').allInnerTexts()).map((text) => Number(/row (\d+)/.exec(text)![1]))
    expect(rows).toEqual(rows.toSorted((one, other) => one - other))
    await expect(page.getByRole('list', { name: '2 fetch slots, 2 in use' }).getByText(/on screen$/)).toHaveCount(2)
    await page.getByRole('button', { name: 'Add a fetch slot' }).click()
    await expect(page.getByRole('list', { name: '3 fetch slots, 3 in use' })).toBeVisible()
    await expect(page.getByRole('heading', { name: 'Fetch slots · 3 at once, 3 to one host' })).toBeVisible()
    // The list moves on: requests of rows that have left fall out.
    const fallen = seenInPage(page, () => document.querySelector('.tt-fallen')?.textContent)
    await page.locator('.tt-glass').hover()
    await page.mouse.wheel(0, 1500)
    expect(await fallen).toMatch(/^✕row \d+$/)
    await expect(line.locator('li').first()).not.toHaveText('1row 0')
  })
  await test.step('what is let go, finished and kept is dragged on the thing itself, or typed', async () => {
    const radio = (name: string) =>
      page.getByRole('region', { name: 'Cancelling' }).getByRole('radio', { name, exact: true })
    const edge = page.getByRole('slider', { name: 'Let go: rows beyond the screen' })
    const drag = async (dx: number, dy: number) => {
      await page.mouse.down()
      for (let step = 1; step <= 4; step++)
        await page.mouse.move(at.x + 7 + (dx * step) / 4, at.y + 7 + (dy * step) / 4)
      await page.mouse.up()
    }
    let at = (await edge.boundingBox())!
    await page.mouse.move(at.x + 7, at.y + 7)
    await drag(0, -56)
    await expect(edge).toHaveAttribute('aria-valuetext', 'cut off 2 rows beyond')
    await expect(radio('beyond a zone')).toBeChecked()
    for (let row = 0; row < 2; row++) await edge.press('ArrowUp')
    await expect(radio('never')).toBeChecked()
    for (let row = 0; row < 4; row++) await edge.press('ArrowDown')
    await expect(radio('on recycle')).toBeChecked()

    const notch = page.getByRole('slider', { name: 'Keep above: share received' })
    at = (await notch.boundingBox())!
    const bar = (await page.locator('.tt-keep-bar').boundingBox())!
    await page.mouse.move(at.x + 7, at.y + 7)
    await drag(-0.4 * bar.width, 0)
    await expect(notch).toHaveAttribute('aria-valuetext', 'finished from 60 % on')
    await expect(page.getByText('cut off at recycle unless 60 % is in')).toBeVisible()

    await unfold(page, 'Caches')
    await unfold(page, 'Common mistakes')
    const memory = page.getByRole('slider', { name: 'Memory, MB', exact: true })
    await memory.press('Home')
    await expect(page.getByText('0 MB · nothing is kept')).toBeVisible()
    await expect(page.getByRole('button', { name: 'no memory cache' })).toHaveAttribute('aria-pressed', 'true')
    // The switch of a mistake gives back what was there before it.
    const typed = page.locator('input[data-path="/loading/memoryMb"]')
    const mistake = page.getByRole('button', { name: 'no memory cache' })
    await typed.fill('64')
    await page.keyboard.press('Enter')
    await mistake.click()
    await expect(typed).toHaveValue('0')
    await mistake.click()
    await expect(typed).toHaveValue('64')
    await page.locator('input[data-path="/loading/memoryMb"]').fill('40')
    await page.keyboard.press('Enter')
    await expect(memory).toHaveAttribute('aria-valuetext', '40 MB')

    await page.getByRole('button', { name: 'waits until it is slower' }).click()
    await page.locator('input[data-path="/loading/startBelowDpPerS"]').fill('900')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'its age' }).click()
    await page.getByLabel('Fresh for, in s').fill('120')
    // All of it is in the project, and the strip has followed.
    await expect(page.getByText('Saved in this browser')).toBeVisible()
    await page.reload()
    await expect(page.locator('input[data-path="/loading/startBelowDpPerS"]')).toHaveValue('900')
    await expect(page.getByLabel('Fresh for, in s')).toHaveValue('120')
    await expect(notch).toHaveAttribute('aria-valuenow', '60')
  })
})
