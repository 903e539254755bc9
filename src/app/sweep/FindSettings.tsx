import { useEffect, useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import patches from 'fast-json-patch'
import { absoluteBudget } from '../../core/compare/budgets.ts'
import { isMetricId, type MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { medianOf } from '../../core/compare/intervals.ts'
import { differences } from '../../core/project/differences.ts'
import { search, type SearchProgress, type SearchedBudget, type SearchResult } from '../../core/sweep/search.ts'
import { withSettings, type Setting } from '../../core/sweep/setting.ts'
import { knownOf } from '../../core/sweep/sweep-row.ts'
import { rowCountOf } from '../../core/sweep/vary.ts'
import { Progress } from '../controls/Progress.tsx'
import { useDevice } from '../device/device-store.ts'
import { compared, figureOf, formatFigure } from '../runs/figures.ts'
import { Cancelled } from '../simulate/worker-client.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { edit, notify, type ProjectState } from '../store/project-store.ts'
import { useBaselineFigures } from '../store/run-store.ts'
import { measureAt, placeOf, type Place } from './measure-now.ts'
import { sweepSeeds, useSweep } from './sweep-store.ts'
import { Varied, VaryMore } from './Varied.tsx'
import { settingsWord } from './words.ts'

const runs = 2000
/** Fresh seeds, which the search has not used, begin this far above its own. */
const freshFrom = 1000

interface Found {
  result: SearchResult
  /** Whether each budget holds on fresh seeds, in their order. */
  fresh: { value: number | null; ok: boolean }[]
  of: unknown
}

/** Looks for settings that meet the budgets, and proves them on seeds that the search has not seen. */
export function FindSettings({ state }: { state: ProjectState }) {
  const { project } = state
  const { varied } = useSweep()
  const chosen = useDevice(({ screen }) => screen)
  const [least, setLeast] = useState<MetricId>('bytes.received')
  const [pool, setPool] = useState<MeasuringPool | null>(null)
  const [trail, setTrail] = useState<readonly SearchProgress[]>([])
  const [found, setFound] = useState<Found | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  useEffect(() => () => pool?.cancel(), [pool])
  const start = useRef<HTMLButtonElement>(null)
  const baselineAt = useBaselineFigures()
  // A budget relative to the baseline is searched for as the limit that it amounts to.
  const budgets = project.budgets.flatMap((budget) => {
    const absolute = isMetricId(budget.metric) ? absoluteBudget(budget, baselineAt(placeOf(budget, state))) : null
    return absolute ?? []
  })
  const run = async () => {
    const ownPool = new MeasuringPool()
    setPool(ownPool)
    setFound(null)
    setTrail([])
    setTrouble(null)
    const places: Place[] = [{ screen: project.screens[0]!.id, visit: 'first' }]
    const searched = budgets.map((budget): SearchedBudget => {
      const place = placeOf(budget, state)
      let group = places.findIndex((each) => each.screen === place.screen && each.visit === place.visit)
      if (group < 0) group = places.push(place) - 1
      return { budget, group }
    })
    const measure = async (settings: readonly Setting[], seeds: readonly number[]) => {
      const all = await Promise.all(
        places.map((place) => measureAt(ownPool, state, place, settings, seeds[0]!, seeds.length)),
      )
      return seeds.map((_, i) => all.map(({ runs: each }) => each[i]!))
    }
    try {
      const outcome = await search(
        {
          varied,
          budgets: searched,
          least: { metric: least, group: 0 },
          seed: project.seed,
          seeds: sweepSeeds,
          cost: places.length,
          runs,
        },
        { measure, progress: (progress) => setTrail((before) => [...before, progress]) },
      )
      const fresh = await measure(
        outcome!.settings,
        Array.from({ length: sweepSeeds }, (_, n) => project.seed + freshFrom + n),
      )
      setFound({
        result: outcome!,
        of: state.effective,
        fresh: searched.map(({ budget, group }) => {
          const known = knownOf(
            fresh.map((each) => each[group]!),
            budget.metric as MetricId,
          )
          const value = known.length === 0 ? null : medianOf(Float64Array.from(known))
          const { min = -Infinity, max = Infinity } = budget
          return { value, ok: value === null || (value >= min && value <= max) }
        }),
      })
    } catch (error) {
      ownPool.cancel()
      if (!(error instanceof Cancelled)) setTrouble(error instanceof Error ? error.message : String(error))
    }
    setPool(null)
  }
  return (
    <section className="tt-card" aria-label="Find settings">
      <h2>Find settings</h2>
      <div className="tt-source-line">
        {varied.map((setting) => (
          <Varied key={setting.path} setting={setting} />
        ))}
        <VaryMore project={project} screen={Math.min(chosen, project.screens.length - 1)} varied={varied} />
        <label className="tt-axis-pick">
          with the least{' '}
          <FormSelect size="sm" value={least} onChange={(event) => setLeast(event.target.value as MetricId)}>
            {['bytes.received' as const, ...compared.map(({ id }) => id)].map((id) => (
              <option key={id} value={id}>
                {figureOf(id).name}
              </option>
            ))}
          </FormSelect>
        </label>
        {pool ? (
          <>
            <Progress name="Searching" share={(trail.at(-1)?.runs ?? 0) / runs} />
            <Button size="sm" variant="outline-secondary" onClick={() => pool.cancel()}>
              Cancel
            </Button>
          </>
        ) : (
          <Button
            ref={start}
            size="sm"
            disabled={varied.length === 0 || budgets.length === 0}
            onClick={() => void run()}
          >
            Find settings{varied.length > 0 ? ` among ${rowCountOf(varied).toLocaleString('en')}` : ''}
          </Button>
        )}
      </div>
      {varied.length === 0 && <p className="tt-quiet">Choose with “+ vary” what may change.</p>}
      {budgets.length < project.budgets.length && (
        <p className="tt-saving">
          Budgets over a baseline without a pinned run of their screen and visit, or of an unknown figure, are not
          searched for.
        </p>
      )}
      {trail.length > 0 && <Trail rounds={trail} least={least} />}
      {trouble && (
        <p className="tt-saving" role="alert">
          The search stopped: {trouble}
        </p>
      )}
      {found && (
        <Answer
          found={found}
          state={state}
          budgets={budgets.map(({ metric }) => metric as MetricId)}
          onApplied={() => {
            setFound(null)
            // The button that was pressed disappears with the answer.
            start.current?.focus()
          }}
        />
      )}
    </section>
  )
}

/** How the search came to its best settings, round by round. */
function Trail({ rounds, least }: { rounds: readonly SearchProgress[]; least: MetricId }) {
  const figure = figureOf(least)
  return (
    <ol className="tt-quiet tt-trail" aria-label="Best so far" aria-live="polite">
      {rounds.map((round, i) => (
        <li key={i}>
          After {round.runs.toLocaleString('en')} simulations, {round.alive} of the combinations left:{' '}
          {settingsWord(round.best)}; {figure.name} {round.least === null ? '–' : formatFigure(figure, round.least)},{' '}
          {round.misses === 0 ? 'every budget met' : `budgets missed by ${(100 * round.misses).toFixed(0)} %`}
        </li>
      ))}
    </ol>
  )
}

/** The result, as readable changes, with its proof. */
function Answer({
  found: { result, fresh, of },
  state,
  budgets,
  onApplied,
}: {
  found: Found
  state: ProjectState
  budgets: readonly MetricId[]
  onApplied: () => void
}) {
  const varied = withSettings(state.raw, result.settings)
  const changes = varied.ok ? differences(state.raw, varied.raw) : []
  const isOld = of !== state.effective
  const binding = result.budgets.reduce((one, other) => (other.misses > one.misses ? other : one))
  const valueOf = (metric: MetricId, value: number | null) =>
    value === null ? 'nothing of the kind' : formatFigure(figureOf(metric), value)
  const held = result.met && fresh.every(({ ok }) => ok)
  return (
    <div role="status" className="tt-found">
      {result.met ? (
        <p>
          <strong>{held ? 'These settings meet every budget' : 'Met in the search, but not on fresh seeds'}</strong>,
          after {result.runs.toLocaleString('en')} simulations:
        </p>
      ) : (
        <p>
          <strong>Nothing in the range meets the budgets.</strong> The binding one is{' '}
          {isMetricId(binding.metric) ? figureOf(binding.metric).name : binding.metric}; the nearest settings:
        </p>
      )}
      <ul>
        {changes.length === 0 ? (
          <li>No change: the settings as they are.</li>
        ) : (
          changes.map((each) => <li key={each}>{each}</li>)
        )}
      </ul>
      <ul aria-label="On fresh seeds">
        {budgets.map((metric, i) => (
          <li key={`${metric} ${i}`}>
            {fresh[i]!.ok ? '✓' : '■'} {figureOf(metric).name}: {valueOf(metric, result.budgets[i]!.value)} in the
            search, {valueOf(metric, fresh[i]!.value)} on {sweepSeeds} seeds that it has not seen
          </li>
        ))}
      </ul>
      <Button
        size="sm"
        disabled={isOld || changes.length === 0 || !varied.ok}
        onClick={() => {
          if (!varied.ok) return notify(varied.message)
          edit('found settings', patches.compare(state.raw, varied.raw))
          onApplied()
        }}
      >
        Apply
      </Button>
    </div>
  )
}
