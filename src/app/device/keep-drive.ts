import { encodeLog } from '../../core/log/log-encoding.ts'
import type { RunLog } from '../../core/log/run-log.ts'
import type { LeftBehind } from '../../live/live-options.ts'
import type { LedgerResponse } from '../../live/origin-client.ts'
import type { FidelityOrder } from '../../workers/jobs/describe-job.ts'
import type { RunResult } from '../../workers/jobs/run-result.ts'
import { runWorker } from '../simulate/worker-client.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { notify, type ProjectState } from '../store/project-store.ts'
import { keepRun } from '../store/run-store.ts'
import { messageOf } from './device-state.ts'
import { leave } from './left-behind.ts'

/** What is taken from a run before its list may be stopped. */
export interface DriveEnd {
  /** Contents of its tiers at the end. */
  left: LeftBehind
  /** What the origin reports to have written; null: not observed. */
  written: Promise<LedgerResponse[] | null>
}

/** Profiles and keeps a live run; the client's log is checked against what the origin really wrote. */
export async function keepDrive(log: RunLog, { left, written }: DriveEnd, state: ProjectState): Promise<void> {
  try {
    const result = await runWorker.ask('describe', {
      log: encodeLog(log),
      against: log.head.script === 'by hand' ? null : await simulationOf(state, log.head.screen),
    }).result
    await leave(state.id, left).catch((error: unknown) =>
      notify(`What the drive left in its tiers is not there for the next visit: ${messageOf(error)}`),
    )
    const { visit, screen, script, seed } = log.head
    await keepRun(
      { project: state.id, world: 'live', visit, screen, script, seed, raw: state.effective },
      { ...result, kept: JSON.stringify(left.tiers) },
      gapOf(result!, await written),
    )
  } catch (error) {
    notify(`The run could not be profiled: ${messageOf(error)}`)
  }
}

/** The difference between the client's bytes and those that the origin wrote; null: not observed. */
function gapOf({ metrics }: RunResult, responses: readonly LedgerResponse[] | null): number | null {
  const written = responses?.reduce((sum, response) => sum + response.bodyBytes, 0) ?? 0
  if (written === 0) return null
  const logged = (metrics['bytes.received'] ?? 0) + (metrics['bytes.inFlight'] ?? 0)
  return Math.abs(logged - written) / written
}

/** The input for a simulation of the screen that was driven; null where its items are not available. */
async function simulationOf(state: ProjectState, driven: string): Promise<FidelityOrder | null> {
  const screen = state.project.screens.find(({ id }) => id === driven)
  if (!screen) return null
  return itemsToGive(state.id, screen).then(
    (items) => ({ project: state.project, items }),
    () => null,
  )
}
