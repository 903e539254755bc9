import { readFile } from 'node:fs/promises'
import { profileRun } from '../../src/core/profile/profile.ts'
import type { Locator } from '@playwright/test'
import { storedIn } from '../support/stored.ts'
import { driveLive, expect, keptLog, openApp, openProject, openWith, simulate, test, unfold } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as {
  screens: { cells: { slots: Record<string, unknown>[] }[] }[]
}
const wall = demo.screens[0]!
/** The demo's wall with two items, whose waiting frame is lower than the settled one. */
const framed = (frame: object | undefined) => ({
  ...demo,
  screens: [
    {
      ...wall,
      layout: { columns: 1, gapDp: 4, paddingDp: 6 },
      feed: {
        source: {
          type: 'inline',
          items: [
            { id: 1, photo: 'tiles/1' },
            { id: 2, photo: 'tiles/2' },
          ],
        },
        base: 'https://archive.example.test/',
      },
      cells: [
        {
          height: { type: 'content' },
          slots: [
            {
              ...wall.cells[0]!.slots[0],
              size: { type: 'fixed', widthDp: 200, heightDp: 200 },
              stages: {
                waiting: { visual: { type: 'skeleton' }, ...(frame && { frame }) },
                arriving: { ...(frame && { frame }) },
              },
            },
          ],
        },
      ],
    },
  ],
  scripts: [{ name: 'look', steps: [{ do: 'wait', ms: 1500 }] }],
  script: 'look',
})

test('pictures that arrive late move what is below by what the profile says, and by nothing once the frames agree', async ({
  page,
}) => {
  await openWith(page, '/cell', framed({ widthDp: 200, heightDp: 140 }))
  await expect(page.getByText('“waiting” is 60 dp shorter than “settled”.')).toBeVisible()
  /**
   * Counts, in the page's own frames, every change of a cell's height that has another below it, and by how many dp.
   */
  const watch = () =>
    page.evaluate(() => {
      const seen = new Map<Element, number>()
      const jumped = { jumps: 0, dp: 0 }
      Object.assign(window, { counted: jumped })
      const look = () => {
        for (const cell of document.querySelectorAll<HTMLElement>('.tt-glass .tt-cell[data-index="0"]')) {
          const height = parseFloat(cell.style.height)
          const before = seen.get(cell)
          if (before !== undefined && before !== height) {
            jumped.jumps++
            jumped.dp += Math.abs(height - before)
          }
          seen.set(cell, height)
        }
        requestAnimationFrame(look)
      }
      look()
    })
  // The list that the page opened with has made its own jump by now.
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(2)
  await watch()
  const run = await driveLive(page)
  const jumped = await page.evaluate(() => (window as unknown as { counted: { jumps: number; dp: number } }).counted)
  expect(run.metrics['pictures.jumps']).toBe(1)
  expect([run.metrics['pictures.jumps'], run.metrics['pictures.jumpDp']]).toEqual([jumped.jumps, jumped.dp])
  const { facts } = profileRun(await keptLog(page, run.id))
  expect(facts.jumps.map(({ units }) => units / 1024)).toEqual([60])

  await page.getByRole('button', { name: 'Hold the slot’s frame in every stage' }).click()
  await expect(page.getByText('dp shorter than')).toHaveCount(0)
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(2)
  await watch()
  const fixed = await driveLive(page)
  expect([fixed.metrics['pictures.jumps'], fixed.metrics['pictures.jumpDp']]).toEqual([0, 0])
  expect(await page.evaluate(() => (window as unknown as { counted: { jumps: number } }).counted.jumps)).toBe(0)
})

