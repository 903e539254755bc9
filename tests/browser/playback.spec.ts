import { readFile } from 'node:fs/promises'
import type { Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { K } from '../../src/core/log/event-kinds.ts'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { driveLive, expect, keptLog, openWith, simulate, test } from './fixture.ts'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Record<string, unknown>
const project = {
  ...demo,
  network: { rttMs: 60, downKbps: 9000 },
  scripts: [
    {
      name: 'there',
      steps: [
        { do: 'wait', ms: 1200 },
        { do: 'flick', dpPerS: 3000 },
        { do: 'wait', ms: 1400 },
        { do: 'flick', dpPerS: -2000 },
        { do: 'wait', ms: 1200 },
      ],
    },
  ],
  script: 'there',
}

/**
 * What a device shows: where its list stands, and each cell on its screen with its stage and the colours of its
 * picture.
 */
interface Look {
  top: number
  cells: Record<string, { top: number; stage: string; colours: string }>
}

/** Reads a device's screen off the page, in dp. A string, because it runs there. */
const look = `(host) => {
  const list = host.querySelector('.tt-list')
  const window = host.getBoundingClientRect()
  const dp = window.height / host.offsetHeight
  const cells = {}
  for (const cell of host.querySelectorAll('.tt-cell[data-index]')) {
    const box = cell.getBoundingClientRect()
    if (cell.style.visibility !== 'visible' || box.bottom <= window.top + 1 || box.top >= window.bottom - 1) continue
    const slot = cell.querySelector('.tt-slot')
    const canvas = cell.querySelector('canvas')
    let colours = ''
    if (slot.dataset.stage === 'settled' && canvas.width > 0) {
      const at = (x, y) => [...canvas.getContext('2d').getImageData(Math.floor(canvas.width * x), Math.floor(canvas.height * y), 1, 1).data.slice(0, 3)].map((part) => part >> 4).join()
      colours = [at(0.5, 0.5), at(0.25, 0.4), at(0.7, 0.8)].join(' ')
    }
    cells[cell.dataset.index] = { top: Math.round((box.top - window.top) / dp), stage: slot.dataset.stage, colours }
  }
  return { top: -Number(/, (-?[\\d.e-]+)px/.exec(list.style.transform)?.[1] ?? 0), cells }
}`

/** One drive gives twenty moments; on a busy machine it may give none. */
const mostDrives = 10

test('playback at twenty moments of a live drive shows what the device showed then: cells, stages, pictures', async ({
  page,
}) => {
  await openWith(page, '/profile', project)
  await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]').nth(5)).toBeVisible()
  await page.evaluate(`(() => {
    const look = ${look}
    window.looks = []
    let last = 0
    const each = (at) => {
      // Only a drive's list counts: the hand's stays at the top.
      if (document.body.innerText.includes('Driving') && at - last > 90) {
        last = at
        window.looks.push(look(document.querySelector('.tt-glass')))
      }
      requestAnimationFrame(each)
    }
    requestAnimationFrame(each)
  })()`)
  // A drive on a busy machine has fewer frames to look at, and fewer pictures in them: then there is another.
  let moments = 0
  let pictures = 0
  for (let drives = 0; (moments < 20 || pictures <= 40) && drives < mostDrives; drives++) {
    const played = await playDrive(page, Math.max(10, 20 - moments))
    moments += played.moments
    pictures += played.pictures
  }
  expect(moments, 'moments of the drives that can be compared').toBeGreaterThanOrEqual(20)
  // Not twenty screens of placeholders.
  expect(pictures).toBeGreaterThan(40)
})

/**
 * Drives, and compares what was shown with its playback, at so many moments at most; returns how many there were, and
 * how many pictures in them.
 */
