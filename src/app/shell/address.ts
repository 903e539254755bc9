import { useCallback, useEffect, useRef, useState } from 'react'
import { useLocation, useNavigate, useParams, type createBrowserRouter, type NavigateOptions } from 'react-router'
import { currentProject, openLast, openStored, useProject } from '../store/project-store.ts'
import { loadDemo } from '../store/demo.ts'

/** Where a view of a project is: "/p/PROJECT/profile/7". */
export const pathOf = (project: string, path: string) => `/p/${project}${path}`

/** The part of an address within its project: "/profile/7". */
export const withinProject = (pathname: string) => pathname.replace(/^\/p\/[^/]+/, '') || '/'

type Router = ReturnType<typeof createBrowserRouter>

let router: Router | null = null
export const headingOf = (own: Router) => (router = own)

/**
 * Whether the page shows a step and is not on its way to another. An effect of a step may run after the user has left
 * it: what it then wrote to the address would bring the step back.
 */
export function staysAt(step: string): boolean {
  if (!router) return true
  const { location, navigation } = router.state
  return withinProject((navigation.location ?? location).pathname).startsWith(step)
}

/** Goes to a view of the open project. */
export function useGo(): (path: string, options?: NavigateOptions) => void {
  const navigate = useNavigate()
  return useCallback(
    (path, options) => {
      const open = currentProject()
      void navigate(open ? pathOf(open.id, path) : path, options)
    },
    [navigate],
  )
}

/** Opens another project in the step that is open. */
export function useOpenProject(): (id: string) => void {
  const navigate = useNavigate()
  const step = withinProject(useLocation().pathname).split('/')[1] || 'loading'
  return (id) => void navigate(pathOf(id, `/${step}`))
}

/**
 * The project that a tab shows is part of its address: an address opens its project, and a project that is opened in
 * another way gets its address. Returns why the addressed project cannot be shown; null: it can.
 */
export function useAddressedProject(ready: boolean): { why: string } | null {
  const { project: wanted } = useParams()
  const { pathname, search } = useLocation()
  const navigate = useNavigate()
  const open = useProject()?.id
  const [missing, setMissing] = useState<{ wanted: string; why: string } | null>(null)
  /** The new address when another project is opened. */
  const at = useRef({ wanted, pathname, search })
  useEffect(() => {
    at.current = { wanted, pathname, search }
  })
  /** The project that was last written to the address from here. */
  const given = useRef<string | undefined>(undefined)
  useEffect(() => {
    if (!ready) return
    // While a step is loading, the address changes late: by then another project may have been opened.
    if (wanted !== undefined && wanted === given.current && currentProject()?.id !== wanted) return
    let current = true
    const opened = wanted === undefined ? openWithoutName() : openStored(wanted)
    opened.then(
      (why) => current && setMissing(why === null || wanted === undefined ? null : { wanted, why }),
      (error: unknown) =>
        current && setMissing({ wanted: wanted ?? '', why: error instanceof Error ? error.message : String(error) }),
    )
    return () => {
      current = false
    }
  }, [ready, wanted])
  useEffect(() => {
    if (open === undefined || at.current.wanted === open) return
    const { wanted: former, pathname: path, search: query } = at.current
    const within = withinProject(path)
    // A run and what was selected in it belong to the project that was open before.
    given.current = open
    const place = former === undefined ? within + query : `/${within.split('/')[1] || 'loading'}`
    void navigate(pathOf(open, place === '/' ? '/loading' : place), { replace: former === undefined })
  }, [open, navigate])
  return missing !== null && missing.wanted === (wanted ?? '') && wanted !== open ? missing : null
}

/** An address that names no project shows what is open, or what was open last. */
async function openWithoutName(): Promise<null> {
  if (!currentProject()) await openLast(loadDemo)
  return null
}
