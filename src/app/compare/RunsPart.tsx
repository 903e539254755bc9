import FormSelect from 'react-bootstrap/FormSelect'
import { useMemo, useState, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import { useLiveQuery } from 'dexie-react-hooks'
import { useSearchParams } from 'react-router'
import { overlapOf } from '../../core/compare/overlap.ts'
import { differences } from '../../core/project/differences.ts'
import { Progress } from '../controls/Progress.tsx'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { simulate } from '../device/device-store.ts'
import type { StoredRun } from '../store/database.ts'
import { useProject } from '../store/project-store.ts'
import { logOf } from '../store/run-store.ts'
import { areAlike, chooseRuns, letters, most, nameOf, useComparable } from './chosen-runs.ts'
import { FigureTable } from './FigureTable.tsx'
import { countOf, masksOf, type Overlaid } from './overlaid.ts'
import { InStep, type OpenedRun } from './InStep.tsx'
import { useSeeds } from './use-seeds.ts'
import { Chip } from '../controls/Chip.tsx'
import { TextButton } from '../controls/TextButton.tsx'

/**
 * Two to six runs on the same gesture: their devices in step, maps laid over each other, differences of figures and
 * settings.
 */
export function RunsPart({ parts }: { parts: ReactNode }) {
  const { id: project } = useProject()!
  const list = useComparable()
  const [query, setQuery] = useSearchParams()
  const [frontAt, setFront] = useState(1)
  const [overlaid, setOverlaid] = useState<Overlaid>('all')
  const [moment, setMs] = useState<number | null>(null)
  const chosen = chooseRuns(list, query.get('runs'))
  const logs = useLiveQuery(() => Promise.all(chosen.map(({ id }) => logOf(id))), [chosen.map(({ id }) => id).join()])
  const [a] = chosen
  const front = Math.min(Math.max(1, frontAt), chosen.length - 1)
  const b = chosen[front]
  const alike = (run: StoredRun) => a !== undefined && areAlike(run, a)
  const seeds = useSeeds(a, b)
  const changed = useMemo(() => (a && b ? differences(a.raw, b.raw) : []), [a, b])
  const maps = { a: logs?.[0]?.map ?? null, b: logs?.[front]?.map ?? null }
  const overlap = useMemo(() => (maps.a && maps.b ? overlapOf(maps.a, maps.b) : null), [maps.a, maps.b])
  if (!a || !b)
    return (
      <div className="tt-step">
        <h1>Compare</h1>
        <p className="tt-lead">Whether a change was better, worse or noise.</p>
        {parts}
        <p className="tt-card">
          Two runs are held against each other here; there {list.length === 1 ? 'is one' : 'are none'} yet. Change a
          setting and simulate again. <Button onClick={() => void simulate()}>Simulate the script</Button>
        </p>
      </div>
    )
  const put = (runs: readonly StoredRun[]) =>
    setQuery({ part: 'runs', runs: runs.map(({ id }) => id).join(',') }, { replace: true })
  const left = list.filter((run) => !chosen.includes(run))
  const opened = chosen.flatMap((run, i): OpenedRun[] => {
    const kept = logs?.[i]
    return kept?.run === run.id ? [{ run, kept, letter: letters[i]! }] : []
  })
  // Until a moment is picked the devices show the ends of their drives.
  const ms = moment ?? Math.max(0, ...opened.map(({ kept }) => kept.map.endMs))
  const strangers = chosen.filter((run) => !alike(run))
  const masks = overlap && masksOf(overlap, overlaid)
  return (
    <div className="tt-step tt-compare">
      <h1>Compare · better, worse, or noise</h1>
      {parts}
      <div className="tt-source-line">
        {chosen.map((run, i) => (
          <span key={run.id} className="tt-compared">
            <strong>{letters[i]}</strong>
            <FormSelect
              size="sm"
              aria-label={`Run ${letters[i]}`}
              value={run.id}
              onChange={(event) =>
                put(
                  chosen.map((each, n) => (n === i ? list.find(({ id }) => id === Number(event.target.value))! : each)),
                )
              }
            >
              {[run, ...left]
                .toSorted((one, other) => other.id - one.id)
                .map((each) => (
                  <option key={each.id} value={each.id}>
                    {nameOf(each, project)}
                  </option>
                ))}
            </FormSelect>
            {chosen.length > 2 && (
              <TextButton
                aria-label={`Leave run ${letters[i]} out`}
                onClick={() => put(chosen.filter((each) => each !== run))}
              >
                ✕
              </TextButton>
            )}
          </span>
        ))}
        {chosen.length < most && left.length > 0 && <Chip onClick={() => put([...chosen, left.at(-1)!])}>+ run</Chip>}
        {alike(b) && seeds.is !== 'running' && (
          <Button
            size="sm"
            variant="outline-primary"
            data-explain={`A and ${letters[front]} simulated on the same ten seeds`}
            onClick={seeds.start}
          >
            On ten seeds
          </Button>
        )}
        {seeds.is === 'running' && (
          <>
            <Progress name="Simulating both on ten seeds" share={seeds.share} />
            <Button size="sm" variant="outline-secondary" onClick={seeds.cancel}>
              Cancel
            </Button>
          </>
        )}
      </div>
      {strangers.length > 0 && (
        <p className="tt-saving" role="status">
          {strangers.map(({ number }) => `Run ${number}`).join(', ')} {strangers.length === 1 ? 'was' : 'were'} not
          driven by the same gesture on the same screen as A:{' '}
          {strangers.length === 1 ? 'it is shown' : 'they are shown'} beside it here, and{' '}
          {strangers.length === 1 ? 'is' : 'are'} not subtracted.
        </p>
      )}
      {seeds.is === 'failed' && (
        <p className="tt-saving" role="alert">
          The ten seeds could not be simulated: {seeds.why}
        </p>
      )}
      <div className="tt-compare-stage">
        <div className="tt-compare-map">
          <div className="tt-swatches" role="group" aria-label="Which map is in front">
            {chosen.slice(1).map((run, i) => (
              <Chip key={run.id} aria-pressed={front === i + 1} onClick={() => setFront(i + 1)}>
                {letters[i + 1]} over A
              </Chip>
            ))}
            {alike(b) &&
              (
                [
                  ['all', 'all requests'],
                  ['onlyA', 'only in A'],
                  ['onlyB', `only in ${letters[front]}`],
                  ['both', 'in both'],
                ] as const
              ).map(([which, word]) => (
                <Chip key={which} aria-pressed={overlaid === which} onClick={() => setOverlaid(which)}>
                  {word}
                  {overlap && which !== 'all' && ` · ${countOf(overlap, which)}`}
                </Chip>
              ))}
          </div>
          {maps.b && (
            <ScrollMap
              map={maps.b}
              ghost={alike(b) ? maps.a : null}
              only={masks?.only ?? null}
              onlyGhost={masks?.ghost ?? null}
              selected={null}
              onSelect={() => undefined}
              cursorMs={moment}
              onCursor={setMs}
            />
          )}
        </div>
        {opened.length === chosen.length && <InStep runs={opened} ms={ms} onMs={setMs} />}
      </div>
      <div className="tt-compare-foot">
        <section className="tt-card" aria-label="Figures" tabIndex={0}>
          <FigureTable runs={chosen} front={front} seeds={seeds} />
        </section>
        <section className="tt-card" aria-label="Settings that differ" tabIndex={0}>
          <h2>
            {changed.length === 0
              ? 'The same settings'
              : `${changed.length} ${changed.length === 1 ? 'setting differs' : 'settings differ'}`}
            {chosen.length > 2 ? ` between A and ${letters[front]}` : ''}
          </h2>
          <ul>
            {changed.map((each) => (
              <li key={each}>{each}</li>
            ))}
          </ul>
        </section>
      </div>
    </div>
  )
}