async function playDrive(page: Page, most: number): Promise<{ moments: number; pictures: number }> {
  // The device shows the live list again where a drive before was played back.
  const back = page.getByRole('button', { name: 'back to live' })
  if (await back.isVisible()) await back.click()
  await expect(page.locator('.tt-played')).toHaveCount(0)
  await page.evaluate('window.looks = []')
  const run = await driveLive(page)
  await expect(page.getByRole('heading', { name: new RegExp(`^Run ${run.number} ·`) })).toBeVisible()
  const looks = ((await page.evaluate('window.looks')) as Look[]).filter(
    ({ top, cells }) => top > 0 && Object.keys(cells).length > 0,
  )
  const log = await keptLog(page, run.id)
  let earlier = 0
  log.each(({ t }, row, index) => (earlier += index > 0 && row > 0 && t[row]! < t[row - 1]! ? 1 : 0))
  expect(earlier, 'events that lie before the one that was told before them').toBe(0)
  /** When each position was presented, by its top in dp. */
  const presented: { ms: number; top: number }[] = []
  log.each(
    (chunk, row) =>
      chunk.kind[row] === K.scroll && presented.push({ ms: chunk.t[row]! / 1000, top: chunk.x[row]! / unitsPerDp }),
  )
  const slider = page.getByRole('slider', { name: 'Moment of the run, ms' })
  const playedAt = async (ms: number) => {
    await slider.evaluate((input: HTMLInputElement, value) => {
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(input, String(value))
      input.dispatchEvent(new Event('input', { bubbles: true }))
    }, Math.round(ms))
    await expect(page.locator('.tt-played')).toHaveAttribute('data-ms', String(Math.round(ms)))
    return (await page.evaluate(`(${look})(document.querySelector('.tt-played'))`)) as Look
  }
  // The slider counts whole ms: a position that was replaced within two has no moment of its own there.
  const lasts = (at: number) => at >= 0 && (presented[at + 1]?.ms ?? Infinity) - presented[at]!.ms > 2
  const frameOf = (top: number) => presented.findLastIndex((each) => Math.abs(each.top - top) < 0.01)
  const moving = looks.filter(
    ({ top }) => presented.filter((each) => Math.abs(each.top - top) < 0.01).length === 1 && lasts(frameOf(top)),
  )
  const chosen = [...moving, ...looks.filter((each) => !moving.includes(each) && lasts(frameOf(each.top)))].slice(
    0,
    most,
  )
  let pictures = 0
  for (const seen of chosen) {
    const at = frameOf(seen.top)
    expect(at, `a position of ${seen.top} dp is in the log`).toBeGreaterThanOrEqual(0)
    // What arrives between two frames may have been seen before the later one, or not: the screen is that of some
    // moment of its frame.
    const until = presented[at + 1]?.ms ?? presented[at]!.ms + 400
    let differing: unknown[] = ['nothing played']
    for (
      let ms = presented[at]!.ms + 0.6;
      ms <= until && differing.length > 0;
      ms += Math.max(4, (until - presented[at]!.ms) / 8)
    ) {
      const played = await playedAt(ms)
      const others = Object.keys({ ...seen.cells, ...played.cells }).flatMap((index) => {
        const [one, other] = [seen.cells[index], played.cells[index]]
        return one &&
          other &&
          Math.abs(one.top - other.top) <= 1 &&
          one.stage === other.stage &&
          one.colours === other.colours
          ? []
          : [{ index, one, other }]
      })
      if (differing[0] === 'nothing played' || others.length < differing.length) differing = others
    }
    expect(differing, `at ${seen.top} dp`).toEqual([])
    pictures += Object.values(seen.cells).filter(({ colours }) => colours !== '').length
  }
  return { moments: chosen.length, pictures }
}

test('a clip is a film that lasts as long as the run, and its pictures are one for each tenth of a second', async ({
  page,
}) => {
  await openWith(page, '/profile', {
    ...project,
    scripts: [{ name: 'there', steps: project.scripts[0]!.steps.slice(0, 3) }],
  })
  const run = await simulate(page)
  const ms = (await keptLog(page, run.id)).endTime / 1000
  const save = async (name: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name, exact: true }).click(),
    ])
    return readFile((await download.path())!)
  }
  const film = await save('clip')
  const played = await page.evaluateHandle(async (base64) => {
    const video = document.createElement('video')
    const bytes = Uint8Array.from(atob(base64), (char) => char.charCodeAt(0))
    video.src = URL.createObjectURL(new Blob([bytes], { type: 'video/webm' }))
    await new Promise((done, failed) => ((video.onloadeddata = done), (video.onerror = failed)))
    return video
  }, film.toString('base64'))
  const seen = await played.evaluate((video) => ({
    s: video.duration,
    width: video.videoWidth,
    height: video.videoHeight,
  }))
  /** How many shades a moment of the film has. */
  const shadesAt = (at: number) =>
    played.evaluate(async (video, s) => {
      const seeked = new Promise((done) => (video.onseeked = done))
      video.currentTime = s
      await seeked
      const context = new OffscreenCanvas(video.videoWidth, video.videoHeight).getContext('2d')!
      context.drawImage(video, 0, 0)
      const { data } = context.getImageData(0, 0, video.videoWidth, video.videoHeight)
      return new Set(Array.from({ length: 500 }, (_, i) => data[4 * 97 * i]! >> 4)).size
    }, at)
  const { widthDp, heightDp } = (await keptLog(page, run.id)).head
  expect([seen.width, seen.height]).toEqual([widthDp, heightDp])
  expect(Math.abs(seen.s * 1000 - ms)).toBeLessThanOrEqual(100)
  // Nothing has come yet at its beginning; at its end there are pictures of many shades.
  const first = await shadesAt(0)
  await expect.poll(() => shadesAt(seen.s - 0.05)).toBeGreaterThan(first)
  expect(Object.keys(unzipSync(await save('pictures'))).length).toBe(Math.ceil(ms / 100))
})
