import { chromium, type Browser } from '@playwright/test'
import { startServer } from '../src/server/server.ts'
import { fixed, type Line } from './measure.ts'
import { launchOptions, pageWithoutHints } from '../tests/support/launch.ts'

const changes = 40
/** A hand that drags an edge from row to row, and a key that is held down: so long from one change to the next, ms. */
const [dragMs, heldKeyMs] = [100, 33]

/** From a key to an answer on the page, ms: its first part and all of it, and its first part while a key is held down. */
interface Answers {
  first: number[]
  whole: number[]
  held: number[]
}

/** What the page keeps of it. */
type Times = Pick<Answers, 'first' | 'whole'>

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
        'a handle moved ten times a second on the demo (7 s script), in Chromium: from the key to its answer',
        demo.whole,
        33,
        ', two frames',
      ),
      line('the same, 60 s script, 2,400 items: the first part of the answer', long.first, 16, ''),
      line('the same: all of it', long.whole, 60, ''),
      line(
        'the same while a key is held down, 30 changes a second: the first part',
        long.held,
        33,
        ', the next change',
      ),
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
      /** Resolves when so many changes have had the first part of their answer, or all of it. */
      answered: (which: keyof typeof times, count: number) =>
        new Promise<void>((resolve) => {
          heard = () => times[which].length >= count && resolve()
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
      message: { id?: number; type?: string; name?: string },
      ...rest: []
    ) {
      // The same change may be simulated beside it once more: the first that answers counts.
      if (message?.type === 'start' && message.name === 'follow' && pressed !== since) {
        since = pressed
        const from = pressed
        let isFirst = true
        const hear = ({ data }: MessageEvent<{ id: number; type: string }>) => {
          if (data.id !== message.id) return
          const ms = performance.now() - from
          if (isFirst) times.first.push(ms)
          isFirst = false
          if (data.type === 'done') times.whole.push(ms)
          if (data.type !== 'part') this.removeEventListener('message', hear)
          heard()
        }
        this.addEventListener('message', hear)
      }
      post.call(this, message, ...rest)
    }
  })
  await page.goto(`${address}loading`)
  if (project) {
    await page.getByLabel('Project file').setInputFiles({
      name: 'long.tiletug.json',
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify(project)),
    })
    await page.getByRole('button', { name: 'A long script' }).waitFor()
  }
  await page.getByTestId('deltas').waitFor()
  const handle = page.getByRole('slider', { name: 'Coming up: rows ahead' })
  await handle.focus()
  // As long as a hand takes from coming near a handle to having taken it, and a little more.
  await page.waitForTimeout(2500)
  const move = async (until: keyof Times, everyMs: number) => {
    for (let i = 0; i < changes; i++) {
      const since = performance.now()
      const before = await page.evaluate((which) => (window as unknown as { times: Times }).times[which].length, until)
      await page.keyboard.press(i % 6 < 3 ? 'ArrowDown' : 'ArrowUp')
      // The page tells when: asking again and again would take a part of the time that is measured.
      await page.evaluate(
        ([which, count]) =>
          (window as unknown as { answered: (which: keyof Times, n: number) => Promise<void> }).answered(which, count),
        [until, before + 1] as const,
      )
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, since + everyMs - performance.now())))
    }
  }
  await move('whole', dragMs)
  await move('first', heldKeyMs)
  const times = await page.evaluate(() => (window as unknown as { times: Times }).times)
  await page.close()
  // The first half of each still warms up.
  const late = (list: number[], from: number) => list.slice(from + changes / 2, from + changes).sort((a, b) => a - b)
  return { first: late(times.first, 0), whole: late(times.whole, 0), held: late(times.first, changes) }
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
