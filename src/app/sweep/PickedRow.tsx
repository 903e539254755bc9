import Table from 'react-bootstrap/Table'
import type { MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { figureOf } from '../runs/figures.ts'
import type { DrawnRow } from './sweep-store.ts'

/** The figures of the present settings, and of the picked row with their intervals. */
export function PickedRow({
  now,
  row,
  metrics,
}: {
  now: DrawnRow | undefined
  row: DrawnRow | undefined
  metrics: readonly MetricId[]
}) {
  const figures = metrics.map(figureOf)
  const format = (each: DrawnRow, at: 'median' | 'low' | 'high', figure: (typeof figures)[number]) => {
    const interval = each.metrics[figure.id]
    return interval ? figure.form(interval[at]).text : '–'
  }
  return (
    <Table size="sm" className="tt-picked-row">
      <thead>
        <tr>
          <td />
          {figures.map((figure) => (
            <th key={figure.id} scope="col" tabIndex={0} data-explain={figure.explain}>
              {figure.name} <small className="tt-quiet">{figure.form(0).unit}</small>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {now && (
          <tr>
            <th scope="row">now</th>
            {figures.map((figure) => (
              <td key={figure.id}>{format(now, 'median', figure)}</td>
            ))}
          </tr>
        )}
        {row && (
          <>
            <tr>
              <th scope="row">picked</th>
              {figures.map((figure) => (
                <td key={figure.id}>
                  <strong>{format(row, 'median', figure)}</strong>
                </td>
              ))}
            </tr>
            <tr className="tt-quiet">
              <th scope="row">95 % sure</th>
              {figures.map((figure) => (
                <td key={figure.id}>
                  {format(row, 'low', figure)}–{format(row, 'high', figure)}
                </td>
              ))}
            </tr>
          </>
        )}
      </tbody>
    </Table>
  )
}
