import { chromium, type Browser } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'

const changes = 60

/** From a change's leaving for a worker to an answer on the page, ms: the first part of it, and all of it. */
interface Answers {
  first: number[]
  whole: number[]
}

/** A handle of Loading moved, in Chromium, on the demo's script of 7 s and on one of 60 s over 2,400 items. */
export async function benchHandle(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  const browser = await chromium.launch(launchOptions)
  try {
    const demo = await moved(browser, server.address, null)
    const long = await moved(browser, server.address, longProject())
    const line = (what: string, times: number[], limit: number, target: string): Line => {
      const middle = times[times.length >> 1]!
      return {
        what,
        value: `${fixed(middle, 0)} ms`,
        target: `≤ ${limit} ms${target}`,
        ok: middle <= limit,
        note: `${fixed(times[0]!, 0)}–${fixed(times.at(-1)!, 0)} ms`,
      }
    }
    return [
      line(
        'a handle dragged on the demo (7 s script), in Chromium: from the change to its answer',
        demo.whole,
        33,
        ', two frames',
      ),
      line('a handle dragged, 60 s script, 2,400 items, in Chromium: the first part of the answer', long.first, 16, ''),
      line('the same: all of it', long.whole, 60, ''),
    ]
  } finally {
    await browser.close()
    await server.close()
  }
}

async function moved(browser: Browser, address: string, project: object | null): Promise<Answers> {
  const page = await pageWithoutHints(browser)
  // What runs this file marks functions with a helper that the page has not.
  await page.addInitScript('globalThis.__name = (named) => named')
  await page.addInitScript(() => {
    const times = { first: [] as number[], whole: [] as number[] }
    let heard: () => void = () => undefined
    Object.assign(window, {
      times,
      /** Resolves when another change has been answered, as far as it could be at once. */
      answered: (count: number) =>
        new Promise<void>((resolve) => {
          heard = () => times.first.length > count && resolve()
          heard()
        }),
    })
    const post = Worker.prototype.postMessage
    let since = 0
    let pressed = 0
    // From the key itself: what the page does before it asks counts as well.
    addEventListener('keydown', ({ timeStamp }) => (pressed = timeStamp), { capture: true })
    Worker.prototype.postMessage = function (
      this: Worker,
      message: { id?: number; type?: string; name?: string; order?: { part: string } },
      ...rest: []
    ) {
      if (message?.type === 'start' && message.name === 'follow') {
        const isFirst = message.order!.part === 'first'
        if (isFirst) since = pressed
        const from = since
        const hear = ({ data }: MessageEvent<{ id: number; type: string; answer: { untilMs: number | null } }>) => {
          if (data.id !== message.id || data.type !== 'done') return
          this.removeEventListener('message', hear)
          const ms = performance.now() - from
          if (isFirst) times.first.push(ms)
          if (data.answer.untilMs === null) times.whole.push(ms)
          heard()
        }
        this.addEventListener('message', hear)
      }
      post.call(this, message, ...rest)
    }
  })
  await page.goto(`${address}loading`)
  if (project)
    await page.getByLabel('Project file').setInputFiles({
      name: 'long.tiletug.json',
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify(project)),
    })
  await page.getByTestId('deltas').waitFor()
  const handle = page.getByRole('slider', { name: 'Coming up: rows ahead' })
  await handle.focus()
  // As long as a hand takes from coming near a handle to having taken it, and a little more.
  await page.waitForTimeout(2500)
  for (let i = 0; i < changes; i++) {
    const before = await page.evaluate(() => (window as unknown as { times: Answers }).times.first.length)
    await page.keyboard.press(i % 6 < 3 ? 'ArrowDown' : 'ArrowUp')
    // The page tells when: asking again and again would take a part of the time that is measured.
    await page.evaluate(
      (count) => (window as unknown as { answered: (n: number) => Promise<void> }).answered(count),
      before,
    )
  }
  const times = await page.evaluate(() => (window as unknown as { times: Answers }).times)
  await page.close()
  const late = (list: number[]) => list.slice(-Math.floor(changes / 2)).sort((a, b) => a - b)
  return { first: late(times.first), whole: late(times.whole) }
}

/** The grid of the simulation's benches, as a project file: pictures of the archive, flicks for 60 s. */
function longProject(): object {
  const items = Array.from({ length: 2400 }, (_, i) => ({
    id: `i${i}`,
    photo: `https://archive.example.test/tiles/${i}?width=360&height=360&as=webp`,
  }))
  return {
    format: 'tile-tug/project',
    version: 1,
    name: 'A long script',
    screens: [
      {
        id: 'list',
        feed: { source: { type: 'inline', items } },
        layout: { columns: 3, gapDp: 4, paddingDp: 6 },
        cells: [{ height: { type: 'content' }, slots: [{ size: { type: 'aspect', ratio: 1 } }] }],
      },
    ],
    network: { downKbps: 20_000 },
    scripts: [
      {
        name: 'flicks',
        steps: Array.from({ length: 20 }, (_, i) => [
          { do: 'flick', dpPerS: i % 4 === 3 ? -9000 : 7000 },
          { do: 'wait', ms: 3000 },
        ]).flat(),
      },
    ],
    script: 'flicks',
  }
}
