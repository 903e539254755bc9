import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { difference, headline } from '../runs/figures.ts'

/** Headline figures, each with its difference to the baseline. */
export function FigureRow({ metrics, base }: { metrics: Metrics; base: Metrics | null }) {
  return (
    <dl className="tt-figures">
      {headline.map((figure) => {
        const value = metrics[figure.id]
        const formatted = value === null || value === undefined ? null : figure.form(value)
        const delta = difference(figure, metrics, base)
        return (
          <div key={figure.id} tabIndex={0} data-explain={figure.explain}>
            <dd>
              <strong data-metric={figure.id}>{formatted ? formatted.text : '–'}</strong> {formatted?.unit}
              {delta && <span className={`tt-delta is-${delta.is}`}>{delta.text}</span>}
            </dd>
            <dt>{figure.name}</dt>
          </div>
        )
      })}
    </dl>
  )
}
