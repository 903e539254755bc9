import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { useGo } from '../shell/address.ts'
import { useProject } from '../store/project-store.ts'
import { endAndKeep, markNow, record, useEvidence } from './evidence-store.ts'
import { sendingExample } from './sending-example.ts'

/** Records a real app: its upstream, the address for its pictures, and the progress. */
export function RecordingCard() {
  const { project } = useProject()!
  const recording = useEvidence(({ recording }) => recording)
  const go = useGo()
  const [upstream, setUpstream] = useState('origin')
  const [host, setHost] = useState('')
  const [paced, setPaced] = useState(true)
  const [showsExample, setShowsExample] = useState(false)
  const standing = recording?.standing
  const isLive = standing !== undefined && !standing.ended
  if (!recording || !standing || !isLive)
    return (
      <div className="tt-card tt-recording">
        <label className="tt-field">
          Behind it
          <FormSelect size="sm" value={upstream} onChange={(event) => setUpstream(event.target.value)}>
            <option value="origin">the made-up archive</option>
            <option value="host">a real host</option>
          </FormSelect>
        </label>
        {upstream === 'host' && (
          <label className="tt-field">
            Its address
            <FormControl
              size="sm"
              placeholder="https://img.example.com"
              value={host}
              onChange={(event) => setHost(event.target.value)}
            />
          </label>
        )}
        <label className="tt-field">
          Pace
          <FormSelect
            size="sm"
            value={paced ? 'network' : 'none'}
            onChange={(event) => setPaced(event.target.value === 'network')}
          >
            <option value="network">as {project.network.name}, with its faults</option>
            <option value="none">as fast as it comes</option>
          </FormSelect>
        </label>
        <Button
          size="sm"
          disabled={upstream === 'host' && host.trim() === ''}
          onClick={() =>
            void record(
              upstream === 'origin' ? 'origin' : host.trim().replace(/\/+$/, ''),
              paced ? project.network : null,
            )
          }
        >
          ● Record the real app
        </Button>
        {upstream === 'host' && (
          <span className="tt-quiet">Only hosts that were named when the server was started: TUG_RELAY_HOSTS</span>
        )}
      </div>
    )
  const events = Object.values(standing.counts).reduce((sum, count) => sum + count, 0)
  return (
    <div className="tt-card tt-recording" data-live="">
      <div>
        <h2>Pictures from</h2>
        <code className="tt-address">{recording.base}</code>{' '}
        <Copy text={recording.base} what="address of the pictures" />
      </div>
      <div>
        <h2>
          Events to <span className="tt-quiet">(optional, plain HTTP)</span>
        </h2>
        <code className="tt-address">{recording.events}</code>{' '}
        <Copy text={recording.events} what="address of the events" />{' '}
        <Button
          size="sm"
          variant="outline-secondary"
          aria-expanded={showsExample}
          onClick={() => setShowsExample(!showsExample)}
        >
          20-line example
        </Button>
      </div>
      <div>
        <h2>Phone on a cable?</h2>
        <span className="tt-quiet">
          Forward its port {new URL(recording.base).port} to this machine; an emulator needs nothing. No phone at hand:{' '}
          <code>npm run -s tug -- demo-app {recording.base}</code>
        </span>
      </div>
      <div className="tt-recording-state" role="status">
        <strong>{(standing.nowMs / 1000).toFixed(0)} s</strong> · {standing.responses} pictures, {standing.aborted} cut
        off, {(standing.bytes / 1e6).toFixed(2)} MB · {events} events
        {standing.clock.errorMs !== null && ` · clock ± ${standing.clock.errorMs.toFixed(1)} ms`}
        {standing.skipped > 0 && ` · ${standing.skipped} lines could not be taken`}
        {standing.trouble !== null && ` · ${standing.trouble}`}
      </div>
      <div className="tt-recording-acts">
        <Button size="sm" variant="outline-primary" onClick={() => void markNow()}>
          Mark now
        </Button>
        <Button size="sm" onClick={() => void endAndKeep().then((id) => id !== null && go(`/profile/${id}`))}>
          ■ End and keep
        </Button>
      </div>
      {showsExample && <pre className="tt-example">{sendingExample(recording.events)}</pre>}
    </div>
  )
}

function Copy({ text, what }: { text: string; what: string }) {
  const [copied, setCopied] = useState(false)
  return (
    <Button
      size="sm"
      variant="outline-secondary"
      aria-label={`Copy the ${what}`}
      onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
    >
      {copied ? 'copied' : 'copy'}
    </Button>
  )
}
