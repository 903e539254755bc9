import type { ReactNode } from 'react'
import type { TiersLens } from '../../../core/profile/views/lenses/tiers-lens.ts'
import type { StoredRun } from '../../store/database.ts'
import { useRuns } from '../../store/run-store.ts'
import { Bars } from './Bars.tsx'
import { Curve } from './Curve.tsx'
import { FigureList } from './FigureList.tsx'

const tiers = [
  ['memory', 'memory', 'var(--early)'],
  ['disk', 'disk', 'var(--again)'],
  ['network', 'network', 'var(--shown)'],
  ['local', 'on the device', 'var(--cut)'],
] as const
const visits = ['first', 'restarted', 'again'] as const

/** Where pictures came from: over this run, and visit by visit of the same drive. */
export function TiersView({
  part,
  lens,
  run,
  onMoment,
}: {
  part: ReactNode
  lens: TiersLens
  run: StoredRun
  onMoment: (ms: number) => void
}) {
  const { list } = useRuns()
  const alike = visits.flatMap(
    (visit) =>
      list.findLast(
        (each) =>
          each.visit === visit && each.script === run.script && each.screen === run.screen && each.world === run.world,
      ) ?? [],
  )
  return (
    <section className="tt-card tt-lens-view" aria-label="Tiers" tabIndex={0}>
      <FigureList
        metrics={run.metrics}
        figures={[
          ['tier.memoryShare', 'from memory', '%', 1],
          ['tier.diskShare', 'from disk', '%', 1],
          ['tier.networkShare', 'from the network', '%', 1],
          ['tier.localShare', 'on the device', '%', 1],
          ['tier.evictions', 'evicted', ''],
          ['tier.evictedThenWanted', 'evicted, then wanted', ''],
        ]}
      />
      {part}
      <div className="tt-lens-columns">
        <Curve
          points={lens.points}
          unit="pictures"
          stacked
          onMoment={onMoment}
          marks={lens.evictions.map((ms) => ({ ms, word: 'evicted' }))}
          series={tiers.map(([name, label, colour]) => ({ name, label, colour }))}
        />
        <div>
          <h2>Visit by visit</h2>
          <Bars
            label="Where pictures came from, visit by visit"
            nameWidth={112}
            most={1}
            rows={alike.map((each) => ({
              name: `${each.visit}, run ${each.number}`,
              text: `${((each.metrics['bytes.received'] ?? 0) / 1e6).toFixed(2)} MB fetched`,
              metrics: each.metrics,
            }))}
            series={tiers.map(([name, label, colour]) => ({
              label,
              colour,
              of: ({ metrics }: Pick<StoredRun, 'metrics'>) => metrics[`tier.${name}Share`] ?? 0,
              value: ({ metrics }: Pick<StoredRun, 'metrics'>) => {
                const share = metrics[`tier.${name}Share`]
                return share === null || share === undefined ? 'not observed' : `${(100 * share).toFixed(1)} %`
              },
            }))}
          />
          {alike.length < visits.length && (
            <p className="tt-quiet">
              Choose “all in a row” in Drive to see first, restarted and again beside each other.
            </p>
          )}
        </div>
      </div>
    </section>
  )
}
