import type { ReactNode } from 'react'
import type { MemoryLens } from '../../../core/profile/views/lenses/memory-lens.ts'
import type { Metrics } from '../../../core/profile/figures/metric-definitions.ts'
import { Curve } from './Curve.tsx'
import { FigureList } from './FigureList.tsx'

/** Memory over the run, by kind, and what collections and pressure freed. */
export function MemoryView({
  part,
  lens,
  metrics,
  onMoment,
}: {
  part: ReactNode
  lens: MemoryLens
  metrics: Metrics
  onMoment: (ms: number) => void
}) {
  const marks = [
    ...lens.collections.map(({ ms, asked }) => ({ ms, word: asked ? 'requested collection' : 'collection' })),
    ...lens.reliefs.map((ms) => ({ ms, word: 'memory given back' })),
  ]
  return (
    <section className="tt-card tt-lens-view" aria-label="Memory" tabIndex={0}>
      <FigureList
        metrics={metrics}
        figures={[
          ['memory.startMb', 'start', 'MB', 1],
          ['memory.peakMb', 'peak', 'MB', 1],
          ['memory.endMb', 'end', 'MB', 1],
          ['memory.afterCollectMb', 'after a collection', 'MB', 1],
          ['memory.afterReliefMb', 'after giving back', 'MB', 1],
          ['memory.collections', 'collections', ''],
          ['memory.pauseMs', 'their pauses', 'ms', 1],
          ['disk.startMb', 'disk before', 'MB', 1],
          ['disk.peakMb', 'disk peak', 'MB', 1],
          ['disk.endMb', 'disk after', 'MB', 1],
          ['disk.writtenMb', 'written', 'MB', 1],
        ]}
      />
      {part}
      <Curve
        points={lens.points}
        unit="MB"
        stacked
        marks={marks}
        onMoment={onMoment}
        series={[
          { name: 'rest', label: 'base and transfers', colour: 'var(--cut)' },
          { name: 'bound', label: 'in cells', colour: 'var(--shown)' },
          { name: 'tier', label: 'memory tier', colour: 'var(--early)' },
          { name: 'garbage', label: 'garbage', colour: 'var(--again)' },
        ]}
      />
    </section>
  )
}
