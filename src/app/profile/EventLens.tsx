import FormControl from 'react-bootstrap/FormControl'
import { useDeferredValue, useState } from 'react'
import Button from 'react-bootstrap/Button'
import Dropdown from 'react-bootstrap/Dropdown'
import FormCheck from 'react-bootstrap/FormCheck'
import { kindNames, type EventKind } from '../../core/log/event-kinds.ts'
import { lineOf } from '../../core/log/event-list.ts'
import { Chip } from '../controls/Chip.tsx'
import type { MapRange } from '../map/map-view.ts'
import { runWorker } from '../simulate/worker-client.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { saveBlob } from '../store/save-file.ts'
import { notify } from '../store/project-store.ts'
import { useAnswer } from './use-answer.ts'
import { MenuItem } from '../controls/MenuItem.tsx'

/** Lines on a page. */
const most = 200
/** The most lines that are copied; more goes out as a file. */
const mostCopied = 100_000

/** Every event of the run: filtered by kind and text, copied, and saved as NDJSON or CSV. */
export function EventLens({ kept, run, range }: { kept: StoredLog; run: StoredRun; range: MapRange | null }) {
  const [kinds, setKinds] = useState<readonly EventKind[]>([])
  const [typed, setTyped] = useState('')
  const text = useDeferredValue(typed)
  const query = { kinds, text, ...(range ? { fromMs: range.fromMs, toMs: range.toMs } : {}) }
  // Another filter, or another part of the map, starts at its first page.
  const filter = JSON.stringify(query)
  const [turned, setTurned] = useState({ filter, page: 0 })
  const page = turned.filter === filter ? turned.page : 0
  const setPage = (next: number) => setTurned({ filter, page: next })
  const { answer, trouble } = useAnswer('events', run.hash, [filter, page], () => ({
    log: kept.log,
    hash: run.hash,
    query,
    most,
    from: page * most,
  }))
  const last = Math.max(0, Math.ceil((answer?.matching ?? 0) / most) - 1)
  const lines = answer?.events.map(lineOf) ?? []
  const copy = () => {
    // The worker makes the text, and no more of it than can be copied.
    const text = runWorker
      .ask('eventText', { log: kept.log, hash: run.hash, query, most: mostCopied })
      .result.then((lines) => new Blob([lines], { type: 'text/plain' }))
    navigator.clipboard.write([new ClipboardItem({ 'text/plain': text })]).catch((error: unknown) => {
      notify(`The events could not be copied: ${error instanceof Error ? error.message : String(error)}`)
    })
  }
  const take = (as: 'ndjson' | 'csv') => {
    runWorker.ask('export', { log: kept.log, hash: run.hash, as, query, notes: run.notes ?? [] }).result.then(
      (file) => saveBlob(`run-${run.number}.${as}`, file),
      (error: unknown) =>
        notify(`The run could not be exported: ${error instanceof Error ? error.message : String(error)}`),
    )
  }
  return (
    <section className="tt-card tt-event-lens" aria-label="Event log">
      <div className="tt-source-line">
        <Kinds kinds={kinds} onKinds={setKinds} />
        <FormControl
          size="sm"
          aria-label="Text in the event"
          placeholder="a key, cell, request, reason…"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <span role="status" className="tt-quiet">
          {answer
            ? `${answer.matching.toLocaleString('en')} events${last > 0 ? `, page ${page + 1} of ${last + 1}` : ''}`
            : (trouble ?? 'reading…')}
        </span>
        {last > 0 && (
          <>
            <Chip aria-label="The page before" disabled={page === 0} onClick={() => setPage(page - 1)}>
              ‹
            </Chip>
            <Chip aria-label="The next page" disabled={page >= last} onClick={() => setPage(page + 1)}>
              ›
            </Chip>
          </>
        )}
        <Button
          size="sm"
          variant="link"
          data-explain={`All that is filtered, up to ${mostCopied.toLocaleString('en')} lines`}
          onClick={copy}
        >
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

/** Which kinds of event are listed: none chosen means all. */
function Kinds({ kinds, onKinds }: { kinds: readonly EventKind[]; onKinds: (kinds: readonly EventKind[]) => void }) {
  return (
    <Dropdown autoClose="outside">
      <Dropdown.Toggle className="tt-chip" id="event-kinds">
        {kinds.length === 0 ? 'all kinds' : kinds.join(', ')}
      </Dropdown.Toggle>
      <Dropdown.Menu className="tt-kinds">
        <MenuItem onClick={() => onKinds([])}>All kinds</MenuItem>
        {kindNames.map((name) => (
          <FormCheck
            key={name}
            id={`kind-${name}`}
            label={name}
            checked={kinds.includes(name)}
            onChange={() => onKinds(kinds.includes(name) ? kinds.filter((each) => each !== name) : [...kinds, name])}
          />
        ))}
      </Dropdown.Menu>
    </Dropdown>
  )
}
