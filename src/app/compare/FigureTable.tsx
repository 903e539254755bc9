import Table from 'react-bootstrap/Table'
import { compared, difference, formatMetric } from '../runs/figures.ts'
import type { StoredRun } from '../store/database.ts'
import { areAlike, letters } from './chosen-runs.ts'
import { IntervalMark } from './IntervalMark.tsx'
import type { Seeds } from './use-seeds.ts'

const verdicts = { better: 'better', worse: 'worse', same: 'no difference seen' } as const

/** The figures of each run, their differences from A, and whether a difference is more than noise. */
export function FigureTable({ runs, front, seeds }: { runs: readonly StoredRun[]; front: number; seeds: Seeds }) {
  const a = runs[0]!
  const alike = (run: StoredRun) => areAlike(run, a)
  return (
    <Table size="sm">
      <thead>
        <tr>
          <th scope="col">figure</th>
          {runs.map((run, i) => (
            <th key={run.id} scope="col" colSpan={i > 0 && alike(run) ? 2 : 1}>
              {letters[i]}
              {i > 0 && alike(run) ? ', against A' : ''}
            </th>
          ))}
          {seeds.is === 'done' && (
            <>
              <th scope="col" className="tt-interval-head">
                <span>◂ less</span> <span>more ▸</span>
              </th>
              <th scope="col">{letters[front]} over ten seeds</th>
            </>
          )}
        </tr>
      </thead>
      <tbody>
        {compared.map((figure) => {
          const change = seeds.is === 'done' ? seeds.changes.find(({ metric }) => metric === figure.id) : undefined
          const form = (value: number) => `${value < 0 ? '−' : '+'}${figure.form(Math.abs(value)).text}`
          return (
            <tr key={figure.id} tabIndex={0} data-explain={figure.explain}>
              <th scope="row">{figure.name}</th>
              {runs.flatMap((run, i) => {
                const value = (
                  <td key={`v${run.id}`} {...(i === 0 ? { 'data-metric': figure.id } : {})}>
                    {formatMetric(figure, run.metrics)}
                  </td>
                )
                if (i === 0 || !alike(run)) return [value]
                const delta = difference(figure, run.metrics, a.metrics)
                return [
                  value,
                  <td key={`d${run.id}`} className={delta ? `tt-delta is-${delta.is}` : ''}>
                    {delta?.text ?? '–'}
                  </td>,
                ]
              })}
              {seeds.is === 'done' && (
                <>
                  <td>{change && <IntervalMark change={change} />}</td>
                  <td className={`tt-verdict ${change ? `tt-delta is-${change.is}` : ''}`}>
                    {change ? (
                      <>
                        {verdicts[change.is]}{' '}
                        <small>
                          {change.is === 'same' ? '' : `${form(change.difference.median)} `}(
                          {form(change.difference.low)} … {form(change.difference.high)})
                        </small>
                      </>
                    ) : (
                      '–'
                    )}
                  </td>
                </>
              )}
            </tr>
          )
        })}
      </tbody>
    </Table>
  )
}
