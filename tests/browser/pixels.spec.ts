import { decode as decodeBlurhash, encode as encodeBlurhash } from 'blurhash'
import { rgbaToThumbHash, thumbHashToRGBA } from 'thumbhash'
import { unzipSync } from 'fflate'
import { readFile } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Page } from '@playwright/test'
import sharp from 'sharp'
import { expect, openProject, test, openShell, simulate } from './fixture.ts'

type Rgb = readonly [number, number, number]

/** A picture of 80 × 40 px in four colours: where each is shows every fit exactly. */
const source = { width: 80, height: 40 }
const [red, green, blue, yellow]: readonly Rgb[] = [
  [200, 40, 40],
  [40, 160, 60],
  [40, 60, 200],
  [230, 200, 40],
]
const ground: Rgb = [255, 253, 248]
const colourAt = (x: number, y: number): Rgb => {
  const [left, right] = y < source.height / 2 ? [red!, green!] : [blue!, yellow!]
  return x < source.width / 2 ? left : right
}
const side = 60

let host: Server
let at = ''
let png: Buffer

test.beforeAll(async () => {
  const raw = Buffer.alloc(source.width * source.height * 3)
  for (let i = 0; i < source.width * source.height; i++)
    raw.set(colourAt((i % source.width) + 0.5, Math.floor(i / source.width) + 0.5), i * 3)
  png = await sharp(raw, { raw: { ...source, channels: 3 } })
    .png()
    .toBuffer()
  host = createServer((req, res) => {
    res.writeHead(200, { 'content-type': 'image/png' })
    if (req.url !== '/unknown') return void res.end(png)
    // No length is reported, and at a slow pace it takes long.
    res.write(png)
    res.end(Buffer.alloc(40_000))
  })
  await new Promise<void>((done) => host.listen(0, '127.0.0.1', done))
  at = `http://four.tests.example.test:${(host.address() as AddressInfo).port}`
})
test.afterAll(
  () =>
    new Promise<void>((done) => {
      host.closeAllConnections()
      host.close(() => done())
    }),
)

interface Case {
  name: string
  slot: object
  /** The expected colour at a place of the slot, px from its top left; null: not checked. */
  wanted: (x: number, y: number) => Rgb | null
  /** No picture: its stand-in is checked. */
  absent?: boolean
  tolerance?: number
}

/** CSS object-fit and object-position, computed from their definition and nothing of ours. */
function fitted(
  fit: string,
  [px, py]: readonly [number, number] = [0.5, 0.5],
  box = { width: side, height: side },
): (x: number, y: number) => Rgb | null {
  const contain = Math.min(box.width / source.width, box.height / source.height)
  const scales: Record<string, [number, number]> = {
    cover: Array(2).fill(Math.max(box.width / source.width, box.height / source.height)) as [number, number],
    contain: [contain, contain],
    fill: [box.width / source.width, box.height / source.height],
    none: [1, 1],
    'scale-down': [Math.min(1, contain), Math.min(1, contain)],
  }
  const [sx, sy] = scales[fit]!
  const left = (box.width - source.width * sx) * px
  const top = (box.height - source.height * sy) * py
  return (x, y) => {
    const u = (x - left) / sx
    const v = (y - top) / sy
    // Where colours meet, smoothing mixes them.
    if (
      [u, u - source.width, u - source.width / 2].some((d) => Math.abs(d * sx) < 3) ||
      [v, v - source.height, v - source.height / 2].some((d) => Math.abs(d * sy) < 3)
    )
      return null
    return u < 0 || v < 0 || u > source.width || v > source.height ? ground : colourAt(u, v)
  }
}

const plain = { cornersDp: [0, 0, 0, 0] }
const luma = ([r, g, b]: Rgb): Rgb => Array(3).fill(0.2126 * r + 0.7152 * g + 0.0722 * b) as unknown as Rgb
const mix = (a: Rgb, b: Rgb, share: number): Rgb =>
  a.map((value, i) => value * (1 - share) + b[i]! * share) as unknown as Rgb
const over =
  (change: (colour: Rgb) => Rgb, picture = fitted('fill')) =>
  (x: number, y: number) => {
    const colour = picture(x, y)
    return colour === null || colour === ground ? null : change(colour)
  }
