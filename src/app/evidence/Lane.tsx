import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import Button from 'react-bootstrap/Button'
import FormControl from 'react-bootstrap/FormControl'
import type { EvidenceAnswer, EvidenceFile } from '../../workers/jobs/evidence-job.ts'
import { changeFile } from './evidence-store.ts'
import { kindNames } from './kind-names.ts'

/** The two sides of a recording that is under way. */
const liveWord = (name: string) => (name === 'pictures' ? 'written by the bench' : 'sent by the app')

interface LaneProps {
  lane: EvidenceAnswer['lanes'][number]
  toMs: number
  file: EvidenceFile | null
  /** The event of it that is to be matched with another source’s, ms; null: none. */
  picked: number | null
  onPick: (ms: number) => void
}

/** One source: its contents, its events on the common time axis, and its offset. */
export function Lane({ lane, toMs, file, picked, onPick }: LaneProps) {
  const bar = useRef<SVGSVGElement>(null)
  const [drag, setDrag] = useState<{ fromX: number; ms: number } | null>(null)
  const offset = file?.offsetMs ?? 0
  const move = (event: PointerEvent) => {
    if (!drag) return
    const { width } = bar.current!.getBoundingClientRect()
    setDrag({ ...drag, ms: Math.round(((event.clientX - drag.fromX) / width) * toMs) })
  }
  const letGo = (event: PointerEvent) => {
    if (drag && drag.ms !== 0 && file) void changeFile(file.name, { offsetMs: offset + drag.ms })
    else {
      const { left, width } = bar.current!.getBoundingClientRect()
      pickNear(((event.clientX - left) / width) * toMs)
    }
    setDrag(null)
  }
  const pickNear = (ms: number) => {
    const nearest = lane.ticks.toSorted((one, other) => Math.abs(one - ms) - Math.abs(other - ms))[0]
    if (nearest !== undefined) onPick(nearest)
  }
  const step = (event: KeyboardEvent) => {
    if (event.key !== 'ArrowRight' && event.key !== 'ArrowLeft') return
    event.preventDefault()
    const later = event.key === 'ArrowRight'
    const at = picked ?? (later ? -1 : Infinity)
    const next = later ? lane.ticks.find((ms) => ms > at) : lane.ticks.findLast((ms) => ms < at)
    if (next !== undefined) onPick(next)
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
        tabIndex={0}
        aria-label={`${lane.name}: ${lane.events} events${span}`}
        data-explain="Click an event, or step with the arrow keys, to match it with one of another source"
        onKeyDown={step}
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
        {picked !== null && (
          <line className="tt-lane-picked" x1={(picked / toMs) * 1000} x2={(picked / toMs) * 1000} y1="0" y2="20" />
        )}
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
            aria-label={`Remove ${lane.name}`}
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

/** The offset of a source, typed. */
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
