import { Fragment, memo, useEffect } from 'react'
import { Outlet, useLocation } from 'react-router'
import { redoLast, undoLast } from '../store/history.ts'
import { notify, useProject } from '../store/project-store.ts'
import { followRuns } from '../store/run-store.ts'
import { useStorage } from '../store/storage.ts'
import { useAddressedProject, useGo, withinProject } from './address.ts'
import { DevicePanel } from '../device/DevicePanel.tsx'
import { markNow, useDevice } from '../device/device-store.ts'
import { LazyPart } from './LazyPart.tsx'
import { setHelp, useHelp } from '../help/help-store.ts'
import { currentPreferences } from '../help/preferences.ts'
import { steps } from './steps.ts'
import { TowLine } from './TowLine.tsx'

/** The frame of the whole: tow line, device, the step's panel, and the strip below. */
export function Shell() {
  const { storage, generation } = useStorage()
  // What was read from a database that has been replaced by another is read again.
  return <Frame key={generation} ready={storage.is !== 'opening'} />
}

function Frame({ ready }: { ready: boolean }) {
  const id = useProject((state) => state?.id)
  const name = useProject((state) => state?.project.name)
  const screen = useDevice(({ screen }) => screen)
  const { pathname, search } = useLocation()
  const place = withinProject(pathname)
  const missing = useAddressedProject(ready)
  useStepKeys()
  const step = steps.find(({ path }) => place.startsWith(`/${path}`))?.name
  useEffect(() => {
    if (id) followRuns(id)
  }, [id])
  const inFeed = place.startsWith('/feed')
  // A recorded run (?run=recorded) has a map of its own.
  const hasStrip = inFeed || /^\/(cell|loading|drive(?!.*=r))/.test(place + search)
  return (
    <div className="tt-shell" data-strip={hasStrip ? '' : undefined}>
      <title>{[step, name, 'Tile Tug'].filter(Boolean).join(' · ')}</title>
      <a href="#panel" className="tt-skip visually-hidden-focusable">
        Skip to the panel
      </a>
      <TowLine />
      <DevicePanel />
      <main className="tt-panel" id="panel" tabIndex={-1}>
        <Notices />
        {!ready && <p className="tt-quiet">Opening what this browser keeps…</p>}
        {missing ? (
          <LazyPart
            name="Missing project"
            load={() => import('./MissingProject.tsx')}
            fallback={null}
            without={<p role="alert">{missing.why}</p>}
          />
        ) : (
          id && (
            <Fragment key={id}>
              <Outlet />
            </Fragment>
          )
        )}
      </main>
      <Overlays />
      <LazyPart
        name="What follows the hand"
        load={() => import('../simulate/FollowHand.tsx')}
        given={{ screen }}
        fallback={null}
        without={null}
      />
      {hasStrip && (
        <LazyPart
          key={inFeed ? 'strip in Feed' : 'strip'}
          name="Strip"
          load={() => import('./Strip.tsx')}
          given={{ startsFolded: inFeed }}
          fallback={<section className="tt-strip" data-folded={inFeed ? '' : undefined} />}
        />
      )}
    </div>
  )
}

/** The panel above the step. A change of the project does not draw it again. */
const Notices = memo(() => <LazyPart name="Notices" load={() => import('./Notices.tsx')} fallback={null} />)

/** What is shown over the page on request. A change of the project does not draw it again either. */
const Overlays = memo(() => {
  const help = useHelp()
  return (
    <>
      <LazyPart name="Hints" load={() => import('../help/Hint.tsx')} fallback={null} without={null} />
      {help && (
        <LazyPart
          name="Help"
          load={() => import('../help/HelpPanel.tsx')}
          given={{ onClose: () => setHelp(false) }}
          fallback={null}
        />
      )}
      <LazyPart name="Dropped files" load={() => import('./DroppedFiles.tsx')} fallback={null} without={null} />
      <LazyPart name="Focus" load={() => import('./KeptFocus.tsx')} fallback={null} without={null} />
      <LazyPart name="Explanations" load={() => import('./Explanations.tsx')} fallback={null} without={null} />
    </>
  )
})

/** A part that a key opens could not be loaded. */
const reportMissing = () => notify('This could not be loaded; is the server running?')

/** The shortcuts that work everywhere; `help/shortcuts.ts` lists them for the help panel. */
function useStepKeys(): void {
  const go = useGo()
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event
      const typing =
        target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName))
      if (typing) return
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
        // The browser would undo what was typed last in a field that no longer has the focus.
        event.preventDefault()
        void (event.shiftKey ? redoLast() : undoLast())
      } else if (event.ctrlKey || event.metaKey || event.altKey || !currentPreferences().singleKeys) return
      else if (event.key === '?') setHelp(true)
      else if (event.key === 'm') markNow()
      else if (event.key === 'v')
        void import('../store/variants.ts').then(({ flipVariant }) => flipVariant(), reportMissing)
      else {
        const step = steps[Number(event.key) - 1]
        if (step) go(`/${step.path}`)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [go])
}
