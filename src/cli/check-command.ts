import { writeFile } from 'node:fs/promises'
import junit, { type Builder } from 'junit-report-builder'
import { judgeBudget, type BudgetResult } from '../core/compare/budgets.ts'
import { readJson } from '../core/project/json-text.ts'
import type { Project, Visit } from '../core/project/types.ts'
import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import { profileRun } from '../core/profile/profile.ts'
import { simulateVisits } from '../core/simulate/visits.ts'
import { visitOrder } from '../core/project/visits.ts'
import { badInput, CommandEnd } from './fault.ts'
import { loadProject, outsideItems, pickScreen, pickScript, wholeNumber } from './load-project.ts'
import { readText } from './read-text.ts'

/** `tug check`: holds the project's budgets over seeds; a broken one ends with 1. */
export async function checkCommand(
  file: string,
  options: { junit?: string; seeds: string; against?: string },
): Promise<void> {
  const { project } = await loadProject(file, undefined)
  const seeds = wholeNumber('--seeds', options.seeds, 1, 10_000)
  const baseline = options.against === undefined ? null : await readBaseline(options.against)
  const results: BudgetResult[] = []
  for (const [index, budget] of project.budgets.entries()) {
    if (budget.relativeTo === 'baseline' && !baseline)
      throw badInput(
        `${file}: /budgets/${index}: is relative to a baseline; give one with --against FILE (the --json of a run)`,
      )
    const runs = await measureSeeds(file, project, budget.screen, budget.visit, seeds)
    if (!Object.hasOwn(runs[0]!, budget.metric))
      throw badInput(
        `${file}: /budgets/${index}/metric: found "${budget.metric}", allowed: a metric such as ${Object.keys(runs[0]!).slice(0, 3).join(', ')}`,
      )
    results.push(judgeBudget(budget, runs, baseline?.get(budget.visit) ?? null))
  }
  if (options.junit !== undefined) await writeJunit(options.junit, project.name, results)
  process.stdout.write(
    results.map((each) => `${each.ok ? 'kept  ' : 'BROKEN'} ${each.message}\n`).join('') ||
      'the project has no budgets\n',
  )
  const broken = results.filter((each) => !each.ok)
  if (broken.length > 0) throw new CommandEnd(1, `${file}: ${broken.length} of ${results.length} budgets broken`)
}

const measured = new Map<string, Metrics[]>()

async function measureSeeds(
  file: string,
  project: Project,
  screenId: string | undefined,
  visit: Visit,
  seeds: number,
): Promise<Metrics[]> {
  const screen = pickScreen(file, project, screenId)
  const name = `${screen.id} ${visit}`
  const before = measured.get(name)
  if (before) return before
  const script = pickScript(file, project, undefined)
  const items = await outsideItems(file, screen)
  const runs = Array.from(
    { length: seeds },
    (_, n) =>
      profileRun(simulateVisits(project, [visit], { screen: screen.id, script, seed: project.seed + n, items })[0]!.log)
        .metrics,
  )
  measured.set(name, runs)
  return runs
}

async function readBaseline(file: string): Promise<Map<string, Metrics>> {
  const read = readJson(await readText(file))
  if (!read.ok) throw badInput(`${file}: ${read.message}`)
  const list = Array.isArray(read.value) ? read.value : [read.value]
  return new Map(
    list.map((each: unknown, index) => {
      const { visit, metrics } = (each ?? {}) as { visit?: unknown; metrics?: unknown }
      if (
        typeof visit !== 'string' ||
        !(visitOrder as readonly string[]).includes(visit) ||
        typeof metrics !== 'object' ||
        metrics === null
      )
        throw badInput(`${file}: /${index}: found no visit with metrics; allowed: what "run --json" prints`)
      return [visit, metrics as Metrics]
    }),
  )
}

async function writeJunit(file: string, name: string, results: readonly BudgetResult[]): Promise<void> {
  // The package is CommonJS: its default is the builder itself, which its types do not say.
  const builder = (junit as unknown as Builder).newBuilder()
  const suite = builder.testSuite().name(name)
  for (const { budget, ok, message } of results) {
    const test = suite
      .testCase()
      .className(budget.visit)
      .name(`${budget.metric}${budget.screen ? ` (${budget.screen})` : ''}`)
    if (!ok) test.failure(message)
  }
  try {
    await writeFile(file, builder.build())
  } catch (error) {
    throw badInput(`--junit ${file}: cannot be written (${String((error as NodeJS.ErrnoException).code)})`)
  }
}
