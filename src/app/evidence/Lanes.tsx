import { useRef, useState, type PointerEvent } from 'react'
import Button from 'react-bootstrap/Button'
import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { sourceKinds } from '../../core/evidence/evidence.ts'
import type { EvidenceAnswer, EvidenceFile, UnreadFile } from '../../workers/jobs/evidence-job.ts'
import { changeFile, useEvidence } from './evidence-store.ts'
import { SampleMapper } from './SampleMapper.tsx'

const kindNames = {
  har: 'requests (HAR)',
  frames: 'frames',
  memory: 'memory',
  busy: 'busy threads',
  lines: 'log lines',
  events: 'app events',
  readings: 'typed in',
} as const

/** The two sides of a recording that is under way. */
const liveWord = (name: string) => (name === 'pictures' ? 'written by the bench' : 'told by the app')

/** Each source as a lane on one time axis: how much it tells, from when to when, and what could not be read. */
export function Lanes() {
  const files = useEvidence(({ files }) => files)
  const answer = useEvidence(({ answer }) => answer)
  if (!answer) return null
  const toMs = Math.max(1, ...answer.lanes.map((lane) => lane.toMs ?? 0))
  return (
    <div className="tt-card tt-lanes" role="group" aria-label="Sources">
      {answer.lanes.map((lane) => (
        <Lane key={lane.name} lane={lane} toMs={toMs} file={files.find(({ name }) => name === lane.name) ?? null} />
      ))}
      {answer.lanes.length > 0 && (
        <p className="tt-lane-axis tt-quiet" aria-hidden>
          <span>0 s</span>
          <span>{(toMs / 1000).toFixed(1)} s</span>
        </p>
      )}
      {answer.unread.map((unread) => (
        <Unread key={unread.name} unread={unread} file={files.find(({ name }) => name === unread.name)!} />
      ))}
    </div>
  )
}

function Lane({
  lane,
  toMs,
  file,
}: {
  lane: EvidenceAnswer['lanes'][number]
  toMs: number
  file: EvidenceFile | null
}) {
  const bar = useRef<SVGSVGElement>(null)
  const [drag, setDrag] = useState<{ fromX: number; ms: number } | null>(null)
  const offset = file?.offsetMs ?? 0
  const move = (event: PointerEvent) => {
    if (!drag) return
    const { width } = bar.current!.getBoundingClientRect()
    setDrag({ ...drag, ms: Math.round(((event.clientX - drag.fromX) / width) * toMs) })
  }
  const letGo = () => {
    if (drag && drag.ms !== 0 && file) void changeFile(file.name, { offsetMs: offset + drag.ms })
    setDrag(null)
  }
  const span = lane.fromMs === null ? '' : ` · ${(lane.fromMs / 1000).toFixed(2)}–${(lane.toMs! / 1000).toFixed(2)} s`
  return (
    <div className="tt-lane">
      <div>
        <strong>{lane.name}</strong>
        <div className="tt-quiet">
          {file || lane.kind !== 'events' ? kindNames[lane.kind] : liveWord(lane.name)} ·{' '}
          {lane.events.toLocaleString('en')}
          {span}
          {lane.skipped > 0 && (
            <span
              tabIndex={0}
              data-explain={`The first that could not be read: ${lane.firstSkipped.slice(0, 3).join(' | ')}`}
            >
              {' '}
              · {lane.skipped} skipped
            </span>
          )}
        </div>
      </div>
      <svg
        ref={bar}
        className="tt-lane-bar"
        viewBox="0 0 1000 20"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${lane.name}: ${lane.events} events${span}`}
        data-draggable={file ? '' : undefined}
        onPointerDown={(event) => {
          if (!file) return
          event.currentTarget.setPointerCapture(event.pointerId)
          setDrag({ fromX: event.clientX, ms: 0 })
        }}
        onPointerMove={move}
        onPointerUp={letGo}
        onPointerCancel={() => setDrag(null)}
      >
        {lane.ticks.map((ms, i) => {
          const x = ((ms + (drag?.ms ?? 0)) / toMs) * 1000
          return <line key={i} x1={x} x2={x} y1="3" y2="17" data-kind={lane.kind} />
        })}
      </svg>
      {file ? (
        <div className="tt-lane-acts">
          <Shift
            key={offset}
            name={lane.name}
            value={offset + (drag?.ms ?? 0)}
            onChange={(ms) => void changeFile(file.name, { offsetMs: ms })}
          />
          <Button
            size="sm"
            variant="outline-secondary"
            aria-label={`Take ${lane.name} out`}
            onClick={() => void changeFile(file.name, null)}
          >
            ×
          </Button>
        </div>
      ) : (
        <span className="tt-quiet">{lane.kind === 'readings' ? '' : 'through the bench'}</span>
      )}
      {lane.notes.length > 0 && <p className="tt-lane-notes tt-quiet">{lane.notes.join('; ')}</p>}
    </div>
  )
}

/** What a source is shifted by, typed. */
function Shift({ name, value, onChange }: { name: string; value: number; onChange: (ms: number) => void }) {
  const [text, setText] = useState<string | null>(null)
  const commit = () => {
    const ms = Number(text)
    if (text !== null && text.trim() !== '' && Number.isFinite(ms) && Math.abs(ms) <= 3_600_000) onChange(ms)
    setText(null)
  }
  return (
    <label className="tt-shift">
      shift{' '}
      <FormControl
        size="sm"
        inputMode="decimal"
        aria-label={`Shift of ${name}, ms`}
        value={text ?? String(value)}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === 'Enter' && commit()}
      />{' '}
      ms
    </label>
  )
}

/** A file that was not recognised: what it holds, and how its lines are to be read, can be said. */
function Unread({ unread, file }: { unread: UnreadFile; file: EvidenceFile }) {
  const [mapping, setMapping] = useState(file.mapping)
  const [kind, setKind] = useState(file.kind ?? 'lines')
  return (
    <div className="tt-unread" role="group" aria-label={`${unread.name} could not be read`}>
      <p role="alert">
        <strong>{unread.name}</strong>: {unread.message}
      </p>
      {kind === 'lines' && unread.sample.length > 0 ? (
        <SampleMapper
          lines={unread.sample}
          onPattern={(pattern) =>
            setMapping((before) => [before.trim(), pattern].filter((each) => each !== '').join('\n'))
          }
        />
      ) : (
        <pre className="tt-sample">{unread.sample.join('\n')}</pre>
      )}
      <div className="tt-source-line">
        <label className="tt-field">
          It holds
          <FormSelect size="sm" value={kind} onChange={(event) => setKind(event.target.value as typeof kind)}>
            {sourceKinds
              .filter((each) => each !== 'readings')
              .map((each) => (
                <option key={each} value={each}>
                  {kindNames[each]}
                </option>
              ))}
          </FormSelect>
        </label>
        <FormControl
          as="textarea"
          size="sm"
          rows={2}
          aria-label={`How ${unread.name} is read`}
          placeholder={
            kind === 'frames'
              ? 'start=2,end=14,unit=ns'
              : 'an event a line: bind=^(?<t>\\S+) bind c(?<cell>\\d+) row (?<row>\\d+) (?<address>\\S+)'
          }
          value={mapping}
          onChange={(event) => setMapping(event.target.value)}
        />
        <Button size="sm" onClick={() => void changeFile(unread.name, { mapping, kind })}>
          Read it so
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => void changeFile(unread.name, null)}>
          Take it out
        </Button>
      </div>
    </div>
  )
}
