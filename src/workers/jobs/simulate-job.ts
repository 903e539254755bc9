import type { KeptTiers } from '../../core/loading/loader-state.ts'
import { mapOf, type MapData } from '../../core/profile/views/map-data.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { measureRun } from '../../core/profile/profile.ts'
import type { Visit } from '../../core/project/types.ts'
import { scriptOf, Simulation, type Simulated } from '../../core/simulate/simulate.ts'
import { visitOrder } from '../../core/project/visits.ts'
import { stopIfCancelled, type JobHooks, type ProjectOrder, type SeenPictures } from './job.ts'
import { describeRun, type RunResult } from './run-result.ts'

/** How long a simulation runs before it looks whether it was cancelled, ms. */
const sliceMs = 50
const stepsPerLook = 2000

export interface SimulateOrder extends ProjectOrder {
  visits: Visit[]
  /** The state that the first of the visits begins from, as an earlier run left it; null: what the visits before it leave. */
  from: string | null
  seen: SeenPictures
}

/** Simulates visits and profiles them. */
export async function simulateJob(job: SimulateOrder, hooks: JobHooks): Promise<RunResult[]> {
  const places = job.visits.map((visit) => visitOrder.indexOf(visit))
  const last = Math.max(...places)
  // Visits before the first that is asked for are simulated too, unless what they leave is given.
  const order = visitOrder.slice(job.from === null ? 0 : Math.min(...places), last + 1)
  const results: RunResult[] = []
  const from = job.from === null ? null : (JSON.parse(job.from) as KeptTiers)
  let before: Pick<Simulated, 'kept' | 'endMs'> | null = from && { kept: from, endMs: latest(from) }
  for (const [number, visit] of order.entries()) {
    const run: Simulated = await oneVisit(job, visit, before, {
      ...hooks,
      progress: (share) => hooks.progress((number + share) / order.length),
    })
    before = run
    if (job.visits.includes(visit)) results.push(describeRun(run.log, JSON.stringify(run.kept)))
    hooks.progress((number + 1) / order.length)
  }
  return results
}

/** A first visit while the hand moves a setting: only what is drawn and told at once; no log is packed, nothing is kept. */
export async function followJob(job: ProjectOrder, hooks: JobHooks): Promise<{ metrics: Metrics; map: MapData }> {
  const run = await oneVisit({ ...job, seen: [] }, 'first', null, hooks)
  const { facts, ledger, metrics } = measureRun(run.log)
  return { metrics, map: mapOf(facts, ledger) }
}

/** When the newest of what is kept on disk was written, on the calendar of its run; ms. */
const latest = ({ disk }: KeptTiers) => disk.reduce((last, { writtenMs }) => Math.max(last, writtenMs), 0)

async function oneVisit(
  { project, screen, script, seed, items, seen }: ProjectOrder & { seen: SeenPictures },
  visit: Visit,
  before: Pick<Simulated, 'kept' | 'endMs'> | null,
  hooks: JobHooks,
): Promise<Simulated> {
  const simulation = new Simulation(project, {
    screen,
    script,
    seed,
    visit,
    items,
    seen: new Map(seen),
    kept: before?.kept ?? null,
    epochMs: before?.endMs ?? 0,
  })
  const whole = scriptOf(project, script).steps.reduce(
    (sum, step) => sum + (step.do === 'wait' || step.do === 'drag' ? step.ms : 0),
    0,
  )
  let since = hooks.now()
  while (!simulation.advance(stepsPerLook)) {
    if (hooks.now() - since < sliceMs) continue
    await hooks.rest()
    stopIfCancelled(hooks)
    // What the script takes is known before; how long the list then drains is not.
    hooks.progress(Math.min(0.95, simulation.log.endTime / 1000 / Math.max(1, whole)))
    since = hooks.now()
  }
  return simulation.result()
}
