import { existsSync } from 'node:fs'
import type { Line } from './measure.ts'
import { benchBrowser, benchScrollMap } from './browser.ts'
import { benchCommandLine } from './command-line.ts'
import { benchFidelity } from './fidelity.ts'
import { benchFirstPicture } from './first-picture.ts'
import { benchHar } from './har.ts'
import { benchHandle } from './handle.ts'
import { benchKeptRun } from './kept-run.ts'
import { benchOrigin } from './origin.ts'
import { benchLog, benchSimulation, benchStructures } from './simulation.ts'
import { benchSweep } from './sweep.ts'
import { benchSweepPage } from './sweep-page.ts'
import { benchSize } from './size.ts'

const parts: Record<string, () => Line[] | Promise<Line[]>> = {
  structures: benchStructures,
  simulation: benchSimulation,
  log: benchLog,
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
  for (const { what, value, target, ok, note } of await run())
    console.log(`| ${what} | ${target} | ${value} | ${ok ? 'met' : 'missed'} | ${note} |`)
}
