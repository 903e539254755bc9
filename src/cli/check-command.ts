import junit, { type Builder } from 'junit-report-builder'
import { judgeBudget, type Budget, type BudgetResult } from '../core/compare/budgets.ts'
import { isMetricId, metricIds, type Metrics } from '../core/profile/figures/metric-definitions.ts'
import type { Effective } from '../core/project/conditions.ts'
import type { Raw } from '../core/project/parse.ts'
import type { Project } from '../core/project/types.ts'
import { visitOrder } from '../core/project/visits.ts'
import type { Bench } from '../core/sweep/measure.ts'
import { namesOf, projectWith, type Setting } from '../core/sweep/setting.ts'
import { badInput, CommandEnd } from './fault.ts'
import { loadFile, outsideItems, pickScreen, pickScript, wholeNumber } from './load-project.ts'
import { readBaseline, withoutBaseline } from './read-baseline.ts'
import { openPool } from './simulation-pool.ts'
import { jobsOf } from './sweep-command.ts'
import { writeText } from './write-text.ts'

export interface CheckOptions {
  junit?: string
  seeds: string
  against?: string
  devices?: string
  networks?: string
}

/** A device and a network that budgets are checked on. */
interface Pair {
  settings: readonly Setting[]
  /** Its name in a message; empty: the project's own. */
  suffix: string
}

/** This few simulations are done before workers have started. */
const fewRuns = 12

/**
 * `tug check`: checks the project's budgets over seeds, on each device and network named; a broken one exits with 1.
 */
export async function checkCommand(file: string, options: CheckOptions): Promise<void> {
  const raw = await loadFile(file)
  const seeds = wholeNumber('--seeds', options.seeds, 1, 10_000)
  const baseline = options.against === undefined ? null : await readBaseline(options.against)
  const pairs = pairsOf(raw, options.devices, options.networks)
  const benches: Bench[] = []
  const tasks: { budget: Budget; pair: Pair; bench: number; seed: number }[] = []
  for (const pair of pairs) {
    const { project, byCondition } = projectOn(file, raw, pair)
    for (const name of byCondition)
      process.stderr.write(`${file}: the variant "${name}" applies${pair.suffix}, its condition holds\n`)
    for (const [index, budget] of project.budgets.entries()) {
      if (budget.relativeTo === 'baseline' && !baseline) throw withoutBaseline(file, index)
      if (!isMetricId(budget.metric))
        throw badInput(
          `${file}: /budgets/${index}/metric: found "${budget.metric}", allowed: a metric such as ${metricIds.slice(0, 3).join(', ')}`,
        )
      tasks.push({ budget, pair, bench: await benchFor(file, raw, project, budget, benches), seed: project.seed })
    }
  }
  const pool = openPool(benches, pairs.length * benches.length * seeds <= fewRuns ? 1 : jobsOf(undefined))
  const measured = new Map<string, Promise<Metrics[][]>>()
  try {
    const results = await Promise.all(
      tasks.map(async ({ budget, pair, bench, seed }): Promise<Held> => {
        const name = `${bench} ${pair.suffix}`
        const task = { bench, settings: pair.settings, seeds: Array.from({ length: seeds }, (_, n) => seed + n) }
        if (!measured.has(name)) measured.set(name, pool.measure(task))
        const visit = benches[bench]!.visits.indexOf(budget.visit)
        const runs = (await measured.get(name)!).map((visits) => visits[visit]!)
        return { ...judgeBudget(budget, runs, baseline?.get(budget.visit) ?? null), on: pair.suffix }
      }),
    )
    if (options.junit !== undefined) await writeJunit(options.junit, String(raw.name), results)
    process.stdout.write(
      results.map(({ ok, message, on }) => `${ok ? 'kept  ' : 'BROKEN'} ${message}${on}\n`).join('') ||
        'the project has no budgets\n',
    )
    const broken = results.filter((each) => !each.ok)
    if (broken.length > 0) throw new CommandEnd(1, `${file}: ${broken.length} of ${results.length} budgets broken`)
  } finally {
    await pool.close()
  }
}

/** A budget that was judged, and where. */
type Held = BudgetResult & { on: string }

/** Every named device with every named network. */
function pairsOf(raw: Raw, devices: string | undefined, networks: string | undefined): Pair[] {
  const named = (what: 'device' | 'network', text: string | undefined): (Setting | null)[] => {
    if (text === undefined) return [null]
    const names = text === 'all' ? namesOf(what, raw) : text.split(',').map((each) => each.trim())
    return names.map((value) => ({ path: what, value }))
  }
  return named('device', devices).flatMap((device) =>
    named('network', networks).map((network) => {
      const settings = [device, network].filter((each) => each !== null)
      return { settings, suffix: settings.length === 0 ? '' : ` on ${settings.map(({ value }) => value).join(', ')}` }
    }),
  )
}

function projectOn(file: string, raw: Raw, { settings }: Pair): Effective {
  const outcome = projectWith(raw, settings)
  if (outcome.ok) return outcome
  const what = settings.find(({ path }) => outcome.message.startsWith(`${path}: found`))?.path
  throw badInput(what ? `--${what}s: ${outcome.message.replace(/^\w+: /, '')}` : `${file}: ${outcome.message}`)
}

/** The number of the measurement for a budget's screen, which from now on simulates the budget's visit too. */
async function benchFor(file: string, raw: Raw, project: Project, budget: Budget, benches: Bench[]): Promise<number> {
  const screen = pickScreen(file, project, budget.screen)
  const known = benches.findIndex((each) => each.screen === screen.id)
  const before = benches[known] ?? {
    raw,
    screen: screen.id,
    script: pickScript(file, project, undefined),
    visits: [],
    items: await outsideItems(file, screen),
  }
  const visits = visitOrder.filter((visit) => visit === budget.visit || before.visits.includes(visit))
  const number = known < 0 ? benches.length : known
  benches[number] = { ...before, visits }
  return number
}

async function writeJunit(file: string, name: string, results: readonly Held[]): Promise<void> {
  // The package is CommonJS: its default is the builder itself, which its types do not say.
  const builder = (junit as unknown as Builder).newBuilder()
  const suite = builder.testSuite().name(name)
  for (const { budget, ok, message, on } of results) {
    const test = suite
      .testCase()
      .className(budget.visit)
      .name(`${budget.metric}${budget.screen ? ` (${budget.screen})` : ''}${on}`)
    if (!ok) test.failure(message + on)
  }
  await writeText('--junit', file, builder.build())
}
