import type { Metrics } from '../profile/figures/metric-definitions.ts'
import { measureRun } from '../profile/profile.ts'
import type { Raw } from '../project/parse.ts'
import type { Item, Visit } from '../project/types.ts'
import type { SimulateOptions } from '../simulate/simulate.ts'
import { simulateVisits } from '../simulate/visits.ts'
import { projectWith, type Setting } from './setting.ts'

/** What all simulations of a sweep or a search have in common. */
export interface Bench {
  raw: Raw
  screen: string
  script: string
  visits: readonly Visit[]
  items: readonly Item[] | null
  seen?: NonNullable<SimulateOptions['seen']>
}

/** One simulation: the figures of each of the bench's visits, in their order. Throws the parser's message. */
export function measureOnce(bench: Bench, settings: readonly Setting[], seed: number): Metrics[] {
  const { raw, screen, script, visits, items, seen } = bench
  const { project } = parsedWith(raw, settings)
  const runs = simulateVisits(project, visits, { screen, script, seed, items, ...(seen && { seen }) })
  return runs.map(({ log }) => measureRun(log).metrics)
}

/** The settings that were parsed last: the seeds of a row come one after the other. */
let last: { raw: Raw; key: string; outcome: ReturnType<typeof projectWith> } | null = null

function parsedWith(raw: Raw, settings: readonly Setting[]) {
  const key = JSON.stringify(settings)
  if (last?.raw !== raw || last.key !== key) last = { raw, key, outcome: projectWith(raw, settings) }
  if (!last.outcome.ok) throw new Error(last.outcome.message)
  return last.outcome
}
