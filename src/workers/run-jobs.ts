import { decodeLog, encodeLog, type EncodedLog } from '../core/log/log-encoding.ts'
import { hashLog } from '../core/log/log-hash.ts'
import type { RunLog } from '../core/log/run-log.ts'
import { proveAll, type ProofHooks, type Proven } from '../core/compare/prove.ts'
import { suspicionsOf } from '../core/profile/findings.ts'
import { mapOf } from '../core/profile/map-data.ts'
import { profileRun, type Profile } from '../core/profile/profile.ts'
import { parseProject } from '../core/project/parse.ts'
import type { Visit } from '../core/project/types.ts'
import { Simulation, type Simulated } from '../core/run/simulate.ts'
import { visitOrder } from '../core/run/visits.ts'
import type { RunResult, SimulateJob } from './messages.ts'

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
export async function simulateJob(job: Extract<SimulateJob, { do: 'simulate' }>, hooks: JobHooks): Promise<RunResult[] | null> {
  const last = Math.max(...job.visits.map((visit) => visitOrder.indexOf(visit)))
  const results: RunResult[] = []
  let before: Simulated | null = null
  for (const [number, visit] of visitOrder.slice(0, last + 1).entries()) {
    const run: Simulated | null = await oneVisit(job, visit, before, hooks)
    if (!run) return null
    before = run
    if (job.visits.includes(visit)) results.push(describeRun(run.log, run.kept))
    hooks.progress((number + 1) / (last + 1))
  }
  return results
}

async function oneVisit(
  job: Extract<SimulateJob, { do: 'simulate' }>, visit: Visit, before: Simulated | null, hooks: JobHooks,
): Promise<Simulated | null> {
  const { project, screen, script, seed, items, seen } = job
  const simulation = new Simulation(project, {
    screen, script, seed, visit, items, seen: new Map(seen), kept: before?.kept ?? null, epochMs: before?.endMs ?? 0,
  })
  let since = hooks.now()
  while (!simulation.advance(stepsPerLook)) {
    if (hooks.now() - since < sliceMs) continue
    await hooks.rest()
    if (hooks.cancelled()) return null
    since = hooks.now()
  }
  return simulation.result()
}

export function describeRun(log: RunLog, kept: RunResult['kept']): RunResult {
  const { facts, ledger, metrics, checks } = profileRun(log)
  return { log: encodeLog(log), hash: hashLog(log), metrics, checks, map: mapOf(facts, ledger), kept }
}

/** What a run suggests, as far as simulating each change bears it out; null: cancelled. */
export async function findJob(job: Extract<SimulateJob, { do: 'findings' }>, profile: Profile, hooks: ProofHooks): Promise<Proven | null> {
  const parsed = parseProject(job.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  return proveAll({ ...job, seen: new Map(job.seen) }, suspicionsOf(profile, parsed.project), hooks)
}

/** The profile of a stored log. */
export function openLog(stored: EncodedLog): Profile {
  return profileRun(decodeLog(stored))
}
