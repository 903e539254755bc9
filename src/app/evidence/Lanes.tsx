import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import type { EvidenceFile } from '../../workers/jobs/evidence-job.ts'
import { changeFile, useEvidence } from './evidence-store.ts'
import { Lane } from './Lane.tsx'
import { Unread } from './Unread.tsx'

/** An event of a source that is to be matched with one of another. */
interface Picked {
  name: string
  ms: number
}

/** Each source as a lane on one time axis: how much it holds, from when to when, and what could not be read. */
export function Lanes() {
  const files = useEvidence(({ files }) => files)
  const answer = useEvidence(({ answer }) => answer)
  const [all, setPicked] = useState<readonly Picked[]>([])
  if (!answer) return null
  // A source that was shifted or removed no longer has the picked events.
  const picked = all.filter(({ name, ms }) =>
    answer.lanes.some((lane) => lane.name === name && lane.ticks.includes(ms)),
  )
  const toMs = Math.max(1, ...answer.lanes.map((lane) => lane.toMs ?? 0))
  return (
    <div className="tt-card tt-lanes" role="group" aria-label="Sources">
      {answer.lanes.map((lane) => (
        <Lane
          key={lane.name}
          lane={lane}
          toMs={toMs}
          file={files.find(({ name }) => name === lane.name) ?? null}
          picked={picked.find(({ name }) => name === lane.name)?.ms ?? null}
          // The last two picks, if they are of two sources.
          onPick={(ms) =>
            setPicked([...picked.filter(({ name }) => name !== lane.name).slice(-1), { name: lane.name, ms }])
          }
        />
      ))}
      {answer.lanes.length > 0 && (
        <p className="tt-lane-axis tt-quiet" aria-hidden>
          <span>0 s</span>
          <span>{(toMs / 1000).toFixed(1)} s</span>
        </p>
      )}
      <Match picked={picked} files={files} onDone={() => setPicked([])} />
      {answer.unread.map((unread) => (
        <Unread key={unread.name} unread={unread} file={files.find(({ name }) => name === unread.name)!} />
      ))}
    </div>
  )
}

/** Two picked events that are the same: the source that was picked last, or else the other, is shifted onto it. */
function Match({
  picked,
  files,
  onDone,
}: {
  picked: readonly Picked[]
  files: readonly EvidenceFile[]
  onDone: () => void
}) {
  const [one, other] = picked
  if (!one) return null
  const seconds = (ms: number) => `${(ms / 1000).toFixed(3)} s`
  const movable = [other, one].find((each) => files.some(({ name }) => name === each?.name))
  const fixed = movable === one ? other : one
  const file = files.find(({ name }) => name === movable?.name)
  return (
    <p role="status" className="tt-match">
      {one.name} at {seconds(one.ms)}
      {other ? ` and ${other.name} at ${seconds(other.ms)}` : ': pick the same event in another source'}{' '}
      {other && file && movable && fixed && (
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => {
            void changeFile(file.name, { offsetMs: Math.round(1000 * (file.offsetMs + fixed.ms - movable.ms)) / 1000 })
            onDone()
          }}
        >
          They are one: shift {file.name} by {Math.round(fixed.ms - movable.ms)} ms
        </Button>
      )}{' '}
      <Button size="sm" variant="outline-secondary" onClick={onDone}>
        Put away
      </Button>
    </p>
  )
}
