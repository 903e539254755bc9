import { readFile } from 'node:fs/promises'
import type { Locator, Page } from '@playwright/test'
import { expect, openWith, simulate, test, keptRunCount } from './fixture.ts'

/** The demo with two of everything that can be removed. */
async function fullProject(): Promise<object> {
  const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as {
    screens: { cells: Record<string, unknown>[] }[]
  }
  const [cell] = demo.screens[0]!.cells
  const [slot] = cell!.slots as Record<string, unknown>[]
  const failed = { visual: { type: 'drawn', shape: 'cracked-tile' }, fallbacks: ['/tiles/1', '/tiles/2'] }
  Object.assign(slot!, {
    treatments: [
      { type: 'grayscale', amount: 1 },
      { type: 'blur', radiusDp: 4 },
    ],
    stages: { failed },
  })
  cell!.slots = [slot, { ...slot, id: 'second' }]
  cell!.texts = [{ at: '/title' }, { at: '/kiln/name' }]
  return {
    ...demo,
    pictures: { sets: { round: { circle: true }, plain: { cornersDp: [0, 0, 0, 0] } } },
    network: {
      faults: [
        { match: '*/tiles/13?*', kind: 'status', status: 503 },
        { match: '*/tiles/14?*', kind: 'stall' },
      ],
      offline: [
        { fromMs: 9000, toMs: 9100 },
        { fromMs: 9200, toMs: 9300 },
      ],
    },
    loading: {
      headers: [
        { host: 'one.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'one' },
        { host: 'two.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'two' },
      ],
      cleartextHosts: ['one.example.test', 'two.example.test'],
    },
    budgets: [
      { metric: 'bytes.wastedShare', max: 0.9 },
      { metric: 'frames.late', max: 900 },
    ],
  }
}

/** Where the focus is: nowhere, or what it is named. */
const focused = (page: Page) =>
  page.evaluate(() => {
    const { activeElement: at, body } = document
    return !at || at === body ? 'nowhere' : `${at.closest('.tt-panel') ? 'panel' : 'elsewhere'}: ${at.tagName}`
  })

async function press(page: Page, target: Locator): Promise<void> {
  await target.focus()
  await page.keyboard.press('Enter')
}

/**
 * Removes by the keyboard whatever can be removed on this step, until all that is expected was there; the focus stays
 * in the panel each time. What is on a step may come a moment after its heading.
 */
async function takeAllAway(page: Page, expected: readonly RegExp[]): Promise<void> {
  const gone: string[] = []
  const panel = page.locator('.tt-panel')
  const removals = panel.getByRole('button', {
    name: /^(Remove (?!the first).*|remove this picture|Forget .*|Delete .*|Fallback .* remove it|.+ ×)$/,
  })
  const missing = async () => {
    // What is folded is unfolded, for what stands in it.
    for (let folded; (folded = panel.locator('details:not([open]) > summary:visible').first()), await folded.count();)
      await press(page, folded)
    for (let left; (left = await removals.count()) > 0;) {
      const target = removals.first()
      const name = (await target.getAttribute('aria-label')) ?? (await target.innerText())
      await press(page, target)
      await expect.poll(() => removals.count(), name).toBeLessThan(left)
      await expect.poll(() => focused(page), `after “${name}”`).toMatch(/^panel: /)
      gone.push(name)
    }
    return expected.filter((each) => !gone.some((name) => each.test(name))).map(String)
  }
  // Each look removes what it finds, which takes a busy machine long: the test's own limit is all that bounds it.
  for (let left = await missing(); left.length > 0; left = await missing())
    await test.step(`not there yet: ${left.join()}`, () => page.evaluate(() => new Promise(requestAnimationFrame)))
}

test('whatever is taken away by the keyboard, the focus stays beside it', async ({ page }) => {
  await openWith(page, '/feed', await fullProject())
  const go = async (step: string) => {
    await page.getByRole('link', { name: step, exact: true }).click()
    await expect(page.getByRole('heading', { level: 1 })).toContainText(step === 'Profile' ? 'Run' : step)
  }
  await takeAllAway(page, [/the header for one\.example\.test/, /the header for two\.example\.test/])
  await go('Cell')
  await page.getByRole('button', { name: 'Failed', exact: true }).click()
  await takeAllAway(page, [
    /^Remove grayscale/,
    /^Remove blur/,
    /^Remove the text \/title/,
    /^Remove the set round/,
    /^Fallback 1/,
  ])
  await go('Drive')
  const gestures = page.getByRole('group', { name: 'Gesture' }).getByRole('button')
  const before = await gestures.allInnerTexts()
  await press(page, gestures.filter({ hasText: 'remove this gesture' }))
  await expect.poll(() => gestures.allInnerTexts()).not.toEqual(before)
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await page.getByRole('button', { name: '+ keep as own' }).first().click()
  await page.getByLabel('A name for this device').fill('mine')
  await page.keyboard.press('Enter')
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await takeAllAway(page, [/^Remove fault 1/, /^Remove “no network” 1/, /^Forget mine/])
  await go('Compare')
  await page.getByRole('button', { name: 'Budgets', exact: true }).click()
  await takeAllAway(page, [/^Remove the budget of .*(late|frames)/i, /^Remove the budget of .*(nobody|wasted)/i])
})

test('a run is made, named, noted and deleted by the keyboard, and undone; the focus is never lost', async ({
  page,
}) => {
  await openWith(page, '/loading', {
    ...JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')),
    scripts: [{ name: 'short', steps: [{ do: 'wait', ms: 400 }] }],
    script: 'short',
  })
  await simulate(page)
  // A live drive, which takes the device for itself, gives the focus back too.
  const live = page.getByRole('button', { name: 'Drive live' })
  await press(page, live)
  await expect.poll(() => keptRunCount(page)).toBe(2)
  await expect(live).toBeFocused()
  const start = page.getByRole('button', { name: 'Simulate', exact: true })
  await press(page, start)
  await expect.poll(() => keptRunCount(page)).toBe(3)
  // Disabled while it runs, and back with the focus.
  await expect(start).toBeFocused()
  // A press beside it takes the focus away: it is not brought back when that place goes away.
  const there = page.getByRole('button', { name: 'Open in Profile' })
  await there.focus()
  // Between the steps and the message about saving there is nothing.
  await page.mouse.click(980, 22)
  expect(await focused(page)).toBe('nowhere')
  await page.keyboard.press('5')
  await expect(there).toBeHidden()
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
  expect(await focused(page)).toBe('nowhere')
  await page.getByRole('link', { name: 'Profile', exact: true }).click()
  const runs = page.getByRole('region', { name: 'Runs' })
  await press(page, runs.getByRole('button', { name: 'Rename run 3' }))
  await expect(page.getByLabel('Name of run 3')).toBeFocused()
  await page.keyboard.type('the second')
  await page.keyboard.press('Enter')
  await expect(runs.getByRole('button', { name: '3 the second' })).toBeVisible()
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await press(page, runs.getByRole('button', { name: 'Rename run 3' }))
  await expect(page.getByLabel('Name of run 3')).toBeFocused()
  await page.keyboard.press('Escape')
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  // A story is closed by its button.
  await page.getByRole('img', { name: /^Scroll map of/ }).focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('+')
  await press(page, page.getByRole('button', { name: 'Close the story' }))
  await expect(page.getByRole('region', { name: /^Story of request/ })).toBeHidden()
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await page.getByRole('button', { name: 'Notes', exact: true }).click()
  for (const text of ['one', 'two']) {
    await page.getByPlaceholder(/note/i).fill(text)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: `Remove the note “${text}”` })).toBeVisible()
  }
  for (const text of ['one', 'two']) {
    await press(page, page.getByRole('button', { name: `Remove the note “${text}”` }))
    await expect(page.getByRole('button', { name: `Remove the note “${text}”` })).toBeHidden()
    await expect.poll(() => focused(page)).toMatch(/^panel: /)
  }
  await page.getByRole('button', { name: /^Findings/ }).click()
  // The run that is not shown, then the one that is, then it is brought back.
  await press(page, runs.getByRole('button', { name: 'Delete run 1' }))
  await expect(runs.getByRole('row')).toHaveCount(3)
  await press(page, runs.getByRole('button', { name: 'Delete run 2' }))
  await expect(runs.getByRole('row')).toHaveCount(2)
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await press(page, runs.getByRole('button', { name: 'Delete run 3' }))
  await expect(runs).toBeHidden()
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  await press(page, page.getByRole('button', { name: /^Undo: delete run/ }))
  await expect.poll(() => keptRunCount(page)).toBe(1)
  await expect.poll(() => focused(page)).toMatch(/^panel: /)
  // Help, the projects, and a project that is deleted in their list.
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect.poll(() => focused(page)).not.toBe('nowhere')
  await press(page, page.locator('#project-menu'))
  await press(page, page.getByRole('button', { name: 'All projects…' }))
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByRole('row')).toHaveCount(3)
  await press(page, dialog.getByRole('button', { name: /^Delete / }).last())
  await expect(dialog.getByRole('row')).toHaveCount(2)
  await expect.poll(() => page.evaluate(() => document.activeElement?.closest('[role="dialog"]') !== null)).toBe(true)
  await page.keyboard.press('Escape')
  await expect(dialog).toBeHidden()
  await expect.poll(() => focused(page)).not.toBe('nowhere')
})
