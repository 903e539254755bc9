import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { execFile } from 'node:child_process'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { promisify } from 'node:util'

import { Piscina } from 'piscina'
import { fixed, type Line } from './measure.ts'
import { onAllCores } from '../scripts/programs.cjs'
import { buildPrograms } from '../scripts/set-up.mjs'
import { workerLimits } from '../src/cli/simulation-pool.ts'
import type { Raw } from '../src/core/project/parse.ts'
import type { Bench } from '../src/core/sweep/measure.ts'
import { combinations } from '../src/core/sweep/vary.ts'

/** A loop that nothing but the processor can slow down, of about as long a task as a row. */
const arithmetic =
  'export default (n) => { let x = 1; for (let i = 0; i < n; i++) x = (x * 1664525 + 1013904223) % 4294967296; return x }'
const loops = 12_000_000
const rounds = 9

/**
 * A sweep of 60 rows × 10 seeds of the demo on two warm workers against one, ÷ what plain arithmetic gains by the same;
 * in a process as the command line starts it.
 */
export async function benchSweep(): Promise<Line[]> {
  const args = [...onAllCores, '--import', 'tsx', fileURLToPath(import.meta.url)]
  const { stdout } = await promisify(execFile)(process.execPath, args)
  return JSON.parse(stdout) as Line[]
}

async function measured(): Promise<Line[]> {
  const raw = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Raw
  const bench: Bench = {
    raw,
    screen: 'wall',
    script: 'Flick down and back',
    visits: ['first'],
    items: null,
  }
  const rows = combinations([
    { path: '/loading/fetchSlots', values: [1, 2, 3, 4, 6] },
    { path: '/loading/ahead/amount', values: [0, 1, 2, 4] },
    { path: '/loading/order', values: ['nearest', 'first-come', 'last-come'] },
  ])
  const seeds = Array.from({ length: 10 }, (_, n) => 7 + n)
  const file = pathToFileURL(
    resolve(
      buildPrograms(() => undefined),
      'measure-worker.js',
    ),
  ).href
  const folder = await mkdtemp(join(tmpdir(), 'tug-bench-'))
  const plain = pathToFileURL(join(folder, 'arithmetic.mjs')).href
  await writeFile(new URL(plain), arithmetic)
  const open = (filename: string, threads: number) =>
    new Piscina({
      filename,
      workerData: [bench],
      minThreads: threads,
      maxThreads: threads,
      resourceLimits: workerLimits,
    })
  const pools = {
    sweep: [open(file, 1), open(file, 2)],
    arithmetic: [open(plain, 1), open(plain, 2)],
  }
  const tasks = {
    sweep: rows.map((settings): unknown => ({ bench: 0, settings, seeds })),
    arithmetic: rows.map((): unknown => loops),
  }
  const timed = async (of: 'sweep' | 'arithmetic', workers: 0 | 1) => {
    const start = performance.now()
    await Promise.all(tasks[of].map((task) => pools[of][workers]!.run(task)))
    return performance.now() - start
  }
  const gained = async (of: 'sweep' | 'arithmetic') => (await timed(of, 0)) / (await timed(of, 1))
  const gains = { sweep: [] as number[], arithmetic: [] as number[], ratio: [] as number[] }
  for (let round = -1; round < rounds; round++) {
    const sweep = await gained('sweep')
    const arithmetic = await gained('arithmetic')
    // The first round warms the workers.
    if (round < 0) continue
    gains.sweep.push(sweep)
    gains.arithmetic.push(arithmetic)
    gains.ratio.push(sweep / arithmetic)
  }
  for (const pool of [...pools.sweep, ...pools.arithmetic]) await pool.destroy()
  await rm(folder, { recursive: true })
  const median = (values: number[]) => values.toSorted((one, other) => one - other)[values.length >> 1]!
  const ratio = median(gains.ratio)
  return [
    {
      what: 'sweep of 60 rows × 10 seeds: two warm workers ÷ one, ÷ the same of plain arithmetic',
      value: `${fixed(ratio, 2)} (${fixed(median(gains.sweep), 2)} against ${fixed(median(gains.arithmetic), 2)})`,
      target: '≥ 0.9',
      ok: ratio >= 0.9,
      note: `median of ${rounds} rounds: ${gains.ratio.map((each) => fixed(each, 2)).join(', ')}`,
    },
  ]
}

if (process.argv[1] === fileURLToPath(import.meta.url)) console.log(JSON.stringify(await measured()))
