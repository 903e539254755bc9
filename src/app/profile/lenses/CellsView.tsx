import Table from 'react-bootstrap/Table'
import type { ReactNode } from 'react'
import type { CellsLens } from '../../../core/profile/views/lenses/cells-lens.ts'
import type { Metrics } from '../../../core/profile/figures/metric-definitions.ts'
import { Curve } from './Curve.tsx'
import { FigureList } from './FigureList.tsx'
import { TextButton } from '../../controls/TextButton.tsx'

const mostLate = 24

/** Cells made and bound over the run: whether they are reused, what each costs, and which were made late. */
export function CellsView({
  part,
  lens,
  metrics,
  onMoment,
}: {
  part: ReactNode
  lens: CellsLens
  metrics: Metrics
  onMoment: (ms: number) => void
}) {
  const each = (ms: number | null) => (ms === null ? '–' : `${ms.toFixed(2)} ms`)
  return (
    <section className="tt-card tt-lens-view" aria-label="Cells" tabIndex={0}>
      <FigureList
        metrics={metrics}
        figures={[
          ['cells.created', 'created', ''],
          ['cells.bound', 'bound', ''],
          ['cells.reuse', 'reuse', '%', 1],
          ['cells.createMs', 'creating', 'ms', 1],
          ['cells.bindMs', 'binding', 'ms', 1],
          ['cells.createdAfterFirstScreen', 'made after the first screen', ''],
          ['cells.lastCreateRow', 'last made in row', ''],
          ['cells.heldHits', 'found held', ''],
        ]}
      />
      <p>
        One cell costs {each(lens.createMs)} to make and {each(lens.bindMs)} to bind.{' '}
        {lens.kinds
          .map(
            ({ kind, created, mostAtOnce }) =>
              `Kind ${kind + 1}: ${created} made, at most ${mostAtOnce} bound at once.`,
          )
          .join(' ')}
      </p>
      {part}
      <Curve
        points={lens.points}
        unit=""
        stacked={false}
        onMoment={onMoment}
        series={[
          { name: 'bound', label: 'binds so far', colour: 'var(--shown)' },
          { name: 'created', label: 'cells made so far', colour: 'var(--tug)' },
        ]}
      />
      {lens.places.length > 1 && (
        <Table size="sm">
          <thead>
            <tr>
              <th scope="col">rows</th>
              {lens.places.map(({ fromRow, toRow }) => (
                <th key={fromRow} scope="col">
                  {fromRow === toRow ? fromRow : `${fromRow}–${toRow}`}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">made</th>
              {lens.places.map(({ fromRow, created }) => (
                <td key={fromRow}>{created}</td>
              ))}
            </tr>
            <tr>
              <th scope="row">bound</th>
              {lens.places.map(({ fromRow, bound }) => (
                <td key={fromRow}>{bound}</td>
              ))}
            </tr>
          </tbody>
        </Table>
      )}
      {lens.late.length > 0 && (
        <p>
          Made late:{' '}
          {lens.late.slice(0, mostLate).map(({ ms, row }) => (
            <TextButton key={`${ms} ${row}`} onClick={() => onMoment(ms)}>
              {row === null ? 'never bound' : `row ${row}`}, {(ms / 1000).toFixed(2)} s
            </TextButton>
          ))}
          {lens.late.length > mostLate ? ` and ${lens.late.length - mostLate} more` : ''}
        </p>
      )}
    </section>
  )
}
