import { AxeBuilder } from '@axe-core/playwright'
import { settingAt } from '../../src/core/project/settings-index.ts'
import { expect, openApp, simulate, test } from './fixture.ts'

const views = ['feed', 'cell', 'loading', 'drive', 'profile', 'compare', 'hand-off']

test('no view has a serious fault for assistive technology, light and dark', async ({ page }) => {
  const light = { colorScheme: 'light', reducedMotion: 'reduce' } as const
  /** In the page itself: a page of its own for each report would take as long again. */
  const serious = async (axe: AxeBuilder, rules: { runOnly?: string[] } = {}) =>
    (
      await axe
        .setLegacyMode()
        .options({ resultTypes: ['violations'], ...rules })
        .analyze()
    ).violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(({ id, nodes }) => [id, nodes.map((node) => node.html).slice(0, 3)])
  /** Looks at a part of the page in both themes; colours alone differ in the dark. */
  const look = async (part: () => AxeBuilder) => {
    const found = await serious(part())
    await page.emulateMedia({ ...light, colorScheme: 'dark' })
    found.push(...(await serious(part(), { runOnly: ['color-contrast'] })))
    await page.emulateMedia(light)
    return found
  }
  const settings = new Set<string>()
  await page.emulateMedia(light)
  await openApp(page)
  await simulate(page)
  for (const [number, view] of views.entries()) {
    await page.locator('body').press(String(number + 1))
    await expect(page).toHaveURL(new RegExp(`/${view}(/|$)`))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    // Everything that matters fits without scrolling the page.
    const beyond = await page.evaluate(() => document.documentElement.scrollHeight - window.innerHeight)
    expect([view, beyond]).toEqual([view, 0])
    // What is set every day is there as a whole: the strip cuts no card.
    if (['feed', 'cell', 'loading', 'drive'].includes(view)) {
      const room = await page.locator('.tt-panel').evaluate((panel) => panel.getBoundingClientRect().bottom)
      const bottoms = await page
        .locator('.tt-panel .tt-card')
        .evaluateAll((cards) => cards.map((card) => card.getBoundingClientRect().bottom))
      expect([view, Math.max(...bottoms) <= room]).toEqual([view, true])
    }
    // The device is the same beside every step.
    const axe = () => (number === 0 ? new AxeBuilder({ page }) : new AxeBuilder({ page }).exclude('.tt-device-panel'))
    expect([view, await look(axe)]).toEqual([view, []])
    // Every setting has its own explanation, that of its place in the schema.
    const told = await page
      .locator('input[data-path], input[type="radio"][name^="/"]')
      .evaluateAll((inputs) =>
        (inputs as HTMLInputElement[]).map((input) => [
          input.dataset.path ?? input.name,
          input.closest<HTMLElement>('[data-explain]')?.dataset.explain,
        ]),
      )
    for (const [path, title] of told) expect([path, title]).toEqual([path, settingAt(path!).explain])
    for (const [path] of told) settings.add(path!)
    if (view === 'drive') {
      await page.getByRole('button', { name: 'recorded', exact: true }).click()
      await expect(page.getByRole('button', { name: '● Record the real app' })).toBeVisible()
      expect(['recorded', await look(() => new AxeBuilder({ page }).include('.tt-panel'))]).toEqual(['recorded', []])
    }
    if (view === 'compare')
      for (const part of ['Sweep', 'Devices and networks', 'Budgets']) {
        await page.getByRole('button', { name: part, exact: true }).click()
        await expect(page.getByRole('heading', { level: 1 })).toContainText(
          part === 'Devices and networks' ? 'devices' : part.toLowerCase().replace(/s$/, ''),
        )
        expect([part, await look(() => new AxeBuilder({ page }).include('.tt-panel'))]).toEqual([part, []])
      }
    if (view !== 'profile') continue
    const panel = (await page.locator('.tt-panel').boundingBox())!
    expect((await page.locator('.tt-stage').boundingBox())!.height / panel.height).toBeGreaterThanOrEqual(0.6)
    for (const lens of ['Frames', 'Threads', 'Memory', 'Notes']) {
      await page.getByRole('button', { name: lens, exact: true }).click()
      await expect(page.getByRole('region', { name: lens, exact: true })).toBeVisible()
      expect([lens, await look(() => new AxeBuilder({ page }).include('.tt-profile-foot'))]).toEqual([lens, []])
    }
  }
  expect(settings.size).toBeGreaterThan(40)
})

test('the keyboard alone is enough: settings, a drive, the map, a story', async ({ page }) => {
  await openApp(page)
  const tabTo = async (name: string | RegExp, role: 'button' | 'slider' | 'img') => {
    const target = page.getByRole(role, { name })
    for (let i = 0; i < 80; i++) {
      if (await target.evaluate((element) => element === document.activeElement)) return
      await page.keyboard.press('Tab')
    }
    throw new Error(`${String(name)} cannot be reached by Tab`)
  }
  await tabTo('Coming up: rows ahead', 'slider')
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('slider', { name: 'Coming up: rows ahead' })).toHaveAttribute('aria-valuenow', '3')
  await page.keyboard.press('Shift+Tab')
  await page.locator('body').press('3')
  await page.getByRole('button', { name: 'Simulate', exact: true }).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/run 1, simulated/)).toBeVisible()
  await page.keyboard.press('5')
  await tabTo(/^Scroll map of/, 'img')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('+')
  await expect(page.getByRole('region', { name: /^Story of request/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('region', { name: /^Story of request/ })).toBeHidden()
  // A part of the map is selected, stretched and let go by keys too.
  const part = page.getByText(/^\d+ requests from [\d.]+ to [\d.]+ s/)
  const end = async () => Number(/to ([\d.]+) s/.exec(await part.innerText())![1])
  await page.keyboard.press('Shift+ArrowRight')
  await expect(part).toBeVisible()
  const first = await end()
  await page.keyboard.press('Shift+ArrowRight')
  await expect.poll(end).toBeGreaterThan(first)
  await page.keyboard.press('Escape')
  await expect(part).toBeHidden()
})

test('no step is wider than a small screen', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  await openApp(page)
  for (const [number, view] of [...views.entries()]) {
    await page.locator('body').press(String(number + 1))
    await expect(page).toHaveURL(new RegExp(`/${view}(/|$)`))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    expect([view, await page.evaluate(() => document.documentElement.scrollWidth)]).toEqual([view, 390])
  }
  await page.goto('/drive?run=recorded')
  await expect(page.getByRole('button', { name: '● Record the real app' })).toBeVisible()
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(390)
})
