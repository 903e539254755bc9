import { profileRun } from '../core/profile/profile.ts'
import { appEventsOf } from '../core/profile/views/app-events.ts'
import { harOf } from '../core/profile/views/har.ts'
import { simulateVisits } from '../core/simulate/visits.ts'
import { version } from '../core/version.ts'
import { badInput } from './fault.ts'
import { loadProject, outsideItems, pickScreen, pickScript, pickVisits, wholeNumber } from './load-project.ts'
import { metricTable } from './metric-table.ts'
import { writeBlocks, writeLogs } from './write-logs.ts'
import { writeText } from './write-text.ts'

export interface RunOptions {
  screen?: string
  script?: string
  variant?: string
  seed?: string
  visits: string
  json?: boolean
  log?: string
  har?: string
  events?: string
}

/** `tug run`: simulates a project and prints its metrics and checks. */
export async function runCommand(file: string, options: RunOptions): Promise<void> {
  const { project } = await loadProject(file, options.variant)
  const screen = pickScreen(file, project, options.screen)
  const script = pickScript(file, project, options.script)
  const visits = pickVisits(options.visits)
  const seed = options.seed === undefined ? project.seed : wholeNumber('--seed', options.seed, 0, 4_294_967_295)
  const items = await outsideItems(file, screen)
  const runs = simulateVisits(project, visits, { screen: screen.id, script, seed, items })
  for (const [option, out] of [
    ['--har', options.har],
    ['--events', options.events],
  ] as const)
    if (out !== undefined && runs.length !== 1)
      throw badInput(`${option} ${out}: found ${runs.length} visits, allowed: one, such as --visits first`)
  const hars: object[] = []
  const results = runs.map(({ log }) => {
    const { metrics, checks, facts } = profileRun(log)
    if (options.har !== undefined) hars.push(harOf(facts, { name: 'Tile Tug', version }))
    return { visit: log.head.visit, metrics, checks: checks.map(({ id, ok, evidence }) => ({ id, ok, evidence })) }
  })
  if (options.log !== undefined)
    await writeLogs(
      options.log,
      runs.map((run) => run.log),
    )
  if (options.har !== undefined) await writeText('--har', options.har, `${JSON.stringify(hars[0], null, 1)}\n`)
  if (options.events !== undefined) await writeBlocks('--events', options.events, appEventsOf(runs[0]!.log))
  process.stdout.write(
    options.json ? `${JSON.stringify(results.length === 1 ? results[0] : results, null, 2)}\n` : metricTable(results),
  )
}
