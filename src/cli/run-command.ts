import { createWriteStream } from 'node:fs'
import { once } from 'node:events'
import { toNdjson } from '../core/log/ndjson.ts'
import type { RunLog } from '../core/log/run-log.ts'
import { profileRun } from '../core/profile/profile.ts'
import { simulateVisits } from '../core/simulate/visits.ts'
import { badInput } from './fault.ts'
import { loadProject, outsideItems, pickScreen, pickScript, pickVisits, wholeNumber } from './load-project.ts'
import { metricTable } from './metric-table.ts'

export interface RunOptions {
  screen?: string
  script?: string
  variant?: string
  seed?: string
  visits: string
  json?: boolean
  log?: string
}

/** `tug run`: simulates a project and tells its metrics and checks. */
export async function runCommand(file: string, options: RunOptions): Promise<void> {
  const { project } = await loadProject(file, options.variant)
  const screen = pickScreen(file, project, options.screen)
  const script = pickScript(file, project, options.script)
  const visits = pickVisits(options.visits)
  const seed = options.seed === undefined ? project.seed : wholeNumber('--seed', options.seed, 0, 4_294_967_295)
  const items = await outsideItems(file, screen)
  const runs = simulateVisits(project, visits, { screen: screen.id, script, seed, items })
  const told = runs.map(({ log }) => {
    const { metrics, checks } = profileRun(log)
    return { visit: log.head.visit, metrics, checks: checks.map(({ id, ok, evidence }) => ({ id, ok, evidence })) }
  })
  if (options.log !== undefined)
    await writeLogs(
      options.log,
      runs.map((run) => run.log),
    )
  process.stdout.write(
    options.json ? `${JSON.stringify(told.length === 1 ? told[0] : told, null, 2)}\n` : metricTable(told),
  )
}

async function writeLogs(file: string, logs: readonly RunLog[]): Promise<void> {
  const out = createWriteStream(file)
  const broken = new Promise<never>((_, reject) => {
    out.on('error', (error: NodeJS.ErrnoException) =>
      reject(badInput(`--log ${file}: cannot be written (${String(error.code)})`)),
    )
  })
  const write = async () => {
    for (const log of logs) for (const block of toNdjson(log)) if (!out.write(block)) await once(out, 'drain')
    out.end()
    await once(out, 'finish')
  }
  await Promise.race([write(), broken])
}