test('a slot is shaped on the picture: treatments in order, a picture dropped on a stage, its own settings as a set', async ({
  page,
}) => {
  /** Pictures of the archive that came, and who asked for them: a list, or the samples. */
  const had = new Set<string>()
  const sessions = new Set<string>()
  const parts = (url: string) => /\/origin\/([^/]+)\/(tiles\/.*)/.exec(url)?.slice(1) ?? ['', '']
  page.on('request', (request) => sessions.add(parts(request.url())[0]!))
  page.on('response', (response) => response.ok() && had.add(parts(response.url())[1]!))
  await openApp(page, '/cell')
  const pixel = () =>
    page.locator('.tt-stage-card[data-stage="settled"] canvas').evaluate((canvas: HTMLCanvasElement) => [
      ...canvas
        .getContext('2d')!
        .getImageData(canvas.width >> 1, 12, 1, 1)
        .data.slice(0, 3),
    ])
  await expect(page.locator('.tt-stage-card[data-stage="settled"] canvas')).toBeVisible()
  // What changes looks alone asks for no picture again, and no cell is without its own for a frame.
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(17)).toBeVisible()
  for (const stage of ['waiting', 'arriving'])
    await expect(page.locator(`.tt-glass .tt-cell[data-index] .tt-slot[data-stage="${stage}"]`)).toHaveCount(0)
  await page.evaluate(() => {
    const settled = () => document.querySelectorAll('.tt-glass .tt-slot[data-stage="settled"]').length
    const counts = { fewest: settled(), first: settled() }
    Object.assign(window, { counted: counts })
    const look = () => {
      counts.fewest = Math.min(counts.fewest, settled())
      requestAnimationFrame(look)
    }
    look()
  })
  await expect.poll(() => had.size).toBeGreaterThan(12)
  const before = { had: new Set(had), sessions: new Set(sessions) }
  /** What the list asks for that is made again. */
  const asked: string[] = []
  page.on('request', (request) => {
    const [session, tile] = parts(request.url()) as [string, string]
    if (!before.sessions.has(session)) asked.push(tile)
  })
  await page.getByRole('slider', { name: 'Corner radius' }).press('ArrowRight')
  await expect(page.locator('.tt-glass .tt-slot').first()).toHaveCSS('border-radius', '7px')
  const { fewest, first } = await page.evaluate(
    () => (window as unknown as { counted: { fewest: number; first: number } }).counted,
  )
  expect(fewest).toBe(first)
  // Once it asks for rows that come, it has asked for all that it lacked.
  await page.locator('.tt-glass').press('PageDown')
  await expect.poll(() => asked.filter((tile) => !before.had.has(tile)).length).toBeGreaterThan(3)
  expect(asked.filter((tile) => before.had.has(tile))).toEqual([])
  await page.getByRole('button', { name: '+ tint' }).click()
  await page.getByRole('button', { name: '+ grayscale' }).click()
  await expect.poll(async () => new Set(await pixel()).size).toBe(1)
  // The other way round the tint is the last word, and its colour shows.
  await page.getByRole('button', { name: /^grayscale, 2 of 2/ }).focus()
  await page.keyboard.press('ArrowLeft')
  await expect(page.getByRole('button', { name: /^grayscale, 1 of 2/ })).toBeVisible()
  await expect.poll(async () => new Set(await pixel()).size).toBeGreaterThan(1)

  const file = await page.evaluateHandle(() => {
    const data = new DataTransfer()
    data.items.add(
      new File(
        [
          '<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><rect width="8" height="8" fill="#00ff00"/></svg>',
        ],
        'kiln mark.svg',
        { type: 'image/svg+xml' },
      ),
    )
    return data
  })
  await page.locator('.tt-stage-card[data-stage="failed"]').dispatchEvent('drop', { dataTransfer: file })
  await page.getByRole('button', { name: 'Failed' }).click()
  await expect(page.getByRole('button', { name: 'kiln mark' })).toHaveAttribute('aria-pressed', 'true')
  await expect(page.locator('.tt-stage-card[data-stage="failed"] .tt-placeholder')).toHaveAttribute(
    'style',
    /data:image\/svg\+xml;base64/,
  )
  await page.getByRole('button', { name: 'The same in every stage' }).click()
  await expect(page.getByText('users cannot tell failed from waiting')).toBeVisible()

  // Forced on the device, every cell shows it; let go, each is as it really is.
  const onDevice = (stage: string) => page.locator(`.tt-glass .tt-cell[data-index] .tt-slot[data-stage="${stage}"]`)
  await expect(onDevice('settled').nth(12)).toBeVisible()
  const force = page.getByRole('button', { name: 'show on the device' })
  await force.click()
  await expect(onDevice('settled')).toHaveCount(0)
  await expect(onDevice('failed').nth(12)).toBeVisible()
  await force.click()
  await expect(onDevice('settled').nth(12)).toBeVisible()
  await expect(onDevice('failed')).toHaveCount(0)

  await page.getByRole('button', { name: 'keep as a set' }).click()
  await expect(page.locator('.tt-own select')).toHaveValue('set 1')
  await expect(page.getByRole('button', { name: /^grayscale, 1 of 2/ })).toBeVisible()
  await page.locator('.tt-own select').selectOption('')
  await expect(page.getByRole('button', { name: /^grayscale/ })).toHaveCount(0)
})