const inCircle = (picture: (x: number, y: number) => Rgb | null) => (x: number, y: number) => {
  const d = Math.hypot(x - side / 2, y - side / 2)
  if (Math.abs(d - side / 2) < 3) return null
  return d > side / 2 ? ground : picture(x, y)
}
/** Some corners cut by a radius, all else as it is. */
const cornered = (which: readonly string[], radius: number) => (x: number, y: number) => {
  const corner = `${y < side / 2 ? 'top' : 'bottom'} ${x < side / 2 ? 'left' : 'right'}`
  const [u, v] = [Math.min(x, side - x), Math.min(y, side - y)]
  const d = which.includes(corner) && u < radius && v < radius ? Math.hypot(radius - u, radius - v) : 0
  if (Math.abs(d - radius) < 3) return null
  return d > radius ? ground : fitted('fill')(x, y)
}
const flat = (colour: Rgb) => () => colour
const ink: Rgb = [0x15, 0x25, 0x2f]
const tint = { type: 'tint', colour: '#15252F', amount: 0.4 }
const grey = { type: 'grayscale', amount: 1 }

const pictures: Case[] = [
  ...(['cover', 'contain', 'fill', 'none', 'scale-down'] as const).map((fit) => ({
    name: fit,
    slot: { fit },
    wanted: fitted(fit),
  })),
  ...(
    [
      [0, 0],
      [1, 1],
      [0.25, 0.5],
    ] as const
  ).flatMap((position) =>
    (['cover', 'contain', 'none'] as const).map((fit) => ({
      name: `${fit} at ${position.join()}`,
      slot: { fit, position },
      wanted: fitted(fit, position),
    })),
  ),
  { name: 'circle at draw', slot: { fit: 'fill', circle: true }, wanted: inCircle(fitted('fill')) },
  {
    name: 'circle at decode',
    slot: { fit: 'cover', circle: true, shapeAt: 'decode' },
    wanted: inCircle(fitted('cover')),
  },
  {
    name: 'corners at draw',
    slot: { fit: 'fill', cornersDp: [20, 0, 20, 0] },
    wanted: cornered(['top left', 'bottom right'], 20),
  },
  {
    name: 'corners at decode',
    slot: { fit: 'fill', cornersDp: [0, 20, 0, 0], shapeAt: 'decode' },
    wanted: cornered(['top right'], 20),
  },
  { name: 'grayscale', slot: { fit: 'fill', treatments: [grey] }, wanted: over(luma) },
  { name: 'tint', slot: { fit: 'fill', treatments: [tint] }, wanted: over((colour) => mix(colour, ink, 0.4)) },
  {
    name: 'grayscale, then tint',
    slot: { fit: 'fill', treatments: [grey, tint] },
    wanted: over((colour) => mix(luma(colour), ink, 0.4)),
  },
  {
    name: 'tint, then grayscale',
    slot: { fit: 'fill', treatments: [tint, grey] },
    wanted: over((colour) => luma(mix(colour, ink, 0.4))),
  },
  {
    name: 'blur',
    slot: { fit: 'fill', treatments: [{ type: 'blur', radiusDp: 4 }] },
    tolerance: 14,
    wanted: (x, y) =>
      Math.hypot(x - 30, y - 30) < 1 ? mix(mix(red!, green!, 0.5), mix(blue!, yellow!, 0.5), 0.5) : null,
  },
  {
    name: 'inset',
    slot: { fit: 'fill', insetDp: [10, 20, 10, 0] },
    wanted: fitted('fill', [0.5, 0.5], { width: 40, height: 40 }),
  },
]

/** A slope of red from the left and of green from the top, as the two forms of hash have it. */
const hashSide = 32
const slope = Uint8ClampedArray.from({ length: hashSide * hashSide * 4 }, (_, i) => {
  const [x, y] = [Math.floor(i / 4) % hashSide, Math.floor(i / 4 / hashSide)]
  return [30 + 6 * x, 40 + 5 * y, 90, 255][i % 4]!
})
const blur = encodeBlurhash(slope, hashSide, hashSide, 4, 3)
const thumb = rgbaToThumbHash(hashSide, hashSide, slope)
const thumbPixels = thumbHashToRGBA(thumb)

/** The middle of a slot that a hash fills; its edges are blended with the ground. */
function hashed(pixels: ArrayLike<number>, width: number, height: number): Case['wanted'] {
  return (x, y) => {
    if (Math.min(x, y, side - x, side - y) < 6) return null
    const [left, top] = [(x / side) * width - 0.5, (y / side) * height - 0.5]
    const at = (px: number, py: number): Rgb => {
      const i = 4 * (py * width + px)
      return [pixels[i]!, pixels[i + 1]!, pixels[i + 2]!]
    }
    const row = (py: number) => mix(at(Math.floor(left), py), at(Math.floor(left) + 1, py), left % 1)
    return mix(row(Math.floor(top)), row(Math.floor(top) + 1), top % 1)
  }
}

