import FormControl from 'react-bootstrap/FormControl'
import Table from 'react-bootstrap/Table'
import { useEffect, useState } from 'react'
import { useGo } from '../shell/address.ts'
import type { StoredRun } from '../store/database.ts'
import { deleteRun, pinBaseline, renameRun, useRuns } from '../store/run-store.ts'
import { headline, numberOf } from './figures.ts'
import { TinyMap } from './TinyMap.tsx'
import { TextButton } from '../controls/TextButton.tsx'

/** Short names for the columns; the whole ones are their titles. */
const short: Record<string, string> = {
  'frames.lateMsPerS': 'late',
  'pictures.holeShare': 'holes',
  'bytes.wastedShare': 'waste',
  'pictures.firstScreenMs': 'screen',
  'pictures.wrong': 'wrong',
  'memory.peakMb': 'memory',
}

/** When a run was made: the time of a run of today, else its date. */
function clock(when: number): string {
  const at = new Date(when)
  return at.toDateString() === new Date().toDateString()
    ? at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })
    : at.toLocaleDateString([], { day: 'numeric', month: 'short' })
}

/** All runs of the project with their figures side by side, the newest on top. */
export function RunList() {
  const { list, shown } = useRuns()
  const go = useGo()
  const remove = async (run: StoredRun) => {
    const next = list.findLast((each) => each.id !== run.id)
    await deleteRun(run)
    // The run that was shown is gone: the latest of the others is shown instead.
    if (run.id === shown) go(next ? `/profile/${next.id}` : '/profile', { replace: true })
  }
  const [naming, setNaming] = useState<number | null>(null)
  const [used, setUsed] = useState<number | null>(null)
  useEffect(() => {
    // Storage used by this app as the browser reports it; not every browser does.
    navigator.storage?.estimate?.().then(
      ({ usage }) => setUsed(usage ?? null),
      () => setUsed(null),
    )
  }, [list.length])
  return (
    <section className="tt-card tt-runs" aria-label="Runs" tabIndex={0}>
      <Table size="sm">
        <thead>
          <tr>
            <th scope="col">run</th>
            <th scope="col">
              <span className="visually-hidden">its map</span>
            </th>
            {headline.map((figure) => (
              <th key={figure.id} scope="col" tabIndex={0} data-explain={figure.explain}>
                {short[figure.id]} <small>{figure.form(0).unit}</small>
              </th>
            ))}
            <th scope="col">
              <span className="visually-hidden">actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {[...list].reverse().map((run) => (
            <tr
              key={run.id}
              aria-current={run.id === shown ? 'true' : undefined}
              data-explain={
                run.changed.length > 0
                  ? `changed since the run before: ${run.changed.join('; ')}`
                  : 'the same settings as the run before'
              }
            >
              <th scope="row">
                {naming === run.id ? (
                  <FormControl
                    size="sm"
                    className="tt-run-name"
                    aria-label={`Name of run ${run.number}`}
                    autoFocus
                    defaultValue={run.name ?? ''}
                    maxLength={60}
                    onBlur={(event) => {
                      void renameRun(run.id, event.target.value)
                      setNaming(null)
                    }}
                    onKeyDown={(event) => {
                      if (event.key === 'Enter') event.currentTarget.blur()
                      if (event.key === 'Escape') setNaming(null)
                    }}
                  />
                ) : (
                  <TextButton
                    data-explain={`${new Date(run.when).toLocaleString()}, ${run.visit} visit, ${run.script}`}
                    onClick={() => go(`/profile/${run.id}`)}
                    onDoubleClick={() => setNaming(run.id)}
                  >
                    {run.number} {run.name || run.world}
                  </TextButton>
                )}
                <small>
                  {clock(run.when)} · {run.visit}
                  {run.changed[0]
                    ? ` · ${run.changed[0]}${run.changed.length > 1 ? ` +${run.changed.length - 1}` : ''}`
                    : ''}
                </small>
              </th>
              <td>
                <TinyMap tiny={run.tiny} />
              </td>
              {headline.map((figure) => (
                <td key={figure.id}>{numberOf(figure, run.metrics)}</td>
              ))}
              <td>
                <TextButton
                  aria-label={`Rename run ${run.number}`}
                  data-explain="Give this run a name"
                  onClick={() => setNaming(run.id)}
                >
                  name
                </TextButton>
                <TextButton
                  aria-pressed={run.baseline}
                  data-explain="Hold the other runs against this one"
                  onClick={() => void pinBaseline(run)}
                >
                  {run.baseline ? 'pinned' : 'pin'}
                </TextButton>
                <TextButton
                  aria-label={`Delete run ${run.number}`}
                  data-explain="Delete this run"
                  onClick={() => void remove(run)}
                >
                  ✕
                </TextButton>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <p className="tt-quiet" role="status">
        {list.length} {list.length === 1 ? 'run' : 'runs'}
        {used === null ? '' : `, ${(used / 1e6).toFixed(1)} MB used in this browser`}
      </p>
    </section>
  )
}