test('what can be dragged can be typed, sets and variants have names, two variants are compared px by px, and a failed picture is asked for again', async ({
  page,
}) => {
  await test.step('what can be dragged can be typed; sets and variants have names; one change of the app’s defaults reaches all who follow', async () => {
    await openWith(page, '/cell', {
      format: 'tile-tug/project',
      version: 1,
      name: 'Two walls',
      screens: ['near', 'far'].map((id) => ({
        id,
        feed: {
          source: { type: 'inline', items: [{ id: 1, photo: 'tiles/1' }] },
          base: 'https://archive.example.test/',
        },
        cells: [{ slots: [{ size: { type: 'fixed', widthDp: 96, heightDp: 96 } }] }],
      })),
      pictures: { sets: { 'set 1': { shadowDp: 4 } } },
      variants: [{ name: 'Variant 1', patch: [{ op: 'replace', path: '/loading/memoryMb', value: 0 }] }],
    })
    const own = page.getByRole('region', { name: 'Picture slot' })
    const type = async (field: Locator, value: string) => {
      await field.fill(value)
      await page.keyboard.press('Enter')
    }
    await own.getByText('More').click()
    await type(own.getByLabel('Each corner, top right'), '21.5')
    await type(own.getByLabel('Each inset, left'), '3')
    await type(own.getByLabel('Focus, down'), '0.25')
    await type(own.getByLabel('Focus, across'), 'half')
    await expect(page.getByText('Focus, across stays 0.5: “half” is not a number.')).toBeVisible()
    await page.getByRole('button', { name: '+ blur' }).click()
    await type(own.getByLabel('blur radius'), '12.5')
    await page.getByRole('button', { name: '+ tint' }).click()
    await own.getByLabel('tint colour').fill('#aa3300')
    await type(own.getByLabel('tint amount'), '0.45')
    interface Kept {
      name: string
      raw: { screens: { cells: { slots: object[] }[] }[] }
    }
    const slotOf = async (screen: number) => {
      const kept = (await storedIn<Kept>(page, 'projects')).find(({ name }) => name === 'Two walls')
      return kept?.raw.screens[screen]!.cells[0]!.slots[0] ?? null
    }
    await expect
      .poll(() => slotOf(0))
      .toMatchObject({
        cornersDp: [8, 21.5, 8, 8],
        insetDp: [0, 0, 0, 3],
        position: [0.5, 0.25],
        treatments: [
          { type: 'blur', radiusDp: 12.5 },
          { type: 'tint', colour: '#AA3300', amount: 0.45 },
        ],
      })

    await unfold(page, 'All pictures of the app')
    const app = page.getByRole('group', { name: 'All pictures of the app' })
    await type(app.getByRole('textbox', { name: 'Lasts' }), '350')
    await expect(page.getByRole('region', { name: 'Arrival' }).getByRole('textbox', { name: 'Lasts' })).toHaveValue(
      '350',
    )
    const corners = app.getByRole('group', { name: 'Who follows in Corners' })
    await expect(corners).toContainText('1 of 2 follow; not')
    await type(app.getByRole('textbox', { name: 'Corners' }), '2')
    await corners.getByRole('button', { name: '×' }).click()
    await expect(corners).toContainText('2 of 2 follow')
    await expect(own.getByLabel('Each corner, top right')).toHaveValue('2')
    await type(app.getByLabel('Name of the set set 1'), 'Under a lamp')
    await expect(page.locator('.tt-own select')).toContainText('Under a lamp')
    await page.locator('.tt-own select').selectOption('Under a lamp')
    await expect(app.getByText('used by')).toBeVisible()
    await app.getByRole('button', { name: 'Remove the set Under a lamp' }).click()
    await expect.poll(() => slotOf(0)).toMatchObject({ shadowDp: 4, use: null })

    await page.locator('#variants').click()
    await page.getByRole('button', { name: 'Variant 1' }).click()
    await page.locator('#variants').click()
    await type(page.getByLabel('Name of the variant Variant 1'), 'No memory')
    await expect(page.locator('#variants')).toContainText('No memory')
  })
  await test.step('two variants are compared px by px: the same is the same, a cut corner is counted', async () => {
    const wallCell = {
      ...wall.cells[0],
      height: { type: 'fixed', dp: 100 },
      slots: [
        { ...wall.cells[0]!.slots[0], size: { type: 'fixed', widthDp: 100, heightDp: 100 }, cornersDp: [0, 0, 0, 0] },
      ],
    }
    await openProject(page, {
      ...demo,
      screens: [{ ...wall, layout: { columns: 1, gapDp: 0, paddingDp: 0 }, cells: [wallCell] }],
      device: { widthDp: 100, heightDp: 400, density: 2 },
      variants: [
        { name: 'no change', patch: [] },
        {
          name: 'cut',
          patch: [
            { op: 'replace', path: '/screens/0/cells/0/slots/0/stages', value: {} },
            { op: 'replace', path: '/screens/0/cells/0/slots/0/cornersDp', value: [40, 0, 0, 0] },
          ],
        },
      ],
    })
    await expect(page.locator('.tt-stage-card[data-stage="settled"] canvas')).toBeVisible()
    await page.getByText('Same look?').click()
    const status = page.locator('.tt-same-look [role="status"]')
    const compare = async (name: string) => {
      await page.getByLabel('The other variant').selectOption(name)
      await page.getByRole('button', { name: 'Compare the settled cell' }).click()
    }
    await compare('no change')
    await expect(status).toHaveText('The same: none of 40,000 px differs.')
    await compare('cut')
    await expect(status).toHaveText(/^[\d,]+ of 40,000 px differ/)
    // What a corner of 80 px cuts off its square: (1 − π ÷ 4) × 80², and its smoothed edge.
    const count = Number((await status.innerText()).split(' ')[0]!.replaceAll(',', ''))
    const cut = (1 - Math.PI / 4) * 80 * 80
    expect(count).toBeGreaterThan(0.93 * cut)
    expect(count).toBeLessThan(1.12 * cut)
  })
  await test.step('a failed picture is requested again by a tap, all of them with a key, and a fallback stands in where there is one', async () => {
    const failing = (stages: object) => ({
      ...demo,
      loading: { retry: { attempts: 0 }, ahead: { amount: 0 } },
      network: { downKbps: 50_000, rttMs: 5, faults: [{ match: '*/tiles/*', kind: 'status', status: 404, times: 1 }] },
      assets: [
        {
          name: 'spare',
          type: 'image/svg+xml',
          base64: Buffer.from(
            '<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"><rect width="8" height="8" fill="#00ff00"/></svg>',
          ).toString('base64'),
        },
      ],
      screens: [{ ...wall, cells: [{ ...wall.cells[0], slots: [{ ...wall.cells[0]!.slots[0], stages }] }] }],
    })
    await openProject(page, failing({}))
    const inStage = (stage: string) => page.locator(`.tt-glass .tt-cell[data-index] .tt-slot[data-stage="${stage}"]`)
    await expect(inStage('failed').nth(12)).toBeVisible()
    await expect(inStage('settled')).toHaveCount(0)
    // It says why to whoever points at it, before any run.
    await page.locator('.tt-glass .tt-cell[data-index="4"]').hover()
    await expect(page.getByRole('tooltip')).toHaveText('Picture unavailable: 404')
    await page.locator('.tt-glass .tt-cell[data-index="4"]').click()
    await expect(inStage('settled')).toHaveCount(1)
    await expect(page.locator('.tt-glass .tt-cell[data-index="4"] .tt-slot')).toHaveAttribute('data-stage', 'settled')
    await page.locator('.tt-glass').focus()
    await page.keyboard.press('r')
    await expect(inStage('failed')).toHaveCount(0)

    await openProject(page, failing({ failed: { fallbacks: ['packaged:spare'], retry: false } }))
    await expect(inStage('settled').nth(12)).toBeVisible()
    const colour = () =>
      page
        .locator('.tt-glass .tt-cell[data-index="0"] canvas')
        .evaluate((canvas: HTMLCanvasElement) => [
          ...canvas.getContext('2d')!.getImageData(canvas.width >> 1, canvas.height >> 1, 1, 1).data,
        ])
    await expect.poll(colour).toEqual([0, 255, 0, 255])
  })
})

