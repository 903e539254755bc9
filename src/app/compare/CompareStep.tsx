import { useMemo, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { useLiveQuery } from 'dexie-react-hooks'
import { useSearchParams } from 'react-router'
import { overlapOf, type Overlap } from '../../core/compare/overlap.ts'
import { differences } from '../../core/project/differences.ts'
import { Progress } from '../controls/Progress.tsx'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { compared, difference, tell } from '../runs/figures.ts'
import { simulate } from '../device/device-store.ts'
import type { StoredRun } from '../store/database.ts'
import { useProject } from '../store/project-store.ts'
import { logOf, useRuns } from '../store/run-store.ts'
import { readRuns } from '../store/stored-runs.ts'
import { IntervalMark } from './IntervalMark.tsx'
import { InStep, type OpenedRun } from './InStep.tsx'
import { useSeeds } from './use-seeds.ts'
import { Chip } from '../controls/Chip.tsx'
import { TextButton } from '../controls/TextButton.tsx'

const verdicts = { better: 'better', worse: 'worse', same: 'no difference seen' } as const
const letters = ['A', 'B', 'C', 'D', 'E', 'F'] as const
const most = letters.length

type Overlaid = 'all' | 'onlyA' | 'onlyB' | 'both'

/** Two to six runs on the same gesture: their devices in step, maps laid over each other, figures with differences, what was set otherwise. */
export default function CompareStep() {
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
  const alike = (run: StoredRun) => run.script === a?.script && run.screen === a.screen
  const seeds = useSeeds(a, b)
  const changed = useMemo(() => (a && b ? differences(a.raw, b.raw) : []), [a, b])
  const maps = { a: logs?.[0]?.map ?? null, b: logs?.[front]?.map ?? null }
  const overlap = useMemo(() => (maps.a && maps.b ? overlapOf(maps.a, maps.b) : null), [maps.a, maps.b])
  if (!a || !b)
    return (
      <div className="tt-step">
        <h1>Compare</h1>
        <p className="tt-lead">Whether a change was better, worse or noise.</p>
        <p className="tt-card">
          Two runs are held against each other here; there {list.length === 1 ? 'is one' : 'are none'} yet. Change a
          setting and simulate again. <Button onClick={() => void simulate()}>Simulate the script</Button>
        </p>
      </div>
    )
  const put = (runs: readonly StoredRun[]) => setQuery({ runs: runs.map(({ id }) => id).join(',') }, { replace: true })
  const left = list.filter((run) => !chosen.includes(run))
  const opened = chosen.flatMap((run, i): OpenedRun[] => {
    const kept = logs?.[i]
    return kept?.run === run.id ? [{ run, kept, letter: letters[i]! }] : []
  })
  // Until somebody picks a moment the devices stand where their drives have ended.
  const ms = moment ?? Math.max(0, ...opened.map(({ kept }) => kept.map.endMs))
  const strangers = chosen.filter((run) => !alike(run))
  const masks = overlap && masksOf(overlap, overlaid)
  return (
    <div className="tt-step tt-compare">
      <h1>Compare · better, worse, or noise</h1>
      <div className="tt-source-line">
        {chosen.map((run, i) => (
          <span key={run.id} className="tt-compared">
            <strong>{letters[i]}</strong>
            <select
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
            </select>
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
          driven by the same gesture on the same screen as A: {strangers.length === 1 ? 'it stands' : 'they stand'}{' '}
          beside it here, and {strangers.length === 1 ? 'is' : 'are'} not subtracted.
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
              selected={-1}
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
          <table>
            <thead>
              <tr>
                <th scope="col">figure</th>
                {chosen.map((run, i) => (
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
                const change =
                  seeds.is === 'done' ? seeds.changes.find(({ metric }) => metric === figure.id) : undefined
                const form = (value: number) => `${value < 0 ? '−' : '+'}${figure.form(Math.abs(value)).text}`
                return (
                  <tr key={figure.id} tabIndex={0} data-explain={figure.explain}>
                    <th scope="row">{figure.name}</th>
                    {chosen.flatMap((run, i) => {
                      const value = (
                        <td key={`v${run.id}`} {...(i === 0 ? { 'data-metric': figure.id } : {})}>
                          {tell(figure, run.metrics)}
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
          </table>
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

/** The runs that the address names; else the newest, and what it is best held against. */
/** The runs of this project; those of the project that it is a copy of stand before them. */
function useComparable(): readonly StoredRun[] {
  const { list } = useRuns()
  const { copyOf } = useProject()!
  const originals = useLiveQuery(() => (copyOf === null ? [] : readRuns(copyOf)), [copyOf])
  // Those that were made before the copy was are its own as well.
  return useMemo(() => {
    const own = new Set(list.map(({ when, hash }) => `${when} ${hash}`))
    return [...(originals ?? []).filter(({ when, hash }) => !own.has(`${when} ${hash}`)), ...list]
  }, [list, originals])
}

function chooseRuns(list: readonly StoredRun[], named: string | null): StoredRun[] {
  const wanted = (named ?? '')
    .split(',')
    .flatMap((id) => list.find((run) => String(run.id) === id) ?? [])
    .slice(0, most)
  if (new Set(wanted).size === wanted.length && wanted.length >= 2) return wanted
  const b = list.at(-1)
  const others = list.filter((run) => run !== b)
  const a =
    others.find(({ baseline }) => baseline) ??
    others.findLast(({ script, screen }) => script === b?.script && screen === b.screen) ??
    others.at(-1)
  return a && b ? [a, b] : []
}

const nameOf = (run: StoredRun, project: string) =>
  `${run.project === project ? '' : 'original: '}run ${run.number}${run.name ? ` ${run.name}` : ''} · ${run.world}, ${run.visit} · ${run.script}${run.baseline ? ' · baseline' : ''}`

/** Which requests of B, and of A behind it, are drawn; null: all of both. */
function masksOf({ both, only }: Overlap, overlaid: Overlaid): { only: Uint8Array; ghost: Uint8Array } | null {
  switch (overlaid) {
    case 'all':
      return null
    case 'both':
      return { only: both.b, ghost: both.a }
    case 'onlyB':
      return { only: only.b, ghost: only.a.map(() => 0) }
    case 'onlyA':
      return { only: only.b.map(() => 0), ghost: only.a }
  }
}

/** How many requests a choice of the overlay draws. */
function countOf({ both, only }: Overlap, which: Exclude<Overlaid, 'all'>): number {
  const drawn = { onlyA: only.a, onlyB: only.b, both: both.b }[which]
  return drawn.reduce((sum, one) => sum + one, 0)
}
