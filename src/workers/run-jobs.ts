import type { KeptTiers } from '../core/loading/loader-state.ts'
import { decodeLog, encodeLog, type EncodedLog } from '../core/log/log-encoding.ts'
import { hashLog } from '../core/log/log-hash.ts'
import type { RunLog } from '../core/log/run-log.ts'
import { calibrated } from '../core/compare/calibrate.ts'
import { fidelityOf } from '../core/compare/fidelity.ts'
import { proveAll, type ProofHooks, type Proven } from '../core/compare/prove.ts'
import { suspicionsOf } from '../core/profile/findings/findings.ts'
import { mapOf } from '../core/profile/views/map-data.ts'
import { measureRun, profileRun, type Profile } from '../core/profile/profile.ts'
import { parseProject } from '../core/project/parse.ts'
import type { Visit } from '../core/project/types.ts'
import { scriptOf, simulate, Simulation, type Simulated } from '../core/simulate/simulate.ts'
import { steppedNote } from '../core/watch/standstill.ts'
import { visitOrder } from '../core/simulate/visits.ts'
import {
  cellsLens,
  failuresOf,
  framesLens,
  memoryLens,
  threadsLens,
  tiersLens,
  type While,
} from '../core/profile/views/lenses.ts'
import type { Answer, Lens, LensName, RunResult, SimulateJob } from './messages.ts'

/** How long a simulation runs before it looks whether it was cancelled, ms. */
const sliceMs = 50
const stepsPerLook = 2000

export interface JobHooks {
  cancelled: () => boolean
  /** Gives the message queue a turn. */
  rest: () => Promise<void>
  progress: (share: number) => void
  now: () => number
}

/** Simulates the visits of a job, told ones with their profile; null when it was cancelled. */
export async function simulateJob(
  job: Extract<SimulateJob, { do: 'simulate' }>,
  hooks: JobHooks,
): Promise<RunResult[] | null> {
  const places = job.visits.map((visit) => visitOrder.indexOf(visit))
  const last = Math.max(...places)
  // Visits before the first that is asked for are simulated too, unless what they leave is given.
  const order = visitOrder.slice(job.from === null ? 0 : Math.min(...places), last + 1)
  const results: RunResult[] = []
  const from = job.from === null ? null : (JSON.parse(job.from) as KeptTiers)
  let before: Pick<Simulated, 'kept' | 'endMs'> | null = from && { kept: from, endMs: latest(from) }
  for (const [number, visit] of order.entries()) {
    const run: Simulated | null = await oneVisit(job, visit, before, {
      ...hooks,
      progress: (share) => hooks.progress((number + share) / order.length),
    })
    if (!run) return null
    before = run
    if (job.visits.includes(visit)) results.push(describeRun(run.log, JSON.stringify(run.kept)))
    hooks.progress((number + 1) / order.length)
  }
  return results
}

/** When the newest of what is kept on disk was written, on the calendar of its run; ms. */
const latest = ({ disk }: KeptTiers) => disk.reduce((last, { writtenMs }) => Math.max(last, writtenMs), 0)

/** A first visit for what follows the hand: no log is packed and nothing is kept; null when it was cancelled. */
export async function followJob(
  job: Extract<SimulateJob, { do: 'follow' }>,
  hooks: JobHooks,
): Promise<Extract<Answer, { is: 'followed' }> | null> {
  const run = await oneVisit({ ...job, seen: [] }, 'first', null, hooks)
  if (!run) return null
  const { facts, ledger, metrics } = measureRun(run.log)
  return { is: 'followed', metrics, map: mapOf(facts, ledger) }
}

async function oneVisit(
  job: Pick<Extract<SimulateJob, { do: 'simulate' }>, 'project' | 'screen' | 'script' | 'seed' | 'items' | 'seen'>,
  visit: Visit,
  before: Pick<Simulated, 'kept' | 'endMs'> | null,
  hooks: JobHooks,
): Promise<Simulated | null> {
  const { project, screen, script, seed, items, seen } = job
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
    if (hooks.cancelled()) return null
    // What the script takes is known before; how long the list then drains is not.
    hooks.progress(Math.min(0.95, simulation.log.endTime / 1000 / Math.max(1, whole)))
    since = hooks.now()
  }
  return simulation.result()
}

function describeRun(
  log: RunLog,
  kept: RunResult['kept'],
  { facts, ledger, metrics, checks } = profileRun(log),
): RunResult {
  return { log: encodeLog(log), hash: hashLog(log), metrics, checks, map: mapOf(facts, ledger), kept }
}

/** A live run as it is kept, with how near its simulation comes: the same script and seed, on a device calibrated to this very run. */
export function describeLive({ log, against }: Extract<SimulateJob, { do: 'describe' }>): RunResult {
  const run = decodeLog(log)
  const profile = profileRun(run)
  const described = describeRun(run, null, profile)
  const { visit, script, screen, seed } = run.head
  const { facts } = profile
  const whole = facts.endWhy === 'done' || facts.endWhy === 'drained'
  // A later visit begins from what the earlier one left in this browser, which its simulation does not have.
  const stepped = facts.notes.some(({ text }) => text === steppedNote)
  if (against === null || visit !== 'first' || !whole || stepped) return described
  const { project, items } = against
  const seen = new Map(
    run.assets.flatMap(({ address, bytes, sourceWidth, sourceHeight }) =>
      bytes > 0 && sourceWidth > 0 ? [[address, { bytes, width: sourceWidth, height: sourceHeight }] as const] : [],
    ),
  )
  const simulated = profileRun(
    simulate(
      { ...project, device: calibrated(project.device, facts, project.network) },
      { screen, script, seed, items, seen },
    ).log,
  ).metrics
  return { ...described, metrics: { ...described.metrics, ...fidelityOf(described.metrics, simulated) } }
}

/** What a run suggests, as far as simulating each change bears it out; null: cancelled. */
export async function findJob(
  job: Extract<SimulateJob, { do: 'findings' }>,
  profile: Profile,
  hooks: ProofHooks,
): Promise<Proven | null> {
  const parsed = parseProject(job.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  return proveAll({ ...job, seen: new Map(job.seen) }, suspicionsOf(profile, parsed.project), hooks)
}

/** The profile of a stored log. */
export function openLog(stored: EncodedLog): Profile {
  return profileRun(decodeLog(stored))
}

/** One view of a run, or of a while and some requests of it. */
export function lensOf(
  { facts }: Profile,
  which: LensName,
  within: While | null,
  only: ReadonlySet<number> | null,
): Lens {
  switch (which) {
    case 'frames':
      return { of: which, ...framesLens(facts, within) }
    case 'threads':
      return { of: which, ...threadsLens(facts, within) }
    case 'memory':
      return { of: which, ...memoryLens(facts, within) }
    case 'cells':
      return { of: which, ...cellsLens(facts, within) }
    case 'tiers':
      return { of: which, ...tiersLens(facts, within) }
    case 'failures':
      return { of: which, groups: failuresOf(facts, only) }
  }
}
