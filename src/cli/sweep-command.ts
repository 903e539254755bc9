import { availableParallelism } from 'node:os'
import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import type { Raw } from '../core/project/parse.ts'
import type { Bench } from '../core/sweep/measure.ts'
import { projectWith, type Setting } from '../core/sweep/setting.ts'
import { mergeCsv, sweepCsv } from '../core/sweep/sweep-csv.ts'
import { frontOf, rowOf, type SweepRow } from '../core/sweep/sweep-row.ts'
import { combinations, mostRows, readVary } from '../core/sweep/vary.ts'
import { badInput } from './fault.ts'
import { loadFile, outsideItems, pickScreen, pickScript, pickVisits, wholeNumber } from './load-project.ts'
import { readText } from './read-text.ts'
import { openPool } from './simulation-pool.ts'
import { rowTable } from './row-table.ts'
import { oneOfEach, variedOptions } from './varied-options.ts'
import { writeText } from './write-text.ts'

export interface SweepOptions {
  vary: string[]
  merge?: boolean
  screen?: string
  script?: string
  visit: string
  seeds: string
  jobs?: string
  shard?: string
  csv?: string
  json?: boolean
}

/** Up to this many combinations are each checked before anything runs; of more, each value is. */
const mostChecked = 2000

/** `tug sweep`: every combination of some settings, or the parts of a sharded sweep joined. */
export async function sweepCommand(files: readonly string[], options: SweepOptions): Promise<void> {
  if (options.merge) return mergeParts(files, options.csv)
  if (files.length !== 1) throw badInput(`sweep: found ${files.length} files, allowed: one project`)
  const [file] = files as [string]
  const raw = await loadFile(file)
  const varied = variedOptions(options.vary, {
    command: 'sweep',
    example: '/loading/fetchSlots=2,4,6',
    read: readVary,
    most: mostRows,
  })
  const rows = combinations(varied)
  const bench = await benchOf(file, raw, rows[0]!, options)
  for (const settings of rows.length > mostChecked ? oneOfEach(varied) : rows) checkSettings(file, raw, settings)
  const seeds = wholeNumber('--seeds', options.seeds, 1, 10_000)
  const jobs = jobsOf(options.jobs)
  const wanted = rowsOfShard(options.shard)
  const first = bench.seed
  const done: SweepRow[] = []
  const ownRows = rows.flatMap((settings, row) => (wanted(row) ? [{ row, settings }] : []))
  const pool = openPool([bench.bench], Math.min(jobs, Math.max(1, ownRows.length)))
  try {
    await Promise.all(
      ownRows.map(async ({ row, settings }) => {
        const task = { bench: 0, settings, seeds: Array.from({ length: seeds }, (_, n) => first + n) }
        const runs = (await pool.measure(task)).map(([metrics]) => metrics as Metrics)
        done.push(rowOf(row, settings, runs, first))
        progress(done.length, ownRows.length)
      }),
    )
  } finally {
    await pool.close()
  }
  done.sort((one, other) => one.row - other.row)
  const paths = varied.map(({ path }) => path)
  if (options.csv !== undefined) await writeText('--csv', options.csv, sweepCsv(paths, done))
  process.stdout.write(options.json ? jsonOf(done) : rowTable(paths, done))
}

/** Throws the parser's message for settings that are not valid. */
function checkSettings(file: string, raw: Raw, settings: readonly Setting[]): void {
  const outcome = projectWith(raw, settings)
  if (!outcome.ok) throw badInput(`${file}: --vary ${outcome.message}`)
}

/** What the simulations of some settings have in common, and the project's seed. */
async function benchOf(
  file: string,
  raw: Raw,
  settings: readonly Setting[],
  options: { screen?: string | undefined; script?: string | undefined; visit: string },
): Promise<{ bench: Bench; seed: number }> {
  const outcome = projectWith(raw, settings)
  if (!outcome.ok) throw badInput(`${file}: --vary ${outcome.message}`)
  const { project } = outcome
  const screen = pickScreen(file, project, options.screen)
  const visits = pickVisits(options.visit)
  if (visits.length !== 1) throw badInput(`--visit: found "${options.visit}", allowed: one of first, restarted, again`)
  return {
    bench: {
      raw,
      screen: screen.id,
      script: pickScript(file, project, options.script),
      visits,
      items: await outsideItems(file, screen),
    },
    seed: project.seed,
  }
}

export function jobsOf(text: string | undefined): number {
  return text === undefined ? availableParallelism() : wholeNumber('--jobs', text, 1, 256)
}

/** Which rows a shard has: `I/N` those whose number leaves I − 1 when divided by N. */
function rowsOfShard(text: string | undefined): (row: number) => boolean {
  if (text === undefined) return () => true
  const match = /^(\d{1,6})\/(\d{1,6})$/.exec(text)
  const [at, count] = [Number(match?.[1]), Number(match?.[2])]
  if (!match || at < 1 || at > count)
    throw badInput(`--shard: found "${text}", allowed: I/N with I from 1 to N, such as 1/4`)
  return (row) => row % count === at - 1
}

/** Progress goes to a terminal only; in a log it would be a thousand lines. */
export function progress(done: number, all: number): void {
  if (process.stderr.isTTY) process.stderr.write(`\r${done} of ${all} ${done === all ? '\n' : ''}`)
}

async function mergeParts(files: readonly string[], csv: string | undefined): Promise<void> {
  if (csv === undefined) throw badInput('sweep --merge: found no --csv, allowed: --merge PART.csv… --csv OUT')
  if (files.length === 0) throw badInput('sweep --merge: found no part, allowed: --merge PART.csv… --csv OUT')
  const parts = await Promise.all(files.map(async (name) => ({ name, text: await readText(name) })))
  const merged = mergeCsv(parts)
  if (!merged.ok) throw badInput(merged.message)
  await writeText('--csv', csv, merged.value)
}

function jsonOf(rows: readonly SweepRow[]): string {
  const results = rows.map(({ row, settings, seeds, metrics }) => ({
    row,
    settings: Object.fromEntries(settings.map(({ path, value }) => [path, value])),
    seeds,
    metrics,
  }))
  return `${JSON.stringify({ rows: results, front: frontOf(rows) }, null, 2)}\n`
}
