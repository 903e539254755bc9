import { startServer } from '../src/server/server.ts'
import type { Answers } from './handle-page.ts'
import { fixed, type Line } from './measure.ts'
import { measureUnwatched } from './unwatched.ts'

/** A handle of Loading moved, in Chromium, on the demo's script of 7 s and on one of 60 s over 2,400 items. */
export async function benchHandle(): Promise<Line[]> {
  const server = await startServer({ port: 0, dist: 'dist', pictures: null })
  try {
    const demo = await moved(server.address, null)
    const long = await moved(server.address, longProject())
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
    await server.close()
  }
}

function moved(address: string, project: object | null): Promise<Answers> {
  return measureUnwatched<Answers>(
    async (page) => {
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
      await page.getByRole('slider', { name: 'Coming up: rows ahead' }).focus()
    },
    'bench/handle-page.ts',
    null,
  )
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
