import { useMemo, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { useSearchParams } from 'react-router'
import { Progress } from '../controls/Progress.tsx'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { compared, difference, tell } from '../runs/figures.ts'
import { simulate } from '../shell/device-store.ts'
import type { StoredRun } from '../store/database.ts'
import { differences, useRunLog, useRuns } from '../store/run-store.ts'
import { useSeeds } from './use-seeds.ts'

const verdicts = { better: 'better', worse: 'worse', same: 'no difference seen' } as const

/** Two runs on the same gesture: their maps laid over each other, their figures with differences, what was set otherwise. */
export default function CompareStep() {
  const { list } = useRuns()
  const [query, setQuery] = useSearchParams()
  const [front, setFront] = useState<'b' | 'a'>('b')
  const newest = list.at(-1)
  const b = list.find(({ id }) => String(id) === query.get('b')) ?? newest
  const others = list.filter(({ id }) => id !== b?.id)
  const a = others.find(({ id }) => String(id) === query.get('a')) ?? others.find(({ baseline }) => baseline) ?? others.findLast(({ script, screen }) => script === b?.script && screen === b.screen) ?? others.at(-1)
  const logs = { a: useRunLog(a?.id), b: useRunLog(b?.id) }
  const alike = a && b && a.script === b.script && a.screen === b.screen
  const seeds = useSeeds(a, b)
  const changed = useMemo(() => (a && b ? differences(a.raw, b.raw) : []), [a, b])
  if (!a || !b)
    return (
      <div className="tt-step">
        <h1>Compare</h1>
        <p className="tt-lead">Whether a change was better, worse or noise.</p>
        <p className="tt-card">Two runs are held against each other here; there {list.length === 1 ? 'is one' : 'are none'} yet. Change a setting and simulate again. <Button onClick={() => void simulate()}>Simulate the script</Button></p>
      </div>
    )
  const pick = (which: 'a' | 'b') => (
    <select aria-label={which === 'a' ? 'Run A' : 'Run B'} value={which === 'a' ? a.id : b.id} onChange={(event) => setQuery({ a: String(a.id), b: String(b.id), [which]: event.target.value }, { replace: true })}>
      {list.toReversed().map((run) => <option key={run.id} value={run.id}>{nameOf(run)}</option>)}
    </select>
  )
  const [map, ghost] = front === 'b' ? [logs.b?.map, logs.a?.map] : [logs.a?.map, logs.b?.map]
  return (
    <div className="tt-step tt-compare">
      <h1>Compare · better, worse, or noise</h1>
      <div className="tt-source-line">
        <strong>A</strong> {pick('a')} <strong>B</strong> {pick('b')}
        <div className="tt-swatches" role="group" aria-label="Which map is in front">
          {(['a', 'b'] as const).map((each) => <button key={each} type="button" className="tt-chip" aria-pressed={front === each} onClick={() => setFront(each)}>{each.toUpperCase()} over {each === 'a' ? 'B' : 'A'}</button>)}
        </div>
        {alike && seeds.is !== 'running' && <Button size="sm" variant="outline-primary" onClick={seeds.start}>On ten seeds</Button>}
        {seeds.is === 'running' && <><Progress name="Simulating both on ten seeds" share={seeds.share} /><Button size="sm" variant="outline-secondary" onClick={seeds.cancel}>Cancel</Button></>}
      </div>
      {!alike && <p className="tt-saving" role="status">These runs were not driven by the same gesture on the same screen: they stand side by side here, and are not subtracted.</p>}
      {seeds.is === 'failed' && <p className="tt-saving" role="alert">The ten seeds could not be simulated: {seeds.why}</p>}
      {map && <div className="tt-compare-map"><ScrollMap map={map} ghost={alike ? (ghost ?? null) : null} selected={-1} onSelect={() => undefined} /></div>}
      <div className="tt-compare-foot">
        <section className="tt-card" aria-label="Figures" tabIndex={0}>
          <table>
            <thead><tr><th scope="col">figure</th><th scope="col">A</th><th scope="col">B</th>{alike && <th scope="col">B − A</th>}{seeds.is === 'done' && <th scope="col">over ten seeds, simulated</th>}</tr></thead>
            <tbody>
              {compared.map((figure) => {
                const delta = alike ? difference(figure, b.metrics, a.metrics) : null
                const change = seeds.is === 'done' ? seeds.changes.find(({ metric }) => metric === figure.id) : undefined
                const form = (value: number) => `${value < 0 ? '−' : '+'}${figure.form(Math.abs(value)).text}`
                return (
                  <tr key={figure.id} title={figure.explain}>
                    <th scope="row">{figure.name}</th><td data-metric={figure.id}>{tell(figure, a.metrics)}</td><td>{tell(figure, b.metrics)}</td>
                    {alike && <td className={delta ? `tt-delta is-${delta.is}` : ''}>{delta?.text ?? '–'}</td>}
                    {seeds.is === 'done' && <td>{change ? <><strong>{verdicts[change.is]}</strong> {form(change.difference.median)} ({form(change.difference.low)} … {form(change.difference.high)})</> : '–'}</td>}
                  </tr>
                )
              })}
            </tbody>
          </table>
        </section>
        <section className="tt-card" aria-label="Settings that differ" tabIndex={0}>
          <h2>{changed.length === 0 ? 'The same settings' : `${changed.length} ${changed.length === 1 ? 'setting differs' : 'settings differ'}`}</h2>
          <ul>{changed.map((each) => <li key={each}>{each}</li>)}</ul>
        </section>
      </div>
    </div>
  )
}

const nameOf = (run: StoredRun) => `run ${run.number} · ${run.world}, ${run.visit} · ${run.script}${run.baseline ? ' · baseline' : ''}`
