import { AxeBuilder } from '@axe-core/playwright'
import { settingAt } from '../../src/core/project/settings-index.ts'
import { expect, openApp, simulate, test } from './fixture.ts'

const views = ['feed', 'cell', 'loading', 'drive', 'profile', 'compare', 'hand-off']

/** Chosen options and numbers that have not the room they need, folded cards included; run in the page. */
function cutOff(): string[] {
  const context = document.createElement('canvas').getContext('2d')!
  const folded = [...document.querySelectorAll<HTMLDetailsElement>('.tt-panel details:not([open])')]
  for (const each of folded) each.open = true
  const isCut = (control: HTMLSelectElement | HTMLInputElement) => {
    if (control instanceof HTMLInputElement) return control.scrollWidth > control.clientWidth + 1
    const style = getComputedStyle(control)
    context.font = style.font
    const room = control.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight)
    return context.measureText(control.selectedOptions[0]?.text ?? '').width > room + 0.5
  }
  const cut = [...document.querySelectorAll<HTMLSelectElement | HTMLInputElement>('select, .tt-amount [type=text]')]
    .filter((control) => control.checkVisibility() && isCut(control))
    .map((control) => `${control.ariaLabel ?? ''} ${control.value}`)
  for (const each of folded) each.open = false
  return cut
}

test('no view has a fault for assistive technology, light and dark', async ({ page }) => {
  const light = { colorScheme: 'light', reducedMotion: 'reduce' } as const
  await openApp(page)
  // It is added to the page by the first report; otherwise every report would do so, twice, and start cold.
  let isThere = false
  const builder = () => new AxeBuilder({ page, ...(isThere && { axeSource: 'void 0' }) })
  /** In the page itself: a page of its own for each report would take as long again. */
  const faults = async (part: AxeBuilder, rules: { runOnly?: string[] } = {}) =>
    (
      await part
        .setLegacyMode()
        .options({ resultTypes: ['violations'], rules: { 'target-size': { enabled: true } }, ...rules })
        .analyze()
    ).violations.map(({ id, nodes }) => [id, nodes.map((node) => node.html).slice(0, 3)])
  /** Checks a part of the page in both themes; only colours differ in the dark. */
  const look = async (part: () => AxeBuilder) => {
    const found = await faults(part())
    isThere = true
    await page.emulateMedia({ ...light, colorScheme: 'dark' })
    found.push(...(await faults(part(), { runOnly: ['color-contrast'] })))
    await page.emulateMedia(light)
    return found
  }
  const settings = new Set<string>()
  await page.emulateMedia(light)
  await simulate(page)
  // As tall as it is when it is added to the page: nothing below it jumps.
  const marks = page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        new MutationObserver((_, observer) => {
          const canvas = document.querySelector<HTMLElement>('.tt-mosaic canvas')
          if (!canvas) return
          observer.disconnect()
          resolve(canvas.clientHeight)
        }).observe(document.body, { childList: true, subtree: true })
      }),
  )
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
    expect([view, await page.evaluate(cutOff)]).toEqual([view, []])
    if (view === 'feed') expect(await marks).toBeLessThanOrEqual(130)
    // The device is the same beside every step.
    const whole = () => (number === 0 ? builder() : builder().exclude('.tt-device-panel'))
    expect([view, await look(whole)]).toEqual([view, []])
    // Every setting has its own explanation, that of its place in the schema.
    const explained = await page
      .locator('input[data-path], input[type="radio"][name^="/"]')
      .evaluateAll((inputs) =>
        (inputs as HTMLInputElement[]).map((input) => [
          input.dataset.path ?? input.name,
          input.closest<HTMLElement>('[data-explain]')?.dataset.explain,
        ]),
      )
    for (const [path, title] of explained) expect([path, title]).toEqual([path, settingAt(path!).explain])
    for (const [path] of explained) settings.add(path!)
    if (view === 'drive') {
      await page.getByRole('button', { name: 'recorded', exact: true }).click()
      await expect(page.getByRole('button', { name: '● Record the real app' })).toBeVisible()
      expect(['recorded', await look(() => builder().include('.tt-panel'))]).toEqual(['recorded', []])
    }
    if (view === 'compare')
      for (const part of ['Sweep', 'Devices and networks', 'Budgets']) {
        await page.getByRole('button', { name: part, exact: true }).click()
        await expect(page.getByRole('heading', { level: 1 })).toContainText(
          part === 'Devices and networks' ? 'devices' : part.toLowerCase().replace(/s$/, ''),
        )
        expect([part, await look(() => builder().include('.tt-panel'))]).toEqual([part, []])
      }
    if (view !== 'profile') continue
    await expect(page.getByRole('article').first()).toBeVisible()
    expect(['findings', await look(() => builder().include('.tt-profile-foot'))]).toEqual(['findings', []])
    await page.getByRole('button', { name: 'Ledger', exact: true }).click()
    await expect(page.getByRole('region', { name: 'The ledger' })).toBeVisible()
    expect(['ledger', await look(() => builder().include('.tt-profile-foot'))]).toEqual(['ledger', []])
    await page.getByRole('img', { name: /^Scroll map of/ }).press('ArrowRight')
    await expect(page.getByRole('region', { name: /^Story of request/ })).toBeVisible()
    expect(['story', await look(() => builder().include('.tt-profile-foot'))]).toEqual(['story', []])
    await page.keyboard.press('Escape')
    for (const lens of ['Frames', 'Threads', 'Memory', 'Notes']) {
      await page.getByRole('button', { name: lens, exact: true }).click()
      await expect(page.getByRole('region', { name: lens, exact: true })).toBeVisible()
      expect([lens, await look(() => builder().include('.tt-profile-foot'))]).toEqual([lens, []])
    }
  }
  expect(settings.size).toBeGreaterThan(40)
  // What opens over the page.
  for (const menu of ['#project-menu', '#screens']) {
    await page.locator(menu).click()
    await expect(page.locator('.dropdown-menu.show')).toBeVisible()
    expect([menu, await look(() => builder().include('.dropdown-menu.show'))]).toEqual([menu, []])
    await page.keyboard.press('Escape')
  }
  await page.locator('body').press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
  expect(['help', await look(() => builder().include('[role="dialog"]'))]).toEqual(['help', []])
  await page.keyboard.press('Escape')
  await page.locator('#project-menu').click()
  await page.getByRole('button', { name: 'All projects…' }).click()
  await expect(page.getByRole('dialog').getByRole('row').nth(1)).toBeVisible()
  expect(['projects', await look(() => builder().include('[role="dialog"]'))]).toEqual(['projects', []])
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
  const tooltip = page.getByRole('tooltip')
  await expect(tooltip).toHaveText(/: 2 rows/)
  await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('slider', { name: 'Coming up: rows ahead' })).toHaveAttribute('aria-valuenow', '3')
  await expect(tooltip).toHaveText(/: 3 rows/)
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

