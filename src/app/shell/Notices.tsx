import Alert from 'react-bootstrap/Alert'
import Button from 'react-bootstrap/Button'
import useSWR from 'swr'
import { Progress } from '../controls/Progress.tsx'
import { useOpening } from '../store/open-run-log.ts'
import { putDeletedAway, undoLast, useHistory } from '../store/history.ts'
import { notify, useProject } from '../store/project-store.ts'
import { labelled } from './labelled.ts'
import { retryStorage, tryAgain, useStorage } from '../store/storage.ts'

/** Messages of the whole app, whatever step is open: about storage, what was deleted, and what went wrong. */
export default function Notices() {
  const state = useProject()
  const { deleted } = useHistory()
  const opening = useOpening()
  return (
    <>
      <StorageNotice />
      {deleted !== null && (
        <Alert variant="info" dismissible onClose={putDeletedAway} className="tt-notice" role="status">
          {deleted}.{' '}
          <Button size="sm" variant="link" onClick={() => void undoLast()}>
            Undo
          </Button>
        </Alert>
      )}
      {opening && (
        <Alert variant="info" className="tt-notice" role="status">
          Reading {opening.name} <Progress name={`Reading ${opening.name}`} share={opening.share} />{' '}
          <Button size="sm" variant="outline-secondary" onClick={opening.cancel}>
            Cancel
          </Button>
        </Alert>
      )}
      {state?.notice && (
        <Alert variant="warning" dismissible onClose={() => notify(null)} className="tt-notice">
          {labelled(state.notice)}
        </Alert>
      )}
    </>
  )
}

function StorageNotice() {
  const { storage, waiting } = useStorage()
  if (storage.is === 'outdated')
    return (
      <Alert variant="warning" className="tt-notice">
        A newer version of Tile Tug has been opened in another tab, and this one can keep nothing any more. What was
        changed here before is saved.{' '}
        <Button size="sm" variant="outline-primary" onClick={() => location.reload()}>
          Reload this tab
        </Button>
      </Alert>
    )
  return (
    <>
      {storage.is === 'session' && (
        <Alert variant="warning" className="tt-notice">
          This browser’s storage cannot be used: {storage.why}. Everything works, and lasts until this page is closed;
          save the project as a file to keep it.{' '}
          <Button size="sm" variant="outline-primary" onClick={() => void retryStorage()}>
            Try storage again
          </Button>
        </Alert>
      )}
      {waiting && (
        <Alert variant="warning" className="tt-notice">
          {waiting.full ? <Full what={waiting.what} /> : `${listOf(waiting.what)} could not be saved (${waiting.why}).`}{' '}
          It stays in this tab and is tried again.{' '}
          <Button size="sm" variant="outline-primary" onClick={() => void tryAgain()}>
            Try now
          </Button>
        </Alert>
      )}
    </>
  )
}

/** Storage is full: how much is used, and what can be freed. */
function Full({ what }: { what: readonly string[] }) {
  const { data } = useSWR('storage estimate', () => navigator.storage.estimate(), { refreshInterval: 5000 })
  const used = data?.usage === undefined ? '' : ` (${mb(data.usage)} used${data.quota ? ` of ${mb(data.quota)}` : ''})`
  return (
    <>
      This browser has no room left{used}: {listOf(what)} could not be saved. Delete runs in Profile, or projects under
      “All projects…” in the project menu, to free some.
    </>
  )
}

const mb = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`

const listOf = (what: readonly string[]) =>
  what.length <= 3 ? what.join(', ') : `${what.slice(0, 3).join(', ')} and ${what.length - 3} more`