const absent = (visual: object, look: object = {}) => ({ stages: { absent: { visual, ...look } } })
const placeholders = (
  [
    { name: 'colour', slot: absent({ type: 'colour', colour: '#336699' }), wanted: flat([0x33, 0x66, 0x99]) },
    {
      name: 'the item’s colour',
      slot: absent({ type: 'item-colour', at: '/colour' }),
      wanted: flat([0x9a, 0x3b, 0x2e]),
    },
    { name: 'space', slot: absent({ type: 'space' }), wanted: flat(ground) },
    {
      name: 'a stage’s own colour under space',
      slot: absent({ type: 'space' }, { colour: '#2F7A64' }),
      wanted: flat([0x2f, 0x7a, 0x64]),
    },
    {
      name: 'own picture, filling',
      slot: { fit: 'fill', ...absent({ type: 'picture', asset: 'four' }) },
      wanted: fitted('fill'),
    },
    {
      name: 'own picture, a stage’s own fit',
      slot: { fit: 'fill', ...absent({ type: 'picture', asset: 'four' }, { fit: 'cover' }) },
      wanted: fitted('cover'),
    },
    {
      name: 'a stage’s own inset',
      slot: absent({ type: 'colour', colour: '#336699' }, { insetDp: [20, 0, 0, 0] }),
      wanted: (_, y) => {
        if (Math.abs(y - 20) < 2) return null
        return y < 20 ? ground : [0x33, 0x66, 0x99]
      },
    },
    {
      name: 'a stage’s own corners',
      slot: absent({ type: 'colour', colour: '#336699' }, { cornersDp: [30, 30, 30, 30] }),
      wanted: inCircle(flat([0x33, 0x66, 0x99])),
    },
    {
      name: 'preview',
      slot: absent({ type: 'preview', at: '/tiny' }),
      tolerance: 14,
      wanted: (x, y) =>
        Math.hypot(x - 30, y - 30) < 1 ? mix(mix(red!, green!, 0.5), mix(blue!, yellow!, 0.5), 0.5) : null,
    },
    {
      name: 'blurhash',
      slot: absent({ type: 'preview', at: '/blur', as: 'blurhash' }),
      tolerance: 16,
      wanted: hashed(decodeBlurhash(blur, hashSide, hashSide), hashSide, hashSide),
    },
    {
      name: 'thumbhash',
      slot: absent({ type: 'preview', at: '/thumb', as: 'thumbhash' }),
      tolerance: 16,
      wanted: hashed(thumbPixels.rgba, thumbPixels.w, thumbPixels.h),
    },
    {
      name: 'ring',
      slot: absent({ type: 'ring' }),
      wanted: (x, y) => (Math.hypot(x - 30, y - 30) > 12 ? [0xe6, 0xdf, 0xcf] : null),
    },
    { name: 'skeleton', slot: absent({ type: 'skeleton' }), tolerance: 12, wanted: flat([0xe9, 0xe2, 0xd4]) },
    {
      name: 'drawn',
      slot: absent({ type: 'drawn', shape: 'tile-outline' }),
      tolerance: 3,
      wanted: (x, y) => (Math.abs(x - 30) < 6 && Math.abs(y - 30) < 6 ? [0xe6, 0xdf, 0xcf] : null),
    },
  ] as Case[]
).map((each) => ({ ...each, absent: true }))

/** A device of density 1 whose every cell is one case: each case is a kind of its own. */
function bench(
  cases: readonly Case[],
  slot: object = {},
  layout: object = { columns: 3, gapDp: 2, paddingDp: 24 },
): object {
  const items = cases.map(({ name, absent: none }, i) => ({
    id: i,
    name,
    colour: '#9A3B2E',
    blur,
    thumb: Buffer.from(thumb).toString('base64'),
    tiny: png.toString('base64').replace(/^/, 'data:image/png;base64,'),
    ...(none ? {} : { photo: `${at}/${i}` }),
  }))
  return {
    format: 'tile-tug/project',
    version: 1,
    name: 'pixels',
    assets: [{ name: 'four', type: 'image/png', base64: png.toString('base64') }],
    screens: [
      {
        id: 'bench',
        feed: { source: { type: 'inline', items }, kind: '/name' },
        layout,
        cells: cases.map((each) => ({
          kind: each.name,
          height: { type: 'fixed', dp: side },
          slots: [
            {
              size: { type: 'fixed', widthDp: side, heightDp: side },
              decodeAt: { type: 'original' },
              transition: { type: 'none' },
              ...plain,
              ...slot,
              ...each.slot,
            },
          ],
        })),
      },
    ],
    loading: { cleartextHosts: ['*.tests.example.test'] },
    device: { widthDp: 232, heightDp: 560, density: 1 },
    network: { downKbps: 100_000, rttMs: 5 },
  }
}

