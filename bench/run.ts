import { existsSync, readFileSync } from 'node:fs'
import type { Line } from './measure.ts'
import { benchBrowser, benchScrollMap } from './browser.ts'
import { asBuilt } from './bundle.ts'
import { benchCommandLine } from './command-line.ts'
import { benchFidelity } from './fidelity.ts'
import { benchFirstPicture } from './first-picture.ts'
import { benchHar } from './har.ts'
import { benchHandle } from './handle.ts'
import { benchKeptRun } from './kept-run.ts'
import { benchOrigin } from './origin.ts'
import { benchSweep } from './sweep.ts'
import { benchSweepPage } from './sweep-page.ts'
import { benchSize } from './size.ts'

const ofTheCore = () => asBuilt<typeof import('./simulation.ts')>('bench/simulation.ts')

const parts: Record<string, () => Line[] | Promise<Line[]>> = {
  structures: async () => (await ofTheCore()).benchStructures(),
  simulation: async () => (await ofTheCore()).benchSimulation(),
  log: async () => (await ofTheCore()).benchLog(),
  origin: benchOrigin,
  map: benchScrollMap,
  browser: benchBrowser,
  commandLine: benchCommandLine,
  fidelity: benchFidelity,
  firstPicture: benchFirstPicture,
  handle: benchHandle,
  keptRun: benchKeptRun,
  sweep: benchSweep,
  sweepPage: benchSweepPage,
  har: benchHar,
  size: () => (existsSync('dist/index.html') ? benchSize() : []),
}

const wanted = process.argv.slice(2)
for (const [name, run] of Object.entries(parts)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue
  const before = machine()
  for (const { what, value, target, ok, note } of await run())
    console.log(`| ${what} | ${target} | ${value} | ${ok ? 'met' : 'missed'} | ${note} |`)
  const after = machine()
  if (before && after)
    console.log(
      `\n${name}: others took ${percent(after.taken - before.taken, after.all - before.all)} of the machine.\n`,
    )
}

function percent(part: number, whole: number): string {
  return `${((100 * part) / Math.max(1, whole)).toFixed(0)} %`
}

/**
 * What the system has counted since it started: all time of all cores, and what other guests of the machine took of it.
 */
function machine(): { all: number; taken: number } | null {
  if (!existsSync('/proc/stat')) return null
  const [, ...times] = readFileSync('/proc/stat', 'utf8').split('\n', 1)[0]!.split(/ +/).map(Number)
  // user, nice, system, idle, waiting, interrupts, soft interrupts, taken
  return { all: times.slice(0, 8).reduce((sum, each) => sum + each, 0), taken: times[7]! }
}
