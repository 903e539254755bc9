import patches from 'fast-json-patch'
import { absoluteBudget } from '../core/compare/budgets.ts'
import { metricIds, isMetricId, type Metrics } from '../core/profile/figures/metric-definitions.ts'
import type { Raw } from '../core/project/parse.ts'
import type { Project, Visit } from '../core/project/types.ts'
import { visitOrder } from '../core/project/visits.ts'
import type { Bench } from '../core/sweep/measure.ts'
import { search, type SearchedBudget } from '../core/sweep/search.ts'
import { projectWith, withSettings } from '../core/sweep/setting.ts'
import { readRange } from '../core/sweep/vary-range.ts'
import { mostRows } from '../core/sweep/vary.ts'
import { badInput, CommandEnd } from './fault.ts'
import { loadFile, outsideItems, pickScreen, pickScript, wholeNumber } from './load-project.ts'
import { readBaseline, withoutBaseline } from './read-baseline.ts'
import { openPool } from './simulation-pool.ts'
import { jobsOf, progress } from './sweep-command.ts'
import { oneOfEach, variedOptions } from './varied-options.ts'

export interface SearchOptions {
  vary: string[]
  least: string
  against?: string
  seeds: string
  runs: string
  jobs?: string
  json?: boolean
}

/** `tug search`: settings that meet the budgets; exits with 1 when none in the range does. */
export async function searchCommand(file: string, options: SearchOptions): Promise<void> {
  const raw = await loadFile(file)
  const varied = variedOptions(options.vary, {
    command: 'search',
    example: '/loading/fetchSlots=1..8',
    read: readRange,
    most: mostRows * mostRows,
  })
  for (const settings of oneOfEach(varied)) {
    const outcome = projectWith(raw, settings)
    if (!outcome.ok) throw badInput(`${file}: --vary ${outcome.message}`)
  }
  const outcome = projectWith(raw, [])
  if (!outcome.ok) throw badInput(`${file}: ${outcome.message}`)
  const { project } = outcome
  if (project.budgets.length === 0)
    throw badInput(`${file}: /budgets: found none, allowed: a project with at least one budget to meet`)
  const { least } = options
  if (!isMetricId(least))
    throw badInput(`--least: found "${least}", allowed: a metric such as ${metricIds.slice(0, 3).join(', ')}`)
  const baseline = options.against === undefined ? null : await readBaseline(options.against)
  const { benches, groups } = await benchesFor(file, raw, project)
  const budgets = project.budgets.map((budget, i): SearchedBudget => {
    if (!isMetricId(budget.metric))
      throw badInput(
        `${file}: /budgets/${i}/metric: found "${budget.metric}", allowed: a metric such as ${metricIds.slice(0, 3).join(', ')}`,
      )
    if (budget.relativeTo !== undefined && !baseline) throw withoutBaseline(file, i)
    // A relative budget is searched for as the limit that it amounts to.
    const absolute = absoluteBudget(budget, baseline?.get(budget.visit) ?? null)
    if (!absolute)
      throw badInput(
        `${file}: /budgets/${i}: the baseline has no ${budget.metric} on the ${budget.visit} visit, allowed: a run that has`,
      )
    const screen = budget.screen ?? project.screens[0]!.id
    return {
      budget: absolute,
      group: groups.findIndex((each) => each.screen === screen && each.visit === budget.visit),
    }
  })
  const pool = openPool(benches, jobsOf(options.jobs))
  const runs = wholeNumber('--runs', options.runs, 1, 1_000_000)
  try {
    const found = await search(
      {
        varied,
        budgets,
        least: { metric: least, group: 0 },
        seed: project.seed,
        seeds: wholeNumber('--seeds', options.seeds, 1, 10_000),
        cost: benches.length,
        runs,
      },
      {
        measure: async (settings, seeds) => {
          const byBench = await Promise.all(benches.map((_, bench) => pool.measure({ bench, settings, seeds })))
          return seeds.map((_, i) => byBench.flatMap((runsOf) => runsOf[i] as Metrics[]))
        },
        progress: (searched) => progress(searched.runs, runs),
      },
    )
    report(file, raw, found!, options.json ?? false)
  } finally {
    await pool.close()
  }
}

/**
 * A measurement for each screen that budgets are about, the first screen before all, with the visits that they need.
 */
async function benchesFor(
  file: string,
  raw: Raw,
  project: Project,
): Promise<{ benches: Bench[]; groups: { screen: string; visit: Visit }[] }> {
  const script = pickScript(file, project, undefined)
  const own = project.screens[0]!.id
  const wanted = new Map<string, Set<Visit>>([[own, new Set<Visit>(['first'])]])
  for (const { screen = own, visit } of project.budgets)
    wanted.set(screen, (wanted.get(screen) ?? new Set<Visit>()).add(visit))
  const benches: Bench[] = []
  for (const [id, visits] of wanted) {
    const screen = pickScreen(file, project, id)
    benches.push({
      raw,
      screen: screen.id,
      script,
      visits: visitOrder.filter((visit) => visits.has(visit)),
      items: await outsideItems(file, screen),
    })
  }
  return { benches, groups: benches.flatMap(({ screen, visits }) => visits.map((visit) => ({ screen, visit }))) }
}

function report(file: string, raw: Raw, found: NonNullable<Awaited<ReturnType<typeof search>>>, asJson: boolean): void {
  const { met, settings, metrics, runs } = found
  const varied = withSettings(raw, settings)
  const patch = varied.ok ? patches.compare(raw, varied.raw) : []
  const budgets = found.budgets.map(({ metric, limit, value, ok }) => ({ metric, limit, value, ok }))
  const result = {
    met,
    settings: Object.fromEntries(settings.map(({ path, value }) => [path, value])),
    patch,
    metrics,
    budgets,
    runs,
  }
  process.stdout.write(asJson ? `${JSON.stringify(result, null, 2)}\n` : inWords(found))
  if (met) return
  const worst = found.budgets.reduce((one, other) => (other.misses > one.misses ? other : one))
  throw new CommandEnd(
    1,
    `${file}: nothing in the range meets the budgets; nearest: ${worst.metric} is ${String(worst.value)} against ${worst.limit}`,
  )
}

function inWords({ settings, budgets, runs }: NonNullable<Awaited<ReturnType<typeof search>>>): string {
  return [
    ...settings.map(({ path, value }) => `${path} = ${JSON.stringify(value)}`),
    ...budgets.map(
      ({ metric, limit, value, ok }) => `${ok ? 'kept  ' : 'BROKEN'} ${metric} ${String(value)} (${limit})`,
    ),
    `${runs} simulations`,
    '',
  ].join('\n')
}
