import type { EncodedLog } from '../../core/log/log-encoding.ts'
import { compareOnSeeds, proveAll, type Change, type Proven } from '../../core/compare/prove.ts'
import { repeatOnSeeds, type Spread } from '../../core/compare/repeat.ts'
import type { Suspicion } from '../../core/profile/findings/suspicion.ts'
import { suspicionsOf } from '../../core/profile/findings/findings.ts'
import { parseProject, type Raw } from '../../core/project/parse.ts'
import { unlessCancelled, type JobHooks, type RawOrder } from './job.ts'
import { openedRun } from './opened-run.ts'

export interface FindingsOrder extends RawOrder {
  log: EncodedLog
  hash: string
  /** Whether its world can be simulated well enough to prove anything on it. */
  prove: boolean
}

/** The findings about a run: proven, the best first; or suspicions only, where nothing can be proven. */
export type FindingsAnswer = { proven: Proven } | { suspicions: Suspicion[] }

/** Looks for possible improvements of a run, and proves them by simulating it with each change. */
export async function findingsJob(job: FindingsOrder, hooks: JobHooks): Promise<FindingsAnswer> {
  const parsed = parseProject(job.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const suspicions = suspicionsOf(openedRun(job), parsed.project)
  if (!job.prove) return { suspicions }
  return { proven: unlessCancelled(await proveAll({ ...job, seen: new Map(job.seen) }, suspicions, hooks)) }
}

export interface CompareOrder extends RawOrder {
  other: Raw
}

/** Two projects on the same ten seeds. */
export async function compareJob(job: CompareOrder, hooks: JobHooks): Promise<Change[]> {
  return unlessCancelled(await compareOnSeeds({ ...job, seen: new Map(job.seen) }, job.other, hooks))
}

export interface RepeatOrder extends RawOrder {
  times: number
}

/** One project on many seeds. */
export async function repeatJob(job: RepeatOrder, hooks: JobHooks): Promise<Spread[]> {
  return unlessCancelled(await repeatOnSeeds({ ...job, seen: new Map(job.seen) }, job.times, hooks))
}
