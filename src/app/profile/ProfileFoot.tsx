import { useRef, useState } from 'react'
import type { LensName } from '../../workers/jobs/view-jobs.ts'
import { Split } from '../controls/Split.tsx'
import type { MapRange } from '../map/map-view.ts'
import { checksWord } from '../runs/figures.ts'
import { RunList } from '../runs/RunList.tsx'
import { simulate } from '../device/device-store.ts'
import { LazyPart } from '../shell/LazyPart.tsx'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { createStore } from '../store/external-store.ts'
import { Checks } from './Checks.tsx'
import { EventLens } from './EventLens.tsx'
import { FindingCards } from './FindingCards.tsx'
import { LedgerLens } from './LedgerLens.tsx'
import { NotesLens } from './NotesLens.tsx'
import { StoryCard } from './StoryCard.tsx'
import type { Findings } from './use-findings.ts'
import { WayCard, type Way } from './WayCard.tsx'
import { Chip } from '../controls/Chip.tsx'

export type FootLens = 'findings' | 'ledger' | 'events' | 'notes' | 'checks' | LensName
export const lenses: readonly FootLens[] = [
  'findings',
  'ledger',
  'frames',
  'threads',
  'memory',
  'cells',
  'tiers',
  'failures',
  'events',
  'notes',
  'checks',
]
const narrow: readonly FootLens[] = ['findings', 'checks', 'notes']

/** Height set by the user, px; null: as tall as leaves the map its share. Kept while the app is open. */
const tall = createStore<number | null>(null)
const [least, most] = [90, 460]
/** Whether nothing is opened below the map, which then has the whole height; kept while the app is open. */
const folded = createStore(false)

interface ProfileFootProps {
  run: StoredRun
  kept: StoredLog
  findings: Findings | null
  lens: FootLens
  onLens: (lens: FootLens) => void
  selected: number | null
  onRequest: (request: number | null) => void
  onMoment: (ms: number) => void
  range: MapRange | null
  shownFinding: string | null
  onShowFinding: (id: string | null) => void
}

/** Beneath the map: findings, lenses on the run, the story of what is selected, and the other runs. */
export function ProfileFoot({
  run,
  kept,
  findings,
  lens,
  onLens,
  selected,
  onRequest,
  onMoment,
  range,
  shownFinding,
  onShowFinding,
}: ProfileFootProps) {
  const [tried, setTried] = useState<string | null>(null)
  const [way, setWay] = useState<{ run: number; way: Way } | null>(null)
  const height = tall.use()
  const isFolded = folded.use()
  const foot = useRef<HTMLDivElement>(null)
  const shownWay = way?.run === run.id ? way.way : null
  const story = selected !== null || shownWay !== null
  const word: Partial<Record<FootLens, string>> = {
    findings: `Findings${findings?.is === 'found' ? ` · ${findings.findings.length}` : ''}`,
    checks: checksWord(run.checks),
    notes: `Notes${run.notes?.length ? ` · ${run.notes.length}` : ''}`,
    failures: `Failures${run.metrics['requests.failed'] ? ` · ${run.metrics['requests.failed']}` : ''}`,
  }
  const pick = (request: number) => {
    setWay(null)
    onRequest(request)
  }
  const body = () => {
    if (shownWay)
      return (
        <WayCard
          kept={kept}
          hash={run.hash}
          way={shownWay}
          onRequest={pick}
          onMoment={onMoment}
          onClose={() => setWay(null)}
        />
      )
    if (selected !== null)
      return (
        <StoryCard
          kept={kept}
          hash={run.hash}
          request={selected}
          onMoment={onMoment}
          onWay={(next) => setWay({ run: run.id, way: next })}
          onClose={() => onRequest(null)}
        />
      )
    switch (lens) {
      case 'findings':
        return (
          <FindingCards
            findings={findings}
            world={run.world}
            fidelity={run.metrics['fidelity.bytes'] ?? null}
            shown={shownFinding}
            tried={tried}
            onShow={onShowFinding}
            onTry={setTried}
            onVisits={() => {
              onLens('tiers')
              void simulate('all')
            }}
          />
        )
      case 'ledger':
        return <LedgerLens kept={kept} hash={run.hash} range={range} onRequest={pick} />
      case 'events':
        return <EventLens kept={kept} run={run} range={range} />
      case 'notes':
        return <NotesLens run={run} kept={kept} onMoment={onMoment} />
      case 'checks':
        return <Checks checks={run.checks} onMoment={onMoment} />
      default:
        return (
          <LazyPart
            name="Views of a run"
            load={() => import('./lenses/LensView.tsx')}
            given={{ run, kept, which: lens, range, onRequest: pick, onMoment }}
            fallback={<p className="tt-card">Reading the run…</p>}
          />
        )
    }
  }
  // Views that need the whole width get it; the runs are beside the others.
  const wide = !story && !narrow.includes(lens)
  const open = story || !isFolded
  return (
    <div
      className="tt-profile-foot"
      ref={foot}
      style={height === null || !open ? undefined : { flexBasis: height }}
      data-wide={wide ? '' : undefined}
      data-tall={story || wide ? '' : undefined}
      data-folded={open ? undefined : ''}
    >
      {open && (
        <Split
          label="Height of the panel below the map"
          height={height}
          min={least}
          max={most}
          measure={() => foot.current!.offsetHeight}
          onChange={tall.set}
        />
      )}
      <div className="tt-lenses" role="group" aria-label="What the panel shows">
        {lenses.map((each) => (
          <Chip
            key={each}
            aria-pressed={open && !story && lens === each}
            onClick={() => {
              folded.set(false)
              setWay(null)
              if (selected !== null) onRequest(null)
              onLens(each)
            }}
          >
            {word[each] ?? `${each[0]!.toUpperCase()}${each.slice(1)}`}
          </Chip>
        ))}
        {!story && (
          <Chip
            aria-expanded={open}
            aria-label={open ? 'Fold' : 'Unfold'}
            data-explain="Folds the panel below the map, which then has the whole height"
            onClick={() => folded.set(open)}
          >
            {open ? '▾' : '▴'}
          </Chip>
        )}
      </div>
      {open && <div className="tt-lens">{body()}</div>}
      {open && !wide && <RunList />}
    </div>
  )
}