interface Look {
  data: Buffer
  info: { width: number; height: number }
}
const look = async (page: Page, clip?: { x: number; y: number; width: number; height: number }): Promise<Look> =>
  sharp(await page.screenshot(clip ? { clip } : {}))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })

/**
 * The pixels of a case's cell, by a place in dp: from a picture of the whole page, or from one of its own, which draws
 * it again.
 */
async function pixelsOf(page: Page, index: number, whole: Look | null): Promise<{ at: (x: number, y: number) => Rgb }> {
  const box = (await page.locator(`.tt-glass .tt-cell[data-index="${index}"] .tt-slot`).boundingBox())!
  const { data, info } = whole ?? (await look(page, box))
  const [left, top, across, down] = whole ? [box.x, box.y, box.width, box.height] : [0, 0, info.width, info.height]
  return {
    at: (x, y) => {
      const i =
        3 *
        (Math.min(info.height - 1, Math.floor(top + (y / side) * down)) * info.width +
          Math.min(info.width - 1, Math.floor(left + (x / side) * across)))
      return [data[i]!, data[i + 1]!, data[i + 2]!]
    },
  }
}

/** Ends the browser's graphics process, and waits until the canvases of the page can be drawn again. */
async function restartGraphics(page: Page): Promise<void> {
  await page
    .locator('canvas')
    .evaluateAll((all) =>
      all.forEach((canvas) =>
        canvas.addEventListener('contextrestored', () => canvas.setAttribute('data-restored', '')),
      ),
    )
  const browser = await page.context().browser()!.newBrowserCDPSession()
  await browser.send('Browser.crashGpuProcess')
  await expect(page.locator('canvas[data-restored]').first()).toBeAttached()
}

async function check(page: Page, cases: readonly Case[], moving = false): Promise<void> {
  // Still pictures are all seen at once; what moves is drawn again for each.
  const whole = moving ? null : await look(page)
  for (const [index, { name, wanted, tolerance = 4, slot }] of cases.entries()) {
    const inset = (slot as { insetDp?: number[] }).insetDp
    const { at: found } = await pixelsOf(page, index, whole)
    const step = 3
    const off: string[] = []
    const compare = (x: number, y: number, colour: Rgb): void => {
      const seen = found(x, y)
      if (seen.some((value, i) => Math.abs(value - colour[i]!) > tolerance))
        off.push(`at ${x}, ${y}: ${seen.join()} against ${colour.map(Math.round).join()}`)
    }
    let looked = 0
    for (let x = 1.5; x < side; x += step)
      for (let y = 1.5; y < side; y += step) {
        const [w, h] = inset ? [side - inset[1]! - inset[3]!, side - inset[0]! - inset[2]!] : [side, side]
        const colour = wanted((x / side) * w, (y / side) * h)
        if (colour === null) continue
        looked++
        compare(x, y, colour)
      }
    if (looked === 0) compare(side / 2, side / 2, wanted(side / 2, side / 2)!)
    // One expectation for all of a case's pixels: each of its own would cost more than the picture.
    expect(off, name).toEqual([])
  }
}

