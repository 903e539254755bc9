import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { budgetValue, isHeld, marginOf, type Budget } from '../../core/compare/budgets.ts'
import { isMetricId, metricDefinitions, type Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { visitOrder } from '../../core/project/visits.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import { Chip } from '../controls/Chip.tsx'
import { figureOf, formatFigure } from '../runs/figures.ts'
import { edit, set } from '../store/project-store.ts'

interface BudgetRowProps {
  budget: Budget
  /** Where it is in the project file. */
  at: string
  screens: readonly string[]
  /** The figures now; undefined while they are measured. */
  row: SweepRow | undefined
  /** The value that a relative one is compared with; null: no run of its screen and visit is pinned. */
  baseline: Metrics | null
  onRemove: () => void
}

/** A budget with its limits, its value now, and what is left. */
export function BudgetRow({ budget, at, screens, row, baseline, onRemove }: BudgetRowProps) {
  if (!isMetricId(budget.metric))
    return (
      <tr>
        <th scope="row" colSpan={8}>
          There is no figure “{budget.metric}”.
        </th>
        <td>
          <Chip aria-label={`Remove the budget of ${budget.metric}`} onClick={onRemove}>
            ×
          </Chip>
        </td>
      </tr>
    )
  const figure = figureOf(budget.metric)
  const { unit } = metricDefinitions[budget.metric]
  const held = row ? isHeld(budget, row.metrics, baseline) : null
  const margin = row ? marginOf(budget, row.metrics, baseline) : null
  const limit = (side: 'min' | 'max') => {
    const value = budget[side]
    return (
      <>
        <FormControl
          size="sm"
          type="number"
          step="any"
          aria-label={`${figure.name}, ${side === 'min' ? 'at least' : 'at most'}`}
          data-explain={`In the unit of the figure as files hold it: ${unit}`}
          value={value ?? ''}
          onChange={(event) => {
            const typed = event.target.value
            if (typed !== '') return set(`${at}/${side}`, Number(typed))
            // One of the two limits has to stay.
            if (budget[side === 'min' ? 'max' : 'min'] !== undefined)
              edit('budget', [{ op: 'remove', path: `${at}/${side}` }])
          }}
        />
        {value !== undefined && <small className="tt-quiet"> {formatFigure(figure, value)}</small>}
      </>
    )
  }
  return (
    <tr data-held={held === null ? undefined : String(held)}>
      <th scope="row" tabIndex={0} data-explain={figure.explain}>
        {held === false && '■ '}
        {figure.name}
      </th>
      <td>{limit('min')}</td>
      <td>{limit('max')}</td>
      <td>
        <FormSelect
          size="sm"
          aria-label={`${figure.name}, limits are`}
          value={budget.relativeTo ?? 'absolute'}
          onChange={({ target: { value } }) =>
            edit('budget', [
              value === 'absolute'
                ? { op: 'remove', path: `${at}/relativeTo` }
                : { op: 'add', path: `${at}/relativeTo`, value },
            ])
          }
        >
          <option>absolute</option>
          <option value="baseline">over the baseline</option>
        </FormSelect>
      </td>
      <td>
        <FormSelect
          size="sm"
          aria-label={`${figure.name}, visit`}
          value={budget.visit}
          onChange={(event) => set(`${at}/visit`, event.target.value)}
        >
          {visitOrder.map((visit) => (
            <option key={visit}>{visit}</option>
          ))}
        </FormSelect>
      </td>
      <td>
        <FormSelect
          size="sm"
          aria-label={`${figure.name}, screen`}
          value={budget.screen ?? screens[0]}
          onChange={(event) => set(`${at}/screen`, event.target.value)}
        >
          {screens.map((id) => (
            <option key={id}>{id}</option>
          ))}
        </FormSelect>
      </td>
      <td>{row ? <Now budget={budget} row={row} baseline={baseline} /> : '…'}</td>
      <td>{margin === null ? '–' : `${margin < 0 ? '−' : ''}${Math.abs(100 * margin).toFixed(0)} %`}</td>
      <td>
        <Chip aria-label={`Remove the budget of ${figure.name}`} onClick={onRemove}>
          ×
        </Chip>
      </td>
    </tr>
  )
}

/** The value that is compared with the limits, with its interval over the seeds. */
function Now({ budget, row, baseline }: { budget: Budget; row: SweepRow; baseline: Metrics | null }) {
  if (!isMetricId(budget.metric)) return null
  const figure = figureOf(budget.metric)
  const interval = row.metrics[budget.metric]
  if (!interval) return 'nothing of the kind'
  const value = budgetValue(budget, row.metrics, baseline)
  if (value === null) return 'pin a run of this screen and visit as the baseline'
  const base = interval.median - value
  const signed = (number: number) =>
    budget.relativeTo === undefined
      ? formatFigure(figure, number)
      : `${number < 0 ? '−' : '+'}${formatFigure(figure, Math.abs(number))}`
  return (
    <>
      <strong>{signed(value)}</strong>{' '}
      <small className="tt-quiet">
        ({signed(interval.low - base)} … {signed(interval.high - base)})
      </small>
    </>
  )
}
