import { useCallback, useDeferredValue, useEffect, useMemo, useState, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import patches from 'fast-json-patch'
import { budgetsAt } from '../../core/compare/budgets.ts'
import type { MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { withSettings } from '../../core/sweep/setting.ts'
import { sweepCsv } from '../../core/sweep/sweep-csv.ts'
import { unbeatenIn } from '../../core/sweep/sweep-row.ts'
import { rowCountOf } from '../../core/sweep/vary.ts'
import { Chip } from '../controls/Chip.tsx'
import { Progress } from '../controls/Progress.tsx'
import { useDevice } from '../device/device-store.ts'
import { compared, figureOf } from '../runs/figures.ts'
import { keepPatchAsVariant } from '../store/variants.ts'
import { edit, notify, useProject } from '../store/project-store.ts'
import { useBaselineFigures } from '../store/run-store.ts'
import { saveFile } from '../store/save-file.ts'
import { PickedRow } from './PickedRow.tsx'
import { useGo } from '../shell/address.ts'
import { openRow } from './open-row.ts'
import { estimateSweep, runSweep } from './run-sweep.ts'
import { SmallMaps } from './SmallMaps.tsx'
import {
  cancelSweep,
  followSweep,
  inputOf,
  mostCombinations,
  sweepSeeds,
  useSweep,
  isTried,
  type DrawnRow,
  type RowName,
  type TriedRow,
} from './sweep-store.ts'
import { useSweepView, type MapOrder } from './sweep-view.ts'
import { TradeOff } from './TradeOff.tsx'
import { Varied, VaryMore } from './Varied.tsx'
import { settingsWord } from './words.ts'

const choices: MetricId[] = [...compared.map(({ id }) => id), 'bytes.received']

/** Every combination of up to three settings: the trade-off, and each as a map. */
export function SweepPart({ parts }: { parts: ReactNode }) {
  const state = useProject()!
  const { project } = state
  const screen = Math.min(
    useDevice(({ screen }) => screen),
    project.screens.length - 1,
  )
  const sweep = useSweep()
  const go = useGo()
  const [{ picked, x, y, size, order }, show] = useSweepView()
  const onPick = useCallback((row: RowName) => show('picked', row === 'now' ? null : row), [show])
  const onOrder = useCallback((by: MapOrder) => show('order', by), [show])
  const [hovered, onHover] = useState<RowName | null>(null)
  const baselineAt = useBaselineFigures()
  useEffect(() => void followSweep(state.id), [state.id])
  const count = rowCountOf(sweep.varied)
  const tried = useMemo(
    () => [...sweep.rows.values()].filter(isTried).sort((one, other) => one.row - other.row),
    [sweep.rows],
  )
  const now = sweep.rows.get('now')
  const done: readonly DrawnRow[] = useMemo(() => (now ? [now, ...tried] : tried), [now, tried])
  // Results arrive faster than plots can be drawn: input comes first.
  const drawn = useDeferredValue(done)
  const { effective } = state
  // A large project is not serialised at each rendering.
  const input = useMemo(() => inputOf(effective, screen), [effective, screen])
  const isOld = sweep.of !== null && sweep.of !== input
  const left = sweep.varied.length === 0 ? 0 : count + 1 - (isOld ? 0 : done.length)
  // A sweep is of the first visit.
  const at = { screen: project.screens[screen]!.id, visit: 'first' as const }
  const budgets = useMemo(() => budgetsAt(project, at.screen, at.visit), [project, at.screen, at.visit])
  const baseline = baselineAt(at)
  const wantsEstimate = count > 0 && sweep.varied.length > 0 && sweep.msEach === null && !sweep.isRunning
  useEffect(() => {
    if (wantsEstimate) return estimateSweep(state, screen)
    // It is about the machine more than about the settings: made once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [wantsEstimate, state.id])
  const cores = Math.max(1, navigator.hardwareConcurrency)
  const seconds = sweep.msEach === null ? null : (left * sweepSeeds * sweep.msEach) / cores / 1000
  const front = useMemo(() => unbeatenIn(drawn.filter(isTried), [x, y]), [drawn, x, y])
  const row = tried.find((each) => each.row === picked)
  const use = ({ settings }: TriedRow) => {
    const varied = withSettings(state.raw, settings)
    if (!varied.ok) return notify(varied.message)
    edit(`use ${settingsWord(settings)}`, patches.compare(state.raw, varied.raw))
  }
  const keep = ({ settings }: TriedRow) => {
    const varied = withSettings(state.raw, settings)
    if (!varied.ok) return notify(varied.message)
    keepPatchAsVariant(settingsWord(settings), patches.compare(state.raw, varied.raw))
  }
  const named = (label: string, what: 'x' | 'y' | 'size', value: MetricId) => (
    <label className="tt-axis-pick">
      <span className="tt-axis-name">{label}</span>{' '}
      <FormSelect size="sm" value={value} onChange={(event) => show(what, event.target.value as MetricId)}>
        {[...new Set(choices)].map((id) => (
          <option key={id} value={id}>
            {figureOf(id).name}
          </option>
        ))}
      </FormSelect>
    </label>
  )
  return (
    <div className="tt-step tt-sweep">
      <h1>Compare · sweep{sweep.varied.length > 0 ? ` of ${count} combinations, ${sweepSeeds} seeds each` : ''}</h1>
      {parts}
      <div className="tt-source-line">
        {sweep.varied.map((setting) => (
          <Varied key={setting.path} setting={setting} />
        ))}
        <VaryMore project={project} screen={screen} varied={sweep.varied} />
        {left > 0 && !sweep.isRunning && (
          <Button size="sm" disabled={count > mostCombinations} onClick={() => void runSweep()}>
            {done.length > 0 && !isOld && left > 0 ? 'Go on' : 'Run'} · {(left * sweepSeeds).toLocaleString('en')}{' '}
            simulations{seconds === null ? '' : `, about ${seconds < 1 ? '1' : Math.round(seconds)} s`}
          </Button>
        )}
        {sweep.isRunning && (
          <>
            <Progress name="Sweeping" share={done.length / (count + 1)} />
            <span role="status">
              {done.length} of {count + 1}
              {seconds === null ? '' : `, ${Math.ceil(seconds)} s left`}
            </span>
            <Button size="sm" variant="outline-secondary" onClick={cancelSweep}>
              Cancel
            </Button>
          </>
        )}
        {done.length > 1 && (
          <Chip
            data-explain="All figures of all combinations, as the command line writes them"
            onClick={() =>
              saveFile(
                'sweep.csv',
                'text/csv',
                sweepCsv(
                  sweep.varied.map(({ path }) => path),
                  tried,
                ),
              )
            }
          >
            CSV
          </Chip>
        )}
      </div>
      {count > mostCombinations && (
        <p className="tt-saving" role="status">
          {count.toLocaleString('en')} combinations are more than {mostCombinations}: remove values.
        </p>
      )}
      {isOld && done.length > 0 && (
        <p className="tt-saving" role="status">
          The settings have changed since: these are the earlier figures.
        </p>
      )}
      {sweep.trouble && (
        <p className="tt-saving" role="alert">
          {sweep.trouble}
        </p>
      )}
      {sweep.varied.length === 0 && (
        <p className="tt-card">
          Choose with <strong>+ vary</strong> what is tried at several values: up to three settings, devices or
          networks. Each combination is simulated on {sweepSeeds} seeds, and drawn here by what it costs and what it
          gains.
        </p>
      )}
      {/* Shown before the first result, so that its place is there already. */}
      {(sweep.varied.length > 0 || done.length > 0) && (
        <div className="tt-sweep-columns">
          <section className="tt-card" aria-label="Trade-off">
            <div className="tt-source-line">
              {named('across', 'x', x)}
              {named('up', 'y', y)}
              {named('size', 'size', size)}
            </div>
            <TradeOff
              rows={drawn}
              front={front}
              x={x}
              y={y}
              size={size}
              {...{ budgets, picked, hovered, onHover, onPick }}
            />
            {row && !isOld && (
              <div className="tt-source-line">
                <strong>{settingsWord(row.settings)}</strong>
                <Button size="sm" onClick={() => use(row)}>
                  Use these
                </Button>
                <Button size="sm" variant="outline-primary" onClick={() => keep(row)}>
                  Keep as variant
                </Button>
                <Button
                  size="sm"
                  variant="outline-primary"
                  data-explain="The run behind it, on the project’s own seed, as a run like any other"
                  onClick={() =>
                    void openRow(row.settings, screen).then(
                      (id) => go(`/profile/${id}`),
                      (error: unknown) =>
                        notify(
                          `The run could not be opened: ${error instanceof Error ? error.message : String(error)}`,
                        ),
                    )
                  }
                >
                  Open in Profile
                </Button>
              </div>
            )}
            {done.length > 0 && (
              <PickedRow now={now} row={row} metrics={[...new Set([x, y, size, 'frames.lateMsPerS' as const])]} />
            )}
          </section>
          <SmallMaps
            varied={sweep.varied}
            rows={drawn}
            front={front}
            {...{ budgets, baseline, order, onOrder, picked, hovered, onHover, onPick }}
          />
        </div>
      )}
    </div>
  )
}
