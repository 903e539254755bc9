import { useDeferredValue, useState } from 'react'
import Button from 'react-bootstrap/Button'
import { kindNames, type EventKind } from '../../core/log/event-kinds.ts'
import { lineOf } from '../../core/log/event-list.ts'
import type { MapRange } from '../map/map-view.ts'
import { runWorker } from '../simulate/worker-client.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { saveBlob } from '../store/save-file.ts'
import { tell } from '../store/project-store.ts'
import { useAnswer } from './use-answer.ts'

const most = 200

/** Every event of the run: filtered by kind and text, copied, and taken out as NDJSON or CSV. */
export function EventLens({ kept, run, range }: { kept: StoredLog; run: StoredRun; range: MapRange | null }) {
  const [kind, setKind] = useState<EventKind | ''>('')
  const [typed, setTyped] = useState('')
  const text = useDeferredValue(typed)
  const wish = { kinds: kind === '' ? [] : [kind], text, ...(range ? { fromMs: range.fromMs, toMs: range.toMs } : {}) }
  const { answer, trouble } = useAnswer('events', run.hash, [kind, text, range?.fromMs, range?.toMs], () => ({
    log: kept.log,
    hash: run.hash,
    wish,
    most,
  }))
  const lines = answer?.events.map(lineOf) ?? []
  const take = (as: 'ndjson' | 'csv') => {
    runWorker.ask('export', { log: kept.log, hash: run.hash, as, wish, notes: run.notes ?? [] }).result.then(
      (file) => saveBlob(`run-${run.number}.${as}`, file),
      (error: unknown) =>
        tell(`The run could not be taken out: ${error instanceof Error ? error.message : String(error)}`),
    )
  }
  return (
    <section className="tt-card tt-event-lens" aria-label="Event log">
      <div className="tt-source-line">
        <select
          aria-label="Kind of event"
          value={kind}
          onChange={(event) => setKind(event.target.value as EventKind | '')}
        >
          <option value="">all kinds</option>
          {kindNames.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
        <input
          className="form-control"
          aria-label="Text in the event"
          placeholder="a key, cell, request, reason…"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <span role="status" className="tt-quiet">
          {answer
            ? `${answer.matching.toLocaleString('en')} events${answer.matching > most ? `, the first ${most}` : ''}`
            : (trouble ?? 'reading…')}
        </span>
        <Button size="sm" variant="link" onClick={() => void navigator.clipboard.writeText(lines.join('\n'))}>
          Copy
        </Button>
        <Button size="sm" variant="link" onClick={() => take('ndjson')}>
          NDJSON
        </Button>
        <Button size="sm" variant="link" onClick={() => take('csv')}>
          CSV
        </Button>
      </div>
      <pre tabIndex={0} aria-label="Events">
        {lines.join('\n')}
      </pre>
    </section>
  )
}
