import { calibrated } from '../../core/compare/calibrate.ts'
import { fidelityOf } from '../../core/compare/fidelity.ts'
import { decodeLog, type EncodedLog } from '../../core/log/log-encoding.ts'
import { profileRun } from '../../core/profile/profile.ts'
import type { Item, Project } from '../../core/project/types.ts'
import { simulate } from '../../core/simulate/simulate.ts'
import { steppedNote } from '../../core/watch/standstill.ts'
import { describeRun, type RunResult } from './run-result.ts'

/** What a live run was driven with: simulated on a device calibrated to it, it shows how near the two worlds are. */
export interface FidelityOrder {
  project: Project
  items: readonly Item[] | null
}

export interface DescribeOrder {
  log: EncodedLog
  against: FidelityOrder | null
}

/**
 * A live run as it is kept, with how near its simulation comes: the same script and seed, on a device calibrated to
 * this very run.
 */
export function describeJob({ log, against }: DescribeOrder): RunResult {
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