test('on a small screen, on a phone’s width, and enlarged to 200 %, no step runs sideways and everything can be pressed', async ({
  page,
}) => {
  /** What cannot be brought wholly between the edges and pressed there. */
  const lost = () =>
    page.evaluate(() => {
      const names: string[] = []
      const width = document.documentElement.clientWidth
      const panel = document.querySelector('.tt-panel')!
      if (document.documentElement.scrollWidth > width) names.push('the page runs sideways')
      if (panel.scrollWidth > panel.clientWidth) names.push('the panel runs sideways')
      const all = '.tt-shell :is(a[href], button:enabled, input:enabled, select:enabled, textarea:enabled, summary)'
      for (const one of document.querySelectorAll<HTMLElement>(all)) {
        // Of a group of buttons that exclude each other the labels are pressed; a skip link is there once it has the
        // focus.
        if (!one.checkVisibility() || one.matches('.btn-check, .visually-hidden-focusable')) continue
        one.scrollIntoView({ block: 'center', behavior: 'instant' })
        const { left, right, top, height } = one.getBoundingClientRect()
        const at = document.elementFromPoint((left + right) / 2, top + height / 2)
        if (left < 0 || right > width + 0.5 || !at || !(one.contains(at) || one.closest('label')?.contains(at)))
          names.push(one.getAttribute('aria-label') ?? one.textContent)
      }
      scrollTo({ top: 0, behavior: 'instant' })
      return names
    })
  await openApp(page)
  await simulate(page)
  for (const [width, height] of [
    [1024, 768],
    [390, 844],
    [640, 400],
  ] as const) {
    await page.setViewportSize({ width, height })
    for (const [number, view] of views.entries()) {
      await page.locator('body').press(String(number + 1))
      await expect(page).toHaveURL(new RegExp(`/${view}(/|$)`))
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
      await expect.poll(async () => [width, view, await lost()]).toEqual([width, view, []])
    }
  }
  await page.goto('/drive?run=recorded')
  await expect(page.getByRole('button', { name: '● Record the real app' })).toBeVisible()
  await expect.poll(lost).toEqual([])
})
