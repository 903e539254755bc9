import { useMemo, useState } from 'react'
import Alert from 'react-bootstrap/Alert'
import { parseProject } from '../../core/project/parse.ts'
import type { Project } from '../../core/project/types.ts'
import { mapClasses } from '../../core/profile/views/map-data.ts'
import { ledgerClasses, type RequestClass } from '../../core/profile/figures/ledger.ts'
import { Legend } from '../map/Legend.tsx'
import { zonesOf } from '../map/map-zones.ts'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { useFollowing } from '../simulate/follow-store.ts'
import { useDevice } from '../device/device-store.ts'
import { playAt, usePlayed } from '../playback/playback-store.ts'
import { PlayerBar } from '../playback/PlayerBar.tsx'
import { set, useProject } from '../store/project-store.ts'
import { useGo } from '../shell/address.ts'
import { baselineOf, useRuns } from '../store/run-store.ts'
import { FigureRow } from './FigureRow.tsx'
import { LedgerBar } from './LedgerBar.tsx'
import { MapTools } from './MapTools.tsx'
import { MissingRun, NoRun } from './NoRun.tsx'
import { ProfileFoot } from './ProfileFoot.tsx'
import { requestIn, useAddressedRun, useProfileView } from './profile-address.ts'
import { useProfileParams } from './profile-params.ts'
import { useFindings } from './use-findings.ts'
import { TextButton } from '../controls/TextButton.tsx'

/** The distance to which the edge of what is coming up is dragged. */
const mostAhead = 12