test('pictures, transitions halfway and the visuals that stand in, pixel by pixel', async ({ page }) => {
  await openShell(page, '/loading')
  await test.step('every fit, position, shape and treatment, pixel by pixel, and what stands out of a slot or falls below it', async () => {
    for (const cases of [pictures.slice(0, 12), pictures.slice(12)]) {
      // The list of the half before may still be there for a moment.
      const before = page.locator('.tt-glass .tt-cell[data-before]')
      await page
        .locator('.tt-glass .tt-cell')
        .evaluateAll((cells) => cells.forEach((cell) => cell.setAttribute('data-before', '')))
      await openProject(page, bench(cases))
      await expect(before).toHaveCount(0)
      await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(cases.length)
      await check(page, cases)
    }
    await test.step('they are drawn again when the browser’s graphics process was started anew', async () => {
      await restartGraphics(page)
      // Each canvas reports by itself that it can be drawn again.
      await expect(() => check(page, pictures.slice(12))).toPass({ timeout: 60_000 })
    })
    await test.step('what goes over a slot that does not clip is drawn over its neighbours, and a shadow falls below', async () => {
      const cases: Case[] = [
        { name: 'clipped', slot: { fit: 'none' }, wanted: fitted('none') },
        { name: 'over', slot: { fit: 'none', clip: false }, wanted: fitted('none') },
        { name: 'shadow', slot: { fit: 'fill', shadowDp: 12 }, wanted: fitted('fill') },
      ]
      await openProject(page, bench(cases, {}, { columns: 1, gapDp: 30, paddingDp: 60 }))
      await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(cases.length)
      /** The colour at a place measured from a slot's top left, px of the slot. */
      const around = async (index: number, x: number, y: number): Promise<Rgb> => {
        const box = (await page.locator(`.tt-glass .tt-cell[data-index="${index}"] .tt-slot`).boundingBox())!
        const scale = box.width / side
        const clip = { x: Math.round(box.x + x * scale), y: Math.round(box.y + y * scale), width: 1, height: 1 }
        const data = await sharp(await page.screenshot({ clip }))
          .removeAlpha()
          .raw()
          .toBuffer()
        return [data[0]!, data[1]!, data[2]!]
      }
      // 80 px of picture in 60: ten stand out on each side.
      for (const [x, y, colour] of [
        [-5, 20, red!],
        [65, 20, green!],
        [-5, 40, blue!],
        [65, 40, yellow!],
      ] as const) {
        expect(await around(0, x, y), 'clipped').toEqual(ground)
        for (const [channel, value] of (await around(1, x, y)).entries())
          expect(Math.abs(value - colour[channel]!), `over at ${x}, ${y}`).toBeLessThanOrEqual(4)
      }
      const shade = async (y: number) => (await around(2, 30, y)).reduce((sum, value) => sum + value, 0)
      const plain = ground.reduce((sum, value) => sum + value, 0)
      expect(await shade(63)).toBeLessThan(plain - 20)
      expect(await shade(63)).toBeLessThan(await shade(70))
      expect(await shade(86)).toBe(plain)
    })
  })
  await test.step('transitions halfway: how much of the picture is there, how large, and what lies beneath', async () => {
    const beneath: Rgb = [0x33, 0x66, 0x99]
    const transition = (more: object) => ({
      fit: 'fill',
      transition: { type: 'fade', ms: 5000, easing: 'linear', skip: [], ...more },
    })
    const cases: Case[] = [
      {
        name: 'fade, beneath stays',
        slot: transition({ beneath: 'stays' }),
        wanted: over((colour) => mix(beneath, colour, 0.5)),
      },
      {
        name: 'fade, beneath goes',
        slot: transition({ beneath: 'goes' }),
        wanted: over((colour) => mix(ground, colour, 0.5)),
      },
      {
        name: 'fade, beneath fades',
        slot: transition({ beneath: 'fades' }),
        wanted: over((colour) => mix(mix(ground, beneath, 0.5), colour, 0.5)),
      },
      // From half its size: three quarters after half the time, around the middle.
      {
        name: 'fade and grow',
        slot: transition({ type: 'fade-grow', fromScale: 0.5 }),
        wanted: (x, y) => {
          const [u, v] = [x, y].map((each) => (each - side / 2) / 0.75 + side / 2) as [number, number]
          if (Math.min(u, v, side - u, side - v) < -3) return beneath
          const colour = Math.min(u, v, side - u, side - v) < 3 ? null : fitted('fill')(u, v)
          return colour && mix(beneath, colour, 0.5)
        },
      },
      {
        name: 'ease in',
        slot: transition({ easing: 'ease-in' }),
        wanted: over((colour) => mix(beneath, colour, 0.3154)),
      },
      { name: 'none', slot: transition({ type: 'none' }), wanted: fitted('fill') },
      {
        name: 'on the main thread',
        slot: transition({ on: 'main' }),
        wanted: over((colour) => mix(beneath, colour, 0.5)),
      },
    ]
    await openProject(
      page,
      bench(cases, {
        stages: {
          waiting: { visual: { type: 'colour', colour: '#336699' } },
          arriving: { visual: { type: 'colour', colour: '#336699' } },
        },
      }),
    )
    await expect(page.locator('.tt-glass .tt-slot[data-stage="settled"]')).toHaveCount(cases.length)
    await page.locator('.tt-glass').evaluate((glass) => {
      // What is stepped by hand stops too: it steps only while it is paused.
      for (const animation of glass.getAnimations({ subtree: true })) {
        animation.play()
        animation.pause()
        animation.currentTime = 2500
        animation.updatePlaybackRate(0)
        animation.play()
      }
    })
    await check(page, cases, true)
    // What fades out below a picture is there again when another stage takes the picture's place halfway.
    await page.keyboard.press('2')
    await page.getByRole('button', { name: 'Failed', exact: true }).click()
    await page.getByRole('button', { name: 'show on the device' }).click()
    await expect(page.locator('.tt-glass .tt-slot[data-stage="failed"]')).toHaveCount(cases.length)
    const opacities = await page
      .locator('.tt-glass .tt-placeholder')
      .evaluateAll((all) => all.map((each) => getComputedStyle(each).opacity))
    expect(opacities).toEqual(cases.map(() => '1'))
    await page.getByRole('button', { name: 'show on the device' }).click()
  })
  await test.step('every visual that stands in for a picture, pixel by pixel, the ring of an unknown length too', async () => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    const still = { name: 'still', steps: [{ do: 'wait', ms: 300 }] }
    await openProject(page, { ...bench(placeholders), scripts: [still], script: 'still' })
    await expect(page.locator('.tt-glass .tt-slot[data-stage="absent"]')).toHaveCount(placeholders.length)
    // Hashes are drawn by a worker.
    await expect(page.locator('.tt-glass [data-visual="hashed-preview"][style*="data:"]')).toHaveCount(2)
    await check(page, placeholders)
    await test.step('the pictures of a clip have the previews that are drawn from a hash too', async () => {
      await page.keyboard.press('5')
      await simulate(page)
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('button', { name: 'pictures', exact: true }).click(),
      ])
      const last = sharp(Object.values(unzipSync(await readFile((await download.path())!))).at(-1))
      const { data, info } = await last.removeAlpha().raw().toBuffer({ resolveWithObject: true })
      for (const [i, { name, wanted }] of placeholders.entries()) {
        if (!name.endsWith('hash')) continue
        const [x, y] = [0.5 + (i % 3), 0.5 + Math.floor(i / 3)].map((each) =>
          Math.floor(24 + each * side + Math.floor(each) * 2),
        )
        const at = 3 * (y! * info.width + x!)
        for (const [channel, value] of wanted(side / 2, side / 2)!.entries())
          expect(Math.abs(data[at + channel]! - value), `${name}, channel ${channel}`).toBeLessThanOrEqual(16)
      }
    })
    await test.step('the scroll map too is drawn again when the graphics process was started anew', async () => {
      const map = page.locator('.tt-map canvas')
      const drawn = () => map.evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
      const before = await drawn()
      await restartGraphics(page)
      await expect.poll(drawn).toBe(before)
    })
    await test.step('a picture of unknown length turns a quarter of a ring; one of known length fills it by its share', async () => {
      const project = bench([{ name: 'ring', slot: {}, wanted: () => null }]) as {
        screens: { feed: { source: { items: object[] } } }[]
        network: object
      }
      project.screens[0]!.feed.source.items = [{ id: 0, name: 'ring', photo: `${at}/unknown` }]
      await openProject(page, { ...project, network: { downKbps: 60, rttMs: 5 } })
      const ring = page.locator('.tt-glass .tt-slot[data-stage="arriving"] .tt-placeholder[data-visual="ring"]')
      await expect(ring).toHaveAttribute('data-unknown', 'yes')
      /** The share of the circle in the middle of the ring's stroke that is in its full colour. */
      const share = async () => {
        const { at: found } = await pixelsOf(page, 0, null)
        const steps = 360
        let full = 0
        for (let step = 0; step < steps; step++) {
          const angle = (step / steps) * 2 * Math.PI
          const [red] = found(
            side / 2 + 0.28 * side * 0.5 * 0.86 * Math.sin(angle),
            side / 2 - 0.28 * side * 0.5 * 0.86 * Math.cos(angle),
          )
          if (red < 100) full++
        }
        return full / steps
      }
      expect(Math.abs((await share()) - 0.25)).toBeLessThan(0.1)
    })
  })
})
