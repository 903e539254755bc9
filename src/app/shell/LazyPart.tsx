import { useState, type ComponentType, type ReactNode } from 'react'
import Button from 'react-bootstrap/Button'
import useSWRImmutable from 'swr/immutable'
import { flush } from '../store/saving.ts'
import { serverState, type ServerState } from './new-build.ts'

interface LazyPartProps<P extends object> {
  /** Name of the part, unique. */
  name: string
  load: () => Promise<{ default: ComponentType<P> }>
  /** What it is given. */
  given?: P
  /** What is shown until it is loaded. */
  fallback: ReactNode
  /** Shown when it cannot be loaded; by default the reason, and what to do. */
  without?: ReactNode
}

/**
 * A part of the app that is loaded when it is first shown. After a failure it is requested again, or the page is
 * reloaded.
 */
export function LazyPart<P extends object = object>({ name, load, given, fallback, without }: LazyPartProps<P>) {
  const {
    data: Part,
    error,
    mutate,
    isValidating,
  } = useSWRImmutable(['part of the app', name], async () => (await load()).default, {
    shouldRetryOnError: without !== undefined,
  })
  if (Part) return <Part {...(given as P)} />
  if (error === undefined || isValidating) return fallback
  return without ?? <NotLoaded name={name} onAgain={() => void mutate()} />
}

/** Says why a part could not be loaded: the server is away, or the app was rebuilt under the open page. */
function NotLoaded({ name, onAgain }: { name: string; onAgain: () => void }) {
  const [state, setState] = useState<ServerState | null>(null)
  const again = async () => {
    const now = await serverState()
    setState(now)
    if (now !== 'rebuilt') onAgain()
  }
  const reload = async () => {
    await flush()
    location.reload()
  }
  return (
    <div role="alert" className="tt-card">
      <h2>{name} could not be loaded</h2>
      <p>
        {state === 'rebuilt'
          ? 'The app on the server is a newer one than this page. Reload the page to go on; what you changed is saved first.'
          : 'The Tile Tug server does not answer, or its app was rebuilt. Start it with npm start, then try again. The project and the device are as they were.'}
      </p>
      {state !== 'rebuilt' && <Button onClick={() => void again()}>Try again</Button>}{' '}
      <Button variant={state === 'rebuilt' ? 'primary' : 'outline-primary'} onClick={() => void reload()}>
        Reload the page
      </Button>
    </div>
  )
}
