import type { ReactNode } from 'react'
import type { TiersLens } from '../../../core/profile/views/lenses.ts'
import type { StoredRun } from '../../store/database.ts'
import { useRuns } from '../../store/run-store.ts'
import { Curve } from './Curve.tsx'
import { Told } from './Told.tsx'

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
      <Told
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
          series={tiers.map(([name, told, colour]) => ({ name, told, colour }))}
        />
        <div>
          <h3>Visit by visit</h3>
          {alike.map((each) => (
            <div key={each.id} className="tt-visit">
              <span>
                {each.visit}, run {each.number}
              </span>
              <div>
                {tiers.map(([name, told, colour]) => {
                  const share = each.metrics[`tier.${name}Share`] ?? 0
                  return (
                    share > 0 && (
                      <i
                        key={name}
                        style={{ width: `${100 * share}%`, background: colour }}
                        data-explain={`${told}: ${(100 * share).toFixed(1)} %`}
                      />
                    )
                  )
                })}
              </div>
              <span className="tt-quiet">{((each.metrics['bytes.received'] ?? 0) / 1e6).toFixed(2)} MB fetched</span>
            </div>
          ))}
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
