import type { MetricId, Metrics } from '../../../core/profile/figures/metric-definitions.ts'

/** Figures of a run by their ids, each with its unit; unknown ones are shown as such. */
export function FigureList({
  metrics,
  figures,
}: {
  metrics: Metrics
  figures: readonly (readonly [id: MetricId, name: string, unit: string, digits?: number])[]
}) {
  return (
    <dl className="tt-figure-list">
      {figures.map(([id, name, unit, digits = 0]) => {
        const value = metrics[id]
        const share = unit === '%'
        return (
          <div key={id} tabIndex={0} data-explain={id}>
            <dt>{name}</dt>
            <dd data-metric={id}>
              {typeof value !== 'number'
                ? '–'
                : `${(share ? 100 * value : value).toFixed(digits)}${unit === '' ? '' : ` ${unit}`}`}
            </dd>
          </div>
        )
      })}
    </dl>
  )
}