/** What happened in a run: figures on the edge of the map, every byte accounted for, a story for each request. */
export default function ProfileStep() {
  const { project } = useProject()!
  const { ahead } = project.loading
  const runs = useRuns()
  const addressed = useAddressedRun()
  const view = useProfileView()
  const { request } = useProfileParams()
  const go = useGo()
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set())
  const run = runs.list.find((each) => each.id === runs.shown)
  const kept = runs.shown === null ? undefined : runs.opened.get(runs.shown)
  const base = baselineOf(runs)
  const ghost = base ? (runs.opened.get(base.id)?.map ?? null) : null
  const played = usePlayed()
  const findings = useFindings(run, kept)
  const [drawn, setDrawn] = useState<string | null>(null)
  const { lens, setLens, projection, setProjection } = view
  const [slot, setSlot] = useState<number | null>(null)
  /** The run on whose map the edge of what is coming up was dragged: the effect is drawn over it. */
  const [pulled, setPulled] = useState<number | null>(null)
  const following = useFollowing()
  const screen = useDevice(({ screen }) => screen)
  const found = findings?.is === 'found' ? findings.findings : []
  const fixed = found.find(({ id }) => id === drawn)
  const classes = useMemo(() => {
    const found = new Set(kept?.map.lines.kind)
    return mapClasses.filter((_, number) => found.has(number))
  }, [kept])
  // The simulation that follows the hand is a first visit of the chosen script and screen: only such a run is compared
  // with it.
  const comparable =
    run?.visit === 'first' &&
    run.script === (project.script ?? '') &&
    run.screen === project.screens[Math.min(screen, project.screens.length - 1)]!.id
  const would =
    fixed?.map ?? (following && comparable && pulled === run.id && projection === 'distance' ? following.map : null)
  const lines = would?.lines ?? kept?.map.lines
  // Maps that were kept before slots were recorded have none.
  const ofSlot = useMemo(
    () => (slot === null || !lines?.slot ? null : lines.slot.map((each) => (each === slot ? 1 : 0))),
    [slot, lines],
  )
  const driven = useMemo(() => {
    const parsed = run && parseProject(run.raw)
    return parsed?.ok ? parsed.project : null
  }, [run])
  const slots = useMemo(() => (run && driven ? slotNames(driven, run.screen) : []), [run, driven])
  const zones = useMemo(() => (kept && driven ? zonesOf(driven.loading, kept.map) : null), [kept, driven])
  if (addressed.missing !== null) return <MissingRun {...addressed.missing} />
  if (!run || !kept) return <NoRun opening={runs.list.length > 0 || !runs.read} />
  const gap = run.metrics['ledger.gapShare'] ?? null
  const [near, nearBytes] = [run.metrics['fidelity.requests'] ?? null, run.metrics['fidelity.bytes'] ?? null]
  const fidelity =
    near === null || nearBytes === null
      ? ''
      : `, its simulation has ${near.toFixed(2)} × the requests and ${nearBytes.toFixed(2)} × the bytes`
  const within = gap === null ? 'not observed' : `within ${(100 * gap).toFixed(1)} %`
  const ledger = run.world === 'live' ? `, origin’s ledger ${within}` : ''
  const about = `${run.world}, ${run.visit} visit, seed ${run.seed}${ledger}${fidelity}${base ? ` · against ${base.baseline ? 'baseline ' : ''}run ${base.number}` : ''}`
  // The edge is where the settings have it now; the tint shows what the run was driven with.
  const rowsAhead = Math.ceil(
    ahead.by === 'rows' ? ahead.amount : (ahead.amount * kept.map.heightDp) / kept.map.pitchDp,
  )
  const edge = {
    rows: Math.min(mostAhead, rowsAhead),
    most: mostAhead,
    onChange: (rows: number) => {
      setPulled(run.id)
      set('/loading/ahead', { ...ahead, by: 'rows', amount: rows })
    },
  }
  const part = view.range
  const select = view.setRange
  const toMoment = (ms: number) => playAt(run.id, ms, kept.map.endMs)
  const selected = request === null ? null : requestIn(kept.map, request)
  const unknown = request !== null && selected === null
  const toRequest = (id: number | null) =>
    go(`/profile/${run.id}${id === null ? '' : `/${id}`}${view.search}`, { replace: true })
  const toggle = (name: RequestClass) =>
    setHidden((before) => {
      const next = new Set(before)
      if (!next.delete(name)) next.add(name)
      return next
    })
  const only = (name: RequestClass) => setHidden(new Set(classes.filter((each) => each !== name && hidden.size === 0)))
  return (
    <div className="tt-profile">
      <div className="tt-profile-head">
        <h1>
          Run {run.number} · {run.script}
        </h1>
        <span className="tt-quiet" tabIndex={0} data-explain={about}>
          {about}
        </span>
        <Legend classes={classes} hidden={hidden} onToggle={toggle} />
      </div>
      {unknown && (
        <Alert variant="warning" className="tt-notice" dismissible onClose={() => toRequest(null)}>
          There is no request “{request.named}” in run {run.number}; this is the whole run.
        </Alert>
      )}
      <FigureRow metrics={run.metrics} base={base?.metrics ?? null} />
      <LedgerBar metrics={run.metrics} classes={ledgerClasses} onPick={only} />
      <div className="tt-source-line tt-map-line">
        <PlayerBar run={run} kept={kept} />
        <MapTools
          map={would ?? kept.map}
          ghost={would ? kept.map : ghost}
          hidden={hidden}
          zones={zones}
          name={`run-${run.number}`}
          projection={projection}
          onProjection={setProjection}
          range={part}
          onRange={select}
          slots={slots}
          slot={slot}
          only={ofSlot}
          onSlot={setSlot}
        />
      </div>
      <div className="tt-stage">
        {would && !fixed && (
          <p role="status" className="tt-map-would">
            simulated with {edge.rows} rows ahead, over the present run{' '}
            <TextButton onClick={() => setPulled(null)}>present run alone</TextButton>
          </p>
        )}
        <ScrollMap
          key={run.id}
          map={would ?? kept.map}
          ghost={would ? kept.map : ghost}
          hidden={hidden}
          selected={would ? null : selected}
          pins={found.flatMap(({ id, what, pinMs }, i) =>
            pinMs === null ? [] : [{ id, ms: pinMs, label: String(i + 1), what }],
          )}
          onPin={(id) => {
            setLens('findings')
            setDrawn(id)
          }}
          cursorMs={played?.run === run.id ? played.ms : null}
          onCursor={toMoment}
          only={ofSlot}
          projection={projection}
          range={part}
          onRange={select}
          zones={zones}
          edge={comparable ? edge : null}
          // Stories belong to the present run: the one drawn over it has none.
          onSelect={(id) => (would ? undefined : toRequest(id))}
        />
      </div>
      <ProfileFoot
        run={run}
        kept={kept}
        findings={findings}
        lens={lens}
        onLens={setLens}
        selected={selected}
        range={part}
        shownFinding={drawn}
        onShowFinding={setDrawn}
        onRequest={toRequest}
        onMoment={toMoment}
      />
    </div>
  )
}

/** The picture slots of a screen's cells, by number. */
function slotNames(project: Project, id: string): string[] {
  const screen = project.screens.find((each) => each.id === id)
  const most = Math.max(0, ...(screen?.cells.map(({ slots }) => slots.length) ?? []))
  return Array.from({ length: most }, (_, i) =>
    [...new Set(screen!.cells.flatMap(({ slots }) => slots[i]?.id ?? []))].join(' / '),
  )
}
