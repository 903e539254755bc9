import type { LensName } from '../../../workers/jobs/view-jobs.ts'
import { requestsIn, type MapRange } from '../../map/map-view.ts'
import type { StoredLog, StoredRun } from '../../store/database.ts'
import { partKey, PartNote } from '../PartNote.tsx'
import { useAnswer } from '../use-answer.ts'
import { CellsView } from './CellsView.tsx'
import { FailuresView } from './FailuresView.tsx'
import { FramesView } from './FramesView.tsx'
import { MemoryView } from './MemoryView.tsx'
import { ThreadsView } from './ThreadsView.tsx'
import { TiersView } from './TiersView.tsx'

interface LensViewProps {
  run: StoredRun
  kept: StoredLog
  which: LensName
  /** The selected part alone; null: all of it. */
  range: MapRange | null
  onRequest: (request: number) => void
  onMoment: (ms: number) => void
}

/** A run seen from one side; everything in it selects on the map or sets the cursor. */
export default function LensView({ run, kept, which, range, onRequest, onMoment }: LensViewProps) {
  const within = range && { fromMs: range.fromMs, toMs: range.toMs }
  const { answer, trouble } = useAnswer('lens', run.hash, [which, partKey(range)], () => ({
    log: kept.log,
    hash: run.hash,
    which,
    within,
    only: range && requestsIn(kept.map, range),
  }))
  if (trouble)
    return (
      <p className="tt-card" role="alert">
        This view could not be read: {trouble}
      </p>
    )
  if (!answer) return <p className="tt-card">Reading the run…</p>
  const part = range && <PartNote figures={which !== 'failures'} />
  switch (answer.of) {
    case 'frames':
      return <FramesView part={part} lens={answer} metrics={run.metrics} onMoment={onMoment} />
    case 'threads':
      return <ThreadsView part={part} lens={answer} metrics={run.metrics} onRequest={onRequest} />
    case 'memory':
      return <MemoryView part={part} lens={answer} metrics={run.metrics} onMoment={onMoment} />
    case 'cells':
      return <CellsView part={part} lens={answer} metrics={run.metrics} onMoment={onMoment} />
    case 'tiers':
      return <TiersView part={part} lens={answer} run={run} onMoment={onMoment} />
    case 'failures':
      return <FailuresView part={part} groups={answer.groups} onRequest={onRequest} />
  }
}
