import { memo } from 'react'
import { dequal } from 'dequal'
import { Chip } from '../controls/Chip.tsx'
import { setHelp } from '../help/help-store.ts'
import { NavLink, useLocation } from 'react-router'
import { useFollowing } from '../simulate/follow-store.ts'
import { useProject } from '../store/project-store.ts'
import { useRuns } from '../store/run-store.ts'
import { useStorage } from '../store/storage.ts'
import { pathOf, withinProject } from './address.ts'
import { LazyPart } from './LazyPart.tsx'
import { steps } from './steps.ts'

const savedWords = { saved: 'Saved in this browser', saving: 'Saving…', failed: 'Not saved' } as const

/** The line on top: the project, the seven steps as floats on a line, whether everything is saved. */
export function TowLine() {
  const state = useProject()
  const place = withinProject(useLocation().pathname)
  const { storage } = useStorage()
  const { list } = useRuns()
  const following = useFollowing()
  const lastRun = list.at(-1)
  const changed = lastRun !== undefined && state !== null && !dequal(lastRun.raw, state.effective)
  return (
    <header className="tt-tow">
      <div className="tt-brand">
        <Tug />
        <strong>Tile Tug</strong>
        <LazyPart
          name="Project menu"
          load={() => import('./ProjectMenu.tsx')}
          fallback={<span className="tt-project">{state?.project.name}</span>}
          without={<span className="tt-project">{state?.project.name}</span>}
        />
      </div>
      <Steps project={state?.id ?? null} place={place} changed={changed} />
      <div className="tt-tow-end">
        <div className="tt-saved" aria-live="polite" data-following={following ? '' : undefined}>
          {state && (storage.is === 'session' ? 'Kept until this page is closed' : savedWords[state.saved])}
        </div>
        <Chip aria-label="Help" data-explain="Shortcuts, words and hints. Key ?" onClick={() => setHelp(true)}>
          ?
        </Chip>
      </div>
    </header>
  )
}

interface StepsProps {
  /** The id of the project; null: there is none yet. */
  project: string | null
  place: string
  /** Whether anything has changed since the last run. */
  changed: boolean
}

/** Drawn again only when its own content changes, not with every change of the project while a handle is dragged. */
const Steps = memo(({ project, place, changed }: StepsProps) => {
  const at = steps.findIndex((step) => place.startsWith(`/${step.path}`))
  return (
    <nav aria-label="Steps">
      <ol className="tt-floats">
        {steps.map((step, index) => (
          <li key={step.path} className={index < at ? 'is-behind' : ''}>
            <NavLink
              to={project ? pathOf(project, `/${step.path}`) : `/${step.path}`}
              data-hint={step.path === 'feed' ? 'feed' : undefined}
              data-explain={`${step.decides} Key ${index + 1}.`}
              data-changed={changed && step.changes ? '' : undefined}
            >
              <span className="tt-float" aria-hidden />
              {step.name}
              {changed && step.changes && <span className="visually-hidden"> (changed since the last run)</span>}
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  )
})

const Tug = memo(() => {
  return (
    <svg width="30" height="26" viewBox="0 0 30 26" aria-hidden>
      <path className="tug-deck" d="M6 5h7v9H6z" />
      <path className="tug-house" d="M15 8h6v6h-6z" />
      <path className="tug-hull" d="M1 15h28l-4 7H5z" />
      <path className="tug-water" d="M1 25q3.5-3 7 0t7 0 7 0 7 0" fill="none" strokeWidth="1.5" />
    </svg>
  )
})
