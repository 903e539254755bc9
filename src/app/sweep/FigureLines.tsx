import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import { deltas } from '../runs/figures.ts'

/** Three figures under a small map, each with its 95 % interval over the seeds. */
export function FigureLines({ metrics }: { metrics: SweepRow['metrics'] }) {
  return deltas.map(({ id, word, form }) => {
    const interval = metrics[id]
    if (!interval)
      return (
        <small key={id} className="tt-figure-line">
          <span>– {word}</span>
        </small>
      )
    const { text, unit } = form(interval.median)
    return (
      <small key={id} className="tt-figure-line">
        <span>
          {text} {unit} {word}
        </span>
        <span className="tt-quiet">
          {form(interval.low).text}–{form(interval.high).text}
        </span>
      </small>
    )
  })
}