test('a picture outside the list is loaded, what changed since a run becomes a variant, and texts of every kind stand beside the picture', async ({
  page,
}) => {
  await openApp(page, '/cell')
  await test.step('a picture outside the list is loaded at its own size, from memory the second time, and reported when it fails', async () => {
    await page.getByText('A picture outside the list').click()
    const status = page.locator('.tt-outside [role="status"]')
    const load = page.getByRole('button', { name: 'Load it' })
    await load.click()
    await expect(status).toContainText(
      /^96 × 96 px from network, [\d,]+ bytes, in \d+ ms: https:\/\/archive\.example\.test\/tiles\/4711$/,
    )
    await load.click()
    await expect(status).toContainText(/^96 × 96 px from memory/)
    await page.getByLabel('Its address').last().fill('tiles/lost-9')
    await load.click()
    await expect(status).toContainText(/^Picture unavailable: 404, after \d+ ms: .*tiles\/lost-9$/)
    // What was reported was of another address; in dp it is as large as the device makes it.
    await page.getByLabel('Its address').last().fill('tiles/4712')
    await expect(status).toBeEmpty()
    await page.getByLabel('Unit of the longer side').selectOption('dp')
    await load.click()
    await expect(status).toContainText('252 × 252 px from network')
    await page.getByRole('button', { name: 'wait for it on the main thread' }).click()
    await expect(status).toContainText('Refused: waiting on the main thread would hold every frame')
  })
  await test.step('what changed since a run becomes a variant, and one key flips the device between the two', async () => {
    await simulate(page)
    const columns = page.getByLabel('Columns').last()
    await columns.fill('2')
    await columns.press('Enter')
    const firstRow = () =>
      page
        .locator('.tt-glass .tt-cell[data-index="1"]')
        .evaluate((cell) =>
          Math.round(
            (cell.getBoundingClientRect().width / document.querySelector('.tt-glass')!.getBoundingClientRect().width) *
              100,
          ),
        )
    await expect.poll(firstRow).toBeGreaterThan(45)
    await page.locator('#variants').click()
    await page.getByText('Keep what changed since run 1 as a variant').click()
    await expect(page.locator('#variants')).toHaveText('Variant 2')
    await expect(columns).toHaveValue('2')
    await page.locator('body').press('v')
    await expect(page.locator('#variants')).toHaveText('as it is')
    await expect(columns).toHaveValue('3')
    await expect.poll(firstRow).toBeLessThan(35)
    await page.locator('body').press('v')
    await expect.poll(firstRow).toBeGreaterThan(45)
    // A run with the variant is what the command line gives with --variant: the same settings, the same log.
    const run = await simulate(page)
    expect(run.changed.join()).toMatch(/^Tile wall, Columns: 3 → 2$/)
  })
  await test.step('long, missing and right-to-left texts stand beside the picture as they would, it can change sides, and what they lack is reported', async () => {
    await page.locator('#screens').click()
    await page.getByText('Makers', { exact: true }).click()
    const settled = page.locator('.tt-stage-card[data-stage="settled"]')
    const line = settled.locator('.tt-text').first()
    await expect(line).not.toBeEmpty()
    const own = await line.innerText()
    await page.getByRole('button', { name: 'long', exact: true }).click()
    await expect(line).toContainText(`${own} ${own}`)
    // A card is drawn again with its texts: what is looked at may just have been replaced.
    await expect.poll(() => line.evaluate((text) => text.scrollHeight > text.clientHeight + 2)).toBe(true)
    await page.getByRole('button', { name: 'right to left' }).click()
    await expect.poll(() => line.evaluate((text) => getComputedStyle(text).direction)).toBe('rtl')
    await page.getByRole('button', { name: 'missing' }).click()
    await expect(line).toBeEmpty()
    await page.getByRole('button', { name: 'its own texts' }).click()
    const side = () =>
      settled.evaluate((card) => {
        const [slot, text] = ['.tt-slot', '.tt-text'].map((each) => card.querySelector(each)!.getBoundingClientRect())
        return slot!.left < text!.left ? 'start' : 'end'
      })
    await expect.poll(side).toBe('start')
    await page.getByRole('region', { name: 'Picture slot' }).getByText('More').click()
    await page.getByText('end', { exact: true }).click()
    await expect.poll(side).toBe('end')
    // A picture as wide as the row leaves the texts nothing, which is said.
    await expect(page.locator('.tt-text-room')).not.toContainText('0 dp are left')
    const frame = page.getByRole('group', { name: 'Frame' })
    await frame.getByRole('button', { name: 'fixed', exact: true }).click()
    await page.getByLabel('Size, width').fill('1000')
    await page.keyboard.press('Enter')
    await expect(page.locator('.tt-text-room')).toHaveText(
      /^The picture takes the whole row: 0 dp are left for the texts/,
    )

    // Texts that need more room than they were laid out for are reported in dp.
    await page.locator('#screens').click()
    await page.getByText('Shelves', { exact: true }).click()
    await expect(page.locator('#screens')).toHaveText('Shelves')
    const status = page.locator('.tt-text-room')
    await expect(status).toContainText(/dp/)
    await expect(status).not.toContainText('0 dp are left')
    await page.getByRole('button', { name: 'long', exact: true }).click()
    const texts = page.locator('.tt-stage-card[data-stage="settled"] .tt-text')
    await expect(texts.last()).not.toBeEmpty()
    /**
     * Of each text of the card: the height it has, and the height that it would take with as many lines as it may have.
     */
    const heights = await texts.evaluateAll((all) =>
      all.map((text) => {
        const own = parseFloat((text as HTMLElement).style.height)
        const size = parseFloat(getComputedStyle(text).fontSize) * 1.3
        const copy = text.cloneNode(true) as HTMLElement
        Object.assign(copy.style, { height: 'auto', display: 'block', webkitLineClamp: 'none', top: '0' })
        text.parentElement!.append(copy)
        const needed = Math.min(copy.scrollHeight, Number((text as HTMLElement).style.webkitLineClamp) * size)
        copy.remove()
        return Math.round(needed - own)
      }),
    )
    const off = heights.filter((dp) => Math.abs(dp) > 1)
    if (off.length === 0) await expect(status).toContainText('they were laid out for')
    else
      for (const dp of off)
        await expect(status).toContainText(new RegExp(`${Math.abs(dp)} dp ${dp > 0 ? 'clipped' : 'spare'}`))
  })
})

