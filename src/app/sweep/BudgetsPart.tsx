import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import Table from 'react-bootstrap/Table'
import useSWRImmutable from 'swr/immutable'
import { isHeld, type Budget } from '../../core/compare/budgets.ts'
import { metricIds, type MetricId } from '../../core/profile/figures/metric-definitions.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import { Chip } from '../controls/Chip.tsx'
import { figureOf, headline } from '../runs/figures.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { Cancelled } from '../simulate/worker-client.ts'
import { edit, useProject, type ProjectState } from '../store/project-store.ts'
import { useBaselineFigures } from '../store/run-store.ts'
import { BudgetRow } from './BudgetRow.tsx'
import { FindSettings } from './FindSettings.tsx'
import { InCi } from './InCi.tsx'
import { measureAt, placeOf } from './measure-now.ts'
import { followSweep, inputOf, sweepSeeds } from './sweep-store.ts'

/** A proposed budget leaves this much room above the present value. */
const roomShare = 1.2

/** Budgets: each with its value now, over seeds, and settings that meet it. */
export function BudgetsPart({ parts }: { parts: ReactNode }) {
  const state = useProject()!
  const { budgets, screens } = state.project
  const { rows, trouble } = useMeasured(state)
  const baselineAt = useBaselineFigures()
  const [adding, setAdding] = useState<MetricId>('bytes.wastedShare')
  useEffect(() => void followSweep(state.id), [state.id])
  const rowAt = (budget: Pick<Budget, 'screen' | 'visit'>) => rows?.get(nameOf(placeOf(budget, state)))
  const add = (metrics: readonly MetricId[]) => {
    const first = rowAt({ visit: 'first' })
    const proposed = metrics.map((metric) => ({
      metric,
      max: Number(((first?.metrics[metric]?.median ?? 0) * roomShare).toPrecision(2)),
      visit: 'first' as const,
    }))
    edit('budget', [{ op: 'replace', path: '/budgets', value: [...rawBudgets(state), ...proposed] }])
  }
  const held = budgets.map((budget) => {
    const row = rowAt(budget)
    return row && isHeld(budget, row.metrics, baselineAt(placeOf(budget, state)))
  })
  const outcomes = [
    { count: held.filter((each) => each === false).length, word: 'broken' },
    { count: held.filter((each) => each === null).length, word: 'not decided' },
  ].filter(({ count }) => count > 0)
  const areHeld = held.length > 0 && held.every((each) => each === true)
  return (
    <div className="tt-step tt-sweep">
      <h1>
        Compare · budgets
        {areHeld && ': all held'}
        {outcomes.length > 0 && `: ${outcomes.map(({ count, word }) => `${count} ${word}`).join(', ')}`}
      </h1>
      {parts}
      {trouble && (
        <p className="tt-saving" role="alert">
          The budgets could not be measured: {trouble}
        </p>
      )}
      <section className="tt-card" aria-label="Budgets">
        {budgets.length === 0 ? (
          <p>
            Nothing has to hold yet. A budget says how large a figure may be, on a visit of a screen; CI holds it.{' '}
            <Button size="sm" disabled={!rows} onClick={() => add(headline.slice(0, 4).map(({ id }) => id))}>
              Propose some from the present figures
            </Button>
          </p>
        ) : (
          <Table size="sm" className="tt-budgets">
            <thead>
              <tr>
                <th scope="col">figure</th>
                <th scope="col">at least</th>
                <th scope="col">at most</th>
                <th scope="col">limits are</th>
                <th scope="col">visit</th>
                <th scope="col">screen</th>
                <th scope="col">now, over {sweepSeeds} seeds</th>
                <th scope="col">margin</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {budgets.map((budget, i) => (
                <BudgetRow
                  key={i}
                  budget={budget}
                  at={`/budgets/${i}`}
                  screens={screens.map(({ id }) => id)}
                  row={rowAt(budget)}
                  baseline={baselineAt(placeOf(budget, state))}
                  onRemove={() => edit('budget', [{ op: 'remove', path: `/budgets/${i}` }])}
                />
              ))}
            </tbody>
          </Table>
        )}
        <div className="tt-source-line">
          <FormSelect
            size="sm"
            aria-label="Figure of a new budget"
            value={adding}
            onChange={(event) => setAdding(event.target.value as MetricId)}
          >
            {metricIds.map((id) => (
              <option key={id} value={id}>
                {figureOf(id).name}
              </option>
            ))}
          </FormSelect>
          <Chip disabled={!rows} onClick={() => add([adding])}>
            + budget
          </Chip>
        </div>
      </section>
      {budgets.length > 0 && <FindSettings state={state} />}
      <InCi name={state.project.name} />
    </div>
  )
}

const rawBudgets = ({ raw }: ProjectState) => (raw.budgets as unknown[] | undefined) ?? []
const nameOf = ({ screen, visit }: { screen: string; visit: string }) => `${screen} ${visit}`

/**
 * The present figures of every screen and visit that a budget is about, and of the first visit. They do not depend on
 * limits: they are measured again when a setting changes.
 */
function useMeasured(state: ProjectState): { rows: ReadonlyMap<string, SweepRow> | undefined; trouble: string | null } {
  const { id, project, effective } = state
  const places = new Map(
    [{ visit: 'first' as const }, ...project.budgets].map((each) => {
      const place = placeOf(each, state)
      return [nameOf(place), place] as const
    }),
  )
  const pool = useRef<MeasuringPool | null>(null)
  const measure = async () => {
    pool.current?.cancel()
    const ownPool = (pool.current = new MeasuringPool())
    const named = [...places].map(
      async ([name, place]) =>
        [name, (await measureAt(ownPool, state, place, [], project.seed, sweepSeeds)).row] as const,
    )
    return new Map(await Promise.all(named))
  }
  const { data, error, mutate } = useSWRImmutable<ReadonlyMap<string, SweepRow>, Error>(
    ['figures for budgets', id],
    measure,
    // SWR considers any two maps equal.
    { revalidateOnMount: false, shouldRetryOnError: false, compare: Object.is },
  )
  const of = useMemo(() => inputOf(effective, 0), [effective])
  const names = [...places.keys()].join()
  useEffect(() => void mutate(), [mutate, of, names])
  useEffect(() => () => pool.current?.cancel(), [])
  // It was cancelled for a newer one, or because the view was left.
  return { rows: data, trouble: error && !(error instanceof Cancelled) ? error.message : null }
}
