import Button from 'react-bootstrap/Button'
import { Link } from 'react-router'
import { pathOf, useGo } from '../shell/address.ts'
import { simulate } from '../device/device-store.ts'
import { undoLast, useHistory } from '../store/history.ts'
import { useRuns } from '../store/run-store.ts'
import type { Missing } from './profile-address.ts'

/** There is no run yet, or it is being read: what will be here, and the next thing to do. */
export function NoRun({ opening }: { opening: boolean }) {
  return (
    <div className="tt-step">
      <h1>Profile</h1>
      <p className="tt-lead">What happened in a run, and why.</p>
      <div className="tt-card">
        {opening ? (
          'Opening the run…'
        ) : (
          <>
            <p>
              There is no run yet. It will be shown here as a scroll map with its figures: simulate the script, or drive
              live on the device.
            </p>
            <Button onClick={() => void simulate()}>Simulate the script</Button> <UndoDeletion />
          </>
        )}
      </div>
    </div>
  )
}

/** The address names a run that this project does not have. */
export function MissingRun({ run, elsewhere }: Missing) {
  const { list } = useRuns()
  const go = useGo()
  const latest = list.at(-1)
  return (
    <div className="tt-step">
      <h1>This run is not here</h1>
      <p className="tt-lead">
        {elsewhere
          ? `The address names run ${run}, which belongs to another project, “${elsewhere.name}”.`
          : `The address names run ${run}, which this browser does not have: it was deleted, or made in another browser.`}
      </p>
      <div className="tt-card">
        {elsewhere && (
          <Link className="btn btn-primary" to={pathOf(elsewhere.project, `/profile/${elsewhere.run}`)}>
            Open it in “{elsewhere.name}”
          </Link>
        )}{' '}
        <UndoDeletion />{' '}
        {latest && (
          <Button variant="outline-primary" onClick={() => go(`/profile/${latest.id}`)}>
            Show the latest run, {latest.number}
          </Button>
        )}
      </div>
    </div>
  )
}

/** Brings back the run that was deleted last; nothing where something else was done since. */
function UndoDeletion() {
  const { undo } = useHistory()
  if (!undo?.startsWith('delete run')) return null
  return (
    <Button variant="outline-primary" onClick={() => void undoLast()}>
      Undo: {undo}
    </Button>
  )
}
