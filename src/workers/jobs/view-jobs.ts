import { ledgerTable, type LedgerTable } from '../../core/profile/figures/ledger-table.ts'
import { cellStory, itemStory, type WayStory } from '../../core/profile/stories/cell-stories.ts'
import { requestStory, type Story } from '../../core/profile/stories/stories.ts'
import { cellsLens, type CellsLens } from '../../core/profile/views/lenses/cells-lens.ts'
import { failuresOf, type FailureGroup } from '../../core/profile/views/lenses/failures.ts'
import { framesLens, type FramesLens } from '../../core/profile/views/lenses/frames-lens.ts'
import { memoryLens, type MemoryLens } from '../../core/profile/views/lenses/memory-lens.ts'
import { threadsLens, type ThreadsLens } from '../../core/profile/views/lenses/threads-lens.ts'
import { tiersLens, type TiersLens } from '../../core/profile/views/lenses/tiers-lens.ts'
import { type While } from '../../core/profile/views/lenses/while.ts'
import type { Requests } from './job.ts'
import { openedRun, type StoredRun } from './opened-run.ts'

/** A run seen from one side. */
export type Lens =
  | ({ of: 'frames' } & FramesLens)
  | ({ of: 'threads' } & ThreadsLens)
  | ({ of: 'memory' } & MemoryLens)
  | ({ of: 'cells' } & CellsLens)
  | ({ of: 'tiers' } & TiersLens)
  | { of: 'failures'; groups: FailureGroup[] }
export type LensName = Lens['of']

export interface LensOrder extends StoredRun {
  which: LensName
  within: While | null
  only: Requests
}

/** One view of a run, or of a time span and some requests of it. */
export function lensJob(job: LensOrder): Lens {
  const { facts } = openedRun(job)
  const { which, within } = job
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
      return { of: which, groups: failuresOf(facts, job.only && new Set(job.only)) }
  }
}

/** The story of one request; null: the run has no such request. */
export function storyJob(job: StoredRun & { request: number }): Story | null {
  const { facts, ledger } = openedRun(job)
  return requestStory(facts, ledger, job.request)
}

/** The course of a cell or an item through a run; null: the run has no such cell or item. */
export function wayJob(job: StoredRun & { of: 'cell' | 'item'; number: number }): WayStory | null {
  const { facts } = openedRun(job)
  return job.of === 'cell' ? cellStory(facts, job.number) : itemStory(facts, job.number)
}

export function ledgerJob(job: StoredRun & { only: Requests }): LedgerTable {
  return ledgerTable(openedRun(job), job.only && new Set(job.only))
}
