import { useEffect, useRef, type DragEvent } from 'react'
import Alert from 'react-bootstrap/Alert'
import Button from 'react-bootstrap/Button'
import { FilePicker } from '../controls/FilePicker.tsx'
import { Progress } from '../controls/Progress.tsx'
import { ScrollMap } from '../map/ScrollMap.tsx'
import { headline } from '../runs/figures.ts'
import { useGo } from '../shell/address.ts'
import { useProject } from '../store/project-store.ts'
import { addFiles, cancelReading, keepEvidence, openEvidence, useEvidence } from './evidence-store.ts'
import { FitTable } from './FitTable.tsx'
import { Lanes } from './Lanes.tsx'
import { ReadingFields } from './ReadingFields.tsx'
import { RecordingCard } from './RecordingCard.tsx'
import '../theme/evidence.css'

/** The real app's own run: recorded through the bench while it is used, or brought as files. */
export default function RecordedView() {
  const project = useProject()!
  const evidence = useEvidence()
  const picker = useRef<HTMLInputElement>(null)
  const go = useGo()
  useEffect(() => void openEvidence(project.id), [project.id])
  const { answer, share, trouble, recording } = evidence
  const isLive = recording !== null && !recording.standing.ended
  const take = (files: File[]) =>
    void addFiles(files).then((runs) => {
      if (runs > 0) go('/profile')
    })
  const drop = (event: DragEvent) => {
    event.preventDefault()
    event.stopPropagation()
    take([...event.dataTransfer.files])
  }
  const run = answer?.run ?? null
  return (
    <section
      className="tt-recorded"
      aria-label="The real app, recorded"
      onDragOver={(event) => event.preventDefault()}
      onDrop={drop}
    >
      <RecordingCard />
      <div className="tt-source-line">
        <Button size="sm" variant="outline-primary" onClick={() => picker.current?.click()}>
          + files…
        </Button>
        <span
          className="tt-quiet"
          tabIndex={0}
          data-explain="Each is known by its content: requests, frames, memory, busy threads, log lines, app events"
        >
          or drop what the app left behind here: HAR, CSV, logs, app events
        </span>
        <FilePicker ref={picker} label="Evidence files" multiple onFiles={take} />
        {run && !isLive && (
          <Button size="sm" onClick={() => void keepEvidence().then((id) => id !== null && go(`/profile/${id}`))}>
            Keep as a run
          </Button>
        )}
        {share !== null && !isLive && (
          <>
            <Progress name="Reading" share={share} />
            <Button size="sm" variant="outline-secondary" onClick={cancelReading}>
              Cancel
            </Button>
          </>
        )}
      </div>
      {trouble !== null && (
        <Alert variant="warning" className="tt-notice">
          {trouble}
        </Alert>
      )}
      <Lanes />
      {run && (
        <>
          <dl className="tt-figures">
            {headline.map((figure) => {
              const value = run.metrics[figure.id]
              const missing = answer?.notObserved[figure.id]
              const formatted = typeof value === 'number' ? figure.form(value) : null
              return (
                <div
                  key={figure.id}
                  tabIndex={0}
                  data-explain={missing ? `To know it, record ${missing}` : figure.explain}
                >
                  <dd>
                    {formatted ? (
                      <>
                        <strong data-metric={figure.id}>{formatted.text}</strong> {formatted.unit}
                      </>
                    ) : (
                      <span className="tt-not-observed">not observed</span>
                    )}
                  </dd>
                  <dt>
                    {figure.name}
                    {missing && <span className="tt-quiet">: record {missing}</span>}
                  </dt>
                </div>
              )
            })}
          </dl>
          {run.map.lines.request.length > 0 && (
            <div className="tt-recorded-map">
              <ScrollMap
                map={run.map}
                ghost={answer?.fit?.simulated?.map ?? null}
                selected={null}
                onSelect={() => undefined}
              />
            </div>
          )}
        </>
      )}
      {answer?.fit && run && <FitTable fit={answer.fit} map={run.map} />}
      <ReadingFields />
    </section>
  )
}
