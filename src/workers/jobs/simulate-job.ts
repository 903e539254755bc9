import type { KeptTiers } from '../../core/loading/loader-state.ts'
import { mapOf, type MapData } from '../../core/profile/views/map-data.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { countRun, measureRun } from '../../core/profile/profile.ts'
import type { Visit } from '../../core/project/types.ts'
import { scriptOf, Simulation, type Simulated } from '../../core/simulate/simulate.ts'
import { visitOrder } from '../../core/project/visits.ts'
import { stopIfCancelled, type JobHooks, type ProjectOrder, type SeenPictures } from './job.ts'
import { describeRun, type RunResult } from './run-result.ts'

/** How long a simulation runs before it checks whether it was cancelled, ms. */
const sliceMs = 50
const stepsPerLook = 2000

export interface SimulateOrder extends ProjectOrder {
  visits: Visit[]
  /**
   * The state that the first of the visits begins from, as an earlier run left it; null: what the visits before it
   * leave.
   */
  from: string | null
  seen: SeenPictures
}

/** Simulates visits and profiles them. */
export async function simulateJob(job: SimulateOrder, hooks: JobHooks): Promise<RunResult[]> {
  const places = job.visits.map((visit) => visitOrder.indexOf(visit))
  const last = Math.max(...places)
  // Visits before the first requested one are simulated too, unless what they leave is given.
  const order = visitOrder.slice(job.from === null ? 0 : Math.min(...places), last + 1)
  const results: RunResult[] = []
  const from = job.from === null ? null : (JSON.parse(job.from) as KeptTiers)
  let before: Before = from && { kept: from, endMs: latest(from) }
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

/**
 * The effect of a change. `untilMs`: how far it is simulated so far, with figures only at the end; null: to the end.
 */
export type Followed = { map: MapData } & ({ untilMs: null; metrics: Metrics } | { untilMs: number; metrics: null })

/** How long the first part of an answer is simulated, ms: with its drawing, it is there within a frame. */
const firstPartMs = 3
/**
 * Later parts are reported when the whole has taken this many times as long as at the one before, the second after so
 * many ms: each report is drawn.
 */
const partGrowth = 3
const secondPartMs = 60
/** A script of which this share is simulated by then is reported in one piece: its end is near. */
const nearEnd = 0.5
/** Events between two checks of the clock. */
const stepsPerPart = 200
/** How long it runs before it checks whether the hand has moved on, ms. */
const followSliceMs = 3

/**
 * A first visit while the hand moves a setting: only what is drawn and shown at once; no log is encoded, nothing is
 * kept. A long one is reported in parts, from its beginning on.
 */
export async function followJob(job: ProjectOrder, hooks: JobHooks<Followed>): Promise<Followed> {
  const simulation = begin({ ...job, seen: [] }, 'first', null)
  const length = lengthOf(job)
  const start = hooks.now()
  let due = start + firstPartMs
  let rested = start
  let parts = 0
  while (!simulation.advance(stepsPerPart)) {
    const now = hooks.now()
    if (now >= due) {
      if (parts++ === 0 && simulation.log.endTime / 1000 > nearEnd * length) {
        due = start + firstPartMs / nearEnd
        continue
      }
      const { facts, ledger } = countRun(simulation.log)
      hooks.part({ map: mapOf(facts, ledger), untilMs: facts.endT / 1000, metrics: null })
      due = start + Math.max(secondPartMs, (hooks.now() - start) * partGrowth)
    } else if (parts === 0 || now < rested + followSliceMs) continue
    await hooks.rest()
    stopIfCancelled(hooks)
    rested = hooks.now()
  }
  const { facts, ledger, metrics } = measureRun(simulation.log)
  return { map: mapOf(facts, ledger), untilMs: null, metrics }
}

/** When the newest entry on disk was written, on the calendar of its run; ms. */
const latest = ({ disk }: KeptTiers) => disk.reduce((last, { writtenMs }) => Math.max(last, writtenMs), 0)

type Before = Pick<Simulated, 'kept' | 'endMs'> | null

function begin(
  { project, screen, script, seed, items, seen }: ProjectOrder & { seen: SeenPictures },
  visit: Visit,
  before: Before,
): Simulation {
  return new Simulation(project, {
    screen,
    script,
    seed,
    visit,
    items,
    seen: new Map(seen),
    kept: before?.kept ?? null,
    epochMs: before?.endMs ?? 0,
  })
}

/** The least duration of a script, ms: that of flicks and jumps is known only when they are made. */
function lengthOf({ project, script }: ProjectOrder): number {
  return scriptOf(project, script).steps.reduce(
    (sum, step) => sum + (step.do === 'wait' || step.do === 'drag' ? step.ms : 0),
    0,
  )
}

async function oneVisit(
  order: ProjectOrder & { seen: SeenPictures },
  visit: Visit,
  before: Before,
  hooks: JobHooks,
): Promise<Simulated> {
  const simulation = begin(order, visit, before)
  const whole = lengthOf(order)
  let since = hooks.now()
  while (!simulation.advance(stepsPerLook)) {
    if (hooks.now() - since < sliceMs) continue
    await hooks.rest()
    stopIfCancelled(hooks)
    // The duration of the script is known beforehand; how long the list then drains is not.
    hooks.progress(Math.min(0.95, simulation.log.endTime / 1000 / Math.max(1, whole)))
    since = hooks.now()
  }
  return simulation.result()
}
