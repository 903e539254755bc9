import { useRef, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { dequal } from 'dequal'
import { useGo } from './address.ts'
import { Split } from '../controls/Split.tsx'
import { createStore } from '../store/external-store.ts'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { deltas, formatMetric } from '../runs/figures.ts'
import { useFollowing } from '../simulate/follow-store.ts'
import { useProject } from '../store/project-store.ts'
import { useRuns } from '../store/run-store.ts'

/** Height set by the user, px; null: as the style sheet has it. Kept while the app is open. */
const tall = createStore<number | null>(null)
const [least, most] = [120, 420]

/** The strip: the scroll map of what the settings do now, the latest run as a ghost behind it, three deltas. */
export default function Strip({ startsFolded }: { startsFolded: boolean }) {
  const [folded, setFolded] = useState(startsFolded)
  const height = tall.use()
  const strip = useRef<HTMLElement>(null)
  const [selected, setSelected] = useState<number | null>(null)
  const following = useFollowing()
  const { opened, shown, list } = useRuns()
  const state = useProject()
  const go = useGo()
  const run = list.find((each) => each.id === shown)
  const kept = shown === null ? null : (opened.get(shown) ?? null)
  const moved = following !== null && (run === undefined || !dequal(run.raw, state?.effective))
  const map = moved ? following.map : (kept?.map ?? following?.map ?? null)
  const metrics = moved ? following.metrics : (run?.metrics ?? following?.metrics ?? null)
  return (
    <section
      ref={strip}
      className="tt-strip"
      data-folded={folded ? '' : undefined}
      aria-label="Strip"
      data-hint={run ? 'profile' : undefined}
      style={height === null || folded ? undefined : { height }}
    >
      {!folded && (
        <Split
          label="Height of the strip"
          height={height}
          min={least}
          max={most}
          measure={() => strip.current!.offsetHeight}
          onChange={tall.set}
        />
      )}
      <div className="tt-strip-head">
        <Button size="sm" variant="link" aria-expanded={!folded} onClick={() => setFolded(!folded)}>
          {folded ? '▸' : '▾'} Scroll map
        </Button>
        <span className="tt-quiet">
          {run && !moved && `run ${run.number}, ${run.world}`}
          {moved &&
            (run ? `follows your hand; run ${run.number} is the ghost` : 'simulated with the settings as they are')}
        </span>
        {metrics && (
          <dl className="tt-deltas" data-testid="deltas" aria-busy={moved && following.untilMs !== null}>
            {deltas.map((figure) => (
              <div key={figure.id} tabIndex={0} data-explain={figure.explain}>
                <dt>{figure.word}</dt>
                <dd>
                  {moved && run && <span className="tt-quiet">{formatMetric(figure, run.metrics)} → </span>}
                  <strong>{formatMetric(figure, metrics)}</strong>
                </dd>
              </div>
            ))}
          </dl>
        )}
        {run && !moved && (
          <Button size="sm" variant="outline-primary" onClick={() => go(`/profile/${run.id}`)}>
            Open in Profile
          </Button>
        )}
      </div>
      {!folded && map && (
        <ScrollMap
          map={map}
          ghost={moved ? (kept?.map ?? null) : null}
          selected={selected}
          onSelect={(request) => {
            setSelected(request)
            if (!moved && run && request !== null) go(`/profile/${run.id}/${request}`)
          }}
        />
      )}
      {!folded && !map && (
        <p className="tt-quiet tt-empty">The map of the latest run will be here: simulate, or drive live.</p>
      )}
    </section>
  )
}
