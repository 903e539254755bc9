import { useEffect, useMemo, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { useNavigate, useParams } from 'react-router'
import { mapClasses } from '../../core/profile/map-data.ts'
import { ledgerClasses, type RequestClass } from '../../core/profile/ledger.ts'
import { Legend } from '../map/Legend.tsx'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { RunList } from '../runs/RunList.tsx'
import { simulate } from '../shell/device-store.ts'
import { baselineOf, showRun, useRuns } from '../store/run-store.ts'
import { Checks } from './Checks.tsx'
import { FindingCards } from './FindingCards.tsx'
import { FigureRow } from './FigureRow.tsx'
import { EventLens } from './EventLens.tsx'
import { LedgerLens } from './LedgerLens.tsx'
import { LedgerBar } from './LedgerBar.tsx'
import { StoryCard } from './StoryCard.tsx'
import { useFindings } from './use-findings.ts'

type Lens = 'findings' | 'checks' | 'ledger' | 'events'
const lenses: readonly Lens[] = ['findings', 'ledger', 'events', 'checks']

const checksWord = (checks: readonly { ok: boolean }[]) => {
  const broken = checks.filter(({ ok }) => !ok).length
  return broken === 0 ? `All ${checks.length} checks hold` : `${broken} of ${checks.length} checks broken`
}

/** What happened in a run: figures on the edge of the map, every byte accounted for, a story for each request. */
export default function ProfileStep() {
  const runs = useRuns()
  const { run: runId, request } = useParams()
  const navigate = useNavigate()
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set())
  const wanted = runId === undefined ? null : Number(runId)
  const known = wanted !== null && runs.list.some((each) => each.id === wanted)
  useEffect(() => {
    if (known && wanted !== runs.shown) showRun(wanted)
    // Only a new address picks a run; the list going on does not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [wanted, known])
  const run = runs.list.find((each) => each.id === runs.shown)
  const kept = runs.shown === null ? undefined : runs.opened.get(runs.shown)
  const base = baselineOf(runs)
  const ghost = base ? (runs.opened.get(base.id)?.map ?? null) : null
  const findings = useFindings(run, kept)
  const [drawn, setDrawn] = useState<string | null>(null)
  const [tried, setTried] = useState<string | null>(null)
  const [lens, setLens] = useState<Lens>('findings')
  const found = findings?.is === 'found' ? findings.findings : []
  const mended = found.find(({ id }) => id === drawn)
  const classes = useMemo(() => {
    const found = new Set(kept?.map.lines.kind)
    return mapClasses.filter((_, number) => found.has(number))
  }, [kept])
  if (!run || !kept)
    return (
      <div className="tt-step">
        <h1>Profile</h1>
        <p className="tt-lead">What happened in a run, and why.</p>
        <p className="tt-card">
          {runs.list.length > 0 ? 'Opening the run…' : 'There is no run yet. It will stand here as a scroll map with its figures. '}
          {runs.list.length === 0 && <Button onClick={() => void simulate()}>Simulate the script</Button>}
        </p>
      </div>
    )
  const gap = run.metrics['ledger.gapShare'] ?? null
  const selected = request === undefined ? -1 : Number(request)
  const toggle = (name: RequestClass) => setHidden((before) => {
    const next = new Set(before)
    if (!next.delete(name)) next.add(name)
    return next
  })
  const only = (name: RequestClass) => setHidden(new Set(classes.filter((each) => each !== name && hidden.size === 0)))
  return (
    <div className="tt-profile">
      <div className="tt-profile-head">
        <h1>Run {run.number} · {run.script}</h1>
        <span className="tt-quiet">
          {run.world}, {run.visit} visit, seed {run.seed}{gap === null ? '' : `, origin’s ledger within ${(100 * gap).toFixed(1)} %`}{base ? ` · against ${base.baseline ? 'baseline ' : ''}run ${base.number}` : ''}
        </span>
        <Legend classes={classes} hidden={hidden} onToggle={toggle} />
      </div>
      <FigureRow metrics={run.metrics} base={base?.metrics ?? null} />
      <LedgerBar metrics={run.metrics} classes={ledgerClasses} onPick={only} />
      <div className="tt-stage">
        <ScrollMap
          key={run.id} map={mended?.map ?? kept.map} ghost={mended ? kept.map : ghost} hidden={hidden} selected={mended ? -1 : selected}
          pins={found.flatMap(({ id, what, pinMs }, i) => (pinMs === null ? [] : [{ id, ms: pinMs, label: String(i + 1), what }]))} onPin={(id) => { setLens('findings'); setDrawn(id) }}
          onSelect={(id) => void navigate(id < 0 ? `/profile/${run.id}` : `/profile/${run.id}/${id}`, { replace: true })}
        />
      </div>
      <div className="tt-profile-foot" data-wide={selected < 0 && (lens === 'ledger' || lens === 'events') ? '' : undefined}>
        <div className="tt-lens">
          {selected < 0 && (
            <div className="tt-lenses" role="group" aria-label="What stands below">
              {lenses.map((each) => <button key={each} type="button" className="tt-chip" aria-pressed={lens === each} onClick={() => setLens(each)}>{each === 'findings' ? `Findings${findings?.is === 'found' ? ` · ${found.length}` : ''}` : each === 'checks' ? checksWord(run.checks) : each === 'ledger' ? 'Ledger' : 'Events'}</button>)}
            </div>
          )}
          {selected >= 0 ? <StoryCard kept={kept} hash={run.hash} request={selected} onClose={() => void navigate(`/profile/${run.id}`, { replace: true })} /> : lens === 'ledger' ? <LedgerLens kept={kept} hash={run.hash} onRequest={(id) => void navigate(`/profile/${run.id}/${id}`, { replace: true })} /> : lens === 'events' ? <EventLens kept={kept} run={run} /> : lens === 'findings' ? <FindingCards findings={findings} world={run.world} shown={drawn} tried={tried} onShow={setDrawn} onTry={setTried} /> : <Checks checks={run.checks} />}
        </div>
        <RunList />
      </div>
    </div>
  )
}