test('the device is turned, widened and made denser, the tug keeps any moment of the load still, frames, insets and the gap are dragged', async ({
  page,
}) => {
  await test.step('the device is turned, widened and made denser at once, and the list with it', async () => {
    await openApp(page, '/cell')
    const glass = page.locator('.tt-glass')
    const shape = () => glass.evaluate((element) => [element.style.width, element.style.height])
    expect(await shape()).toEqual(['411px', '823px'])
    /** The list is made again a moment after the device has changed. */
    const cellWidth = () =>
      page
        .locator('.tt-glass .tt-cell[data-index]')
        .evaluateAll((cells) => (cells[0] as HTMLElement | undefined)?.style.width)
    const upright = await cellWidth()
    const choose = async (name: string) => {
      await page.locator('#device-chip').click()
      await page.getByRole('button', { name, exact: true }).click()
    }
    await choose('3.5 px a dp')
    await expect(page.getByText('Picture slot · 456 × 456 px')).toBeVisible()
    await choose('Turn it')
    expect(await shape()).toEqual(['823px', '411px'])
    await expect.poll(cellWidth).not.toBe(upright)
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(4)).toBeVisible()
    await choose('Turn it')
    await expect.poll(cellWidth).toBe(upright)
    // The item at the top stays at the top, turned, wide and narrow, and is there again at the former width.
    await glass.focus()
    for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown')
    const top = () =>
      page.locator('.tt-glass').evaluate((element) => {
        const edge = element.getBoundingClientRect().top
        const cells = [...element.querySelectorAll<HTMLElement>('.tt-cell[data-index]')]
        const shown = cells.filter((cell) => cell.getBoundingClientRect().bottom > edge + 1)
        return Math.min(...shown.map((cell) => Number(cell.dataset.index)))
      })
    await expect.poll(top).toBeGreaterThan(30)
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(4)).toBeVisible()
    const item = await top()
    for (const [name, width] of [
      ['Turn it', '823px'],
      ['360 dp wide', '360px'],
      ['600 dp wide', '600px'],
      ['411 dp wide', '411px'],
    ] as const) {
      const before = await cellWidth()
      await choose(name)
      await expect.poll(async () => (await shape())[0]).toBe(width)
      await expect.poll(cellWidth).not.toBe(before)
      await expect.poll(top, name).toBe(item)
    }
    expect(await shape()).toEqual(['411px', '823px'])
  })
  await test.step('the tug keeps any moment of the load still; a frame is dragged by its edges and snaps, a stage gets a frame of its own, insets and the gap are dragged too', async () => {
    await openProject(page, { ...demo, name: 'As it was' })
    const tug = page.getByRole('slider', { name: 'Moment of the load' })
    const current = page.locator('.tt-stage-card[data-current]')
    await tug.focus()
    await page.keyboard.press('ArrowRight')
    await expect(tug).toHaveAttribute('aria-valuetext', '17 ms')
    await expect(current).toHaveAttribute('data-stage', 'waiting')
    const end = Number(await tug.getAttribute('aria-valuemax'))
    // Onward page by page: every stage of a load comes, in its order.
    const met = new Set<string>()
    for (let i = 0; i < end / 160 + 2; i++) {
      met.add((await current.getAttribute('data-stage'))!)
      await page.keyboard.press('PageDown')
    }
    expect([...met]).toEqual(['waiting', 'arriving', 'settled'])
    // Halfway through the arrival the picture is half there, and stays so.
    const arrival = page.getByRole('slider', { name: 'End of the arrival' })
    await expect(arrival).toHaveAttribute('aria-valuenow', '200')
    const area = (await page.locator('.tt-track-area').boundingBox())!
    const handle = (await arrival.boundingBox())!
    await page.mouse.click(handle.x + handle.width / 2 - (100 / end) * area.width, area.y + 30)
    await expect(current.locator('figcaption')).toContainText(/(9\d|100|10\d) ms in/)
    const opacity = () => current.locator('canvas').evaluate((canvas) => Number(getComputedStyle(canvas).opacity))
    const held = await opacity()
    expect(held).toBeGreaterThan(0.5)
    expect(held).toBeLessThan(0.95)
    expect(await opacity()).toBe(held)
    // Its end is dragged on the track.
    await arrival.focus()
    await page.keyboard.press('PageUp')
    await expect(page.getByRole('region', { name: 'Arrival' }).getByRole('textbox', { name: 'Lasts' })).toHaveValue(
      '205',
    )

    // Frames, on the same picture.
    await expect(page.locator('.tt-stage-card[data-stage="settled"] canvas')).toBeVisible()
    const slider = (name: string) => page.getByRole('slider', { name, exact: true })
    const value = async (name: string) => Number(await slider(name).getAttribute('aria-valuenow'))
    const drag = async (name: string, dx: number, dy: number, steps = 4) => {
      const box = (await slider(name).boundingBox())!
      await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
      await page.mouse.down()
      await page.mouse.move(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, { steps })
      await page.mouse.up()
    }
    const square = await value('Width, settled')
    expect(await value('Height, settled')).toBe(square)
    // In one step, so that what is drawn next is all of it.
    await drag('Height, settled', 0, -30, 1)
    await expect.poll(() => value('Height, settled')).toBeLessThan(square - 20)
    const lower = await value('Height, settled')
    // Near to the square again, it settles on it.
    const room = (await page.locator('.tt-stage-card[data-stage="settled"] .tt-stage-room').boundingBox())!
    await drag('Height, settled', 0, (square - lower) * (room.width / square))
    await expect.poll(async () => Math.round(await value('Height, settled'))).toBe(Math.round(square))

    // Two steps, and between them the page is drawn for another reason before it is drawn with the first.
    await expect(page.locator('.tt-tug')).toBeVisible()
    await slider('Height, waiting').evaluate(async (handle) => {
      const press = (on: Element, key: string) => on.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
      press(handle, 'PageDown')
      press(document.querySelector('.tt-tug')!, 'ArrowRight')
      for (let i = 0; i < 10; i++) await Promise.resolve()
      press(handle, 'PageDown')
    })
    await slider('Height, waiting').focus()
    for (let i = 0; i < 2; i++) await page.keyboard.press('PageDown')
    await expect(page.getByText(/“waiting” is 20(\.\d)? dp shorter than “settled”/)).toBeVisible()
    await expect(page.getByLabel('Frame height, dp')).toHaveValue(/^11\d/)
    await page.getByRole('button', { name: 'the slot’s', exact: true }).click()
    await expect(page.getByText('shorter than “settled”')).toHaveCount(0)

    await page.getByRole('button', { name: 'insets and gap' }).click()
    await slider('Inset, left').focus()
    await page.keyboard.press('PageUp')
    await slider('Gap below').focus()
    await page.keyboard.press('ArrowDown')
    await expect
      .poll(() =>
        page
          .locator('.tt-glass .tt-cell[data-index="0"] .tt-slot')
          .evaluate((slot) => (slot as HTMLElement).style.left),
      )
      .toBe('5px')
    await expect(slider('Gap below')).toHaveAttribute('aria-valuetext', '5 dp')
  })
})
