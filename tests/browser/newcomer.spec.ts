import { expect, openApp, test } from './fixture.ts'

test.use({ hints: true })

test('a newcomer follows the hints, one at a time, to a fix and to a feed; help brings them back', async ({ page }) => {
  await openApp(page)
  await expect(page).toHaveTitle('Loading · Saltmarsh Kiln archive · Tile Tug')
  const hint = page.getByRole('note')
  await expect(hint).toContainText('Drive it')
  // It points at the button, which has moved up as the strip came.
  await expect(page.getByRole('region', { name: 'Strip' }).getByRole('img')).toBeVisible()
  const gap = async () => {
    const [button, note] = [page.getByRole('button', { name: 'Drive live' }), hint].map((each) => each.boundingBox())
    return (await button)!.y - (await note)!.y - (await note)!.height
  }
  await expect.poll(async () => Math.round((await gap()) / 10)).toBe(1)
  await page.getByRole('button', { name: 'Drive live' }).click()
  await expect(hint).toHaveCount(0)
  await expect(hint).toContainText('Red and purple is waste')
  // What a live run wastes depends on the machine; a simulated one always has something to fix.
  await page.getByRole('button', { name: 'Simulate', exact: true }).click()
  await expect(page.getByText('run 2, simulated')).toBeVisible()
  await page.getByRole('button', { name: 'Open in Profile' }).click()
  await expect(hint).toContainText('Try this fix')
  // A hint is beside what it is about, not over it.
  const isApart = async () => {
    const at = (await page.getByRole('button', { name: 'Try this' }).first().boundingBox())!
    const note = (await hint.boundingBox())!
    return (
      note.y + note.height <= at.y ||
      note.y >= at.y + at.height ||
      note.x + note.width <= at.x ||
      note.x >= at.x + at.width
    )
  }
  await expect.poll(isApart).toBe(true)
  await page.getByRole('button', { name: 'Try this' }).first().click()
  await expect(hint).toContainText('Your own feed')
  await page.getByRole('link', { name: /^Feed/ }).click()
  await expect(page).toHaveURL(/\/feed$/)
  await expect(hint).toHaveCount(0)
  // A run that is made here shows in the strip, which is folded beside the feed.
  await page.getByRole('button', { name: 'Simulate', exact: true }).click()
  await expect(page.getByText('run 3, simulated')).toBeVisible()

  await page.locator('body').press('?')
  const help = page.getByRole('dialog', { name: 'Help' })
  await expect(help.getByText('Go to a step')).toBeVisible()
  await expect(help.getByText('A slot on screen without its picture.')).toBeAttached()
  // Single keys can be switched off; those with Ctrl stay.
  await help.getByRole('checkbox', { name: 'Single keys are shortcuts' }).uncheck()
  await page.keyboard.press('Escape')
  await expect(help).toHaveCount(0)
  await page.locator('body').press('5')
  await expect(page).toHaveURL(/\/feed$/)
  await page.getByRole('button', { name: 'Help' }).click()
  await help.getByRole('checkbox', { name: 'Single keys are shortcuts' }).check()
  await help.getByRole('button', { name: 'Show the hints again' }).click()
  await page.locator('body').press('3')
  await expect(page).toHaveURL(/\/loading$/)
  // There is a run already: the first hint is followed.
  await expect(hint).toContainText('Red and purple is waste')
  await page.reload()
  await expect(hint).toContainText('Red and purple is waste')
  await hint.getByRole('button', { name: 'Close the hints' }).click()
  await expect(hint).toHaveCount(0)

  // Explanations come by pointer and by keyboard alike, and go with Escape.
  const explained = page.getByRole('tooltip')
  const rows = page.locator('input[data-path="/loading/ahead/amount"]').first()
  await rows.focus()
  // A page that has just been loaded may not listen yet.
  await expect(async () => {
    await page.getByRole('button', { name: 'readout' }).hover()
    await expect(explained).toContainText('the tier of each picture', { timeout: 1500 })
  }).toPass()
  // What the pointer rests on stays explained when the focus leaves another place.
  await rows.blur()
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
  await expect(explained).toContainText('the tier of each picture')
  await page.locator('h1').hover()
  await expect(explained).toHaveCount(0)
  await rows.focus()
  await page.keyboard.press('Tab')
  await page.keyboard.press('Shift+Tab')
  await expect(rows).toBeFocused()
  await expect(explained).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(explained).toHaveCount(0)
  // The skip link leads past the line and the device.
  await page.getByRole('link', { name: 'Skip to the panel' }).focus()
  await page.keyboard.press('Enter')
  await expect(page.locator('#panel')).toBeFocused()
})
