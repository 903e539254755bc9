import type { EncodedLog } from '../../core/log/log-encoding.ts'
import { compareOnSeeds, proveAll, type Change, type Proven } from '../../core/compare/prove.ts'
import { repeatOnSeeds, type Spread } from '../../core/compare/repeat.ts'
import { suspicionsOf } from '../../core/profile/findings/findings.ts'
import { parseProject, type Raw } from '../../core/project/parse.ts'
import { unlessCancelled, type JobHooks, type RawOrder } from './job.ts'
import { openedRun } from './opened-run.ts'

export interface FindingsOrder extends RawOrder {
  log: EncodedLog
  hash: string
}

/** Looks for what could be better in a run, and proves it by simulating it with each change. */
export async function findingsJob(job: FindingsOrder, hooks: JobHooks): Promise<Proven> {
  const parsed = parseProject(job.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const suspicions = suspicionsOf(openedRun(job), parsed.project)
  return unlessCancelled(await proveAll({ ...job, seen: new Map(job.seen) }, suspicions, hooks))
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
