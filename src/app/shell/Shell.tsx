import { Fragment, useEffect } from 'react'
import { Outlet, useLocation } from 'react-router'
import { useFollowHand } from '../simulate/follow-hand.ts'
import { redoLast, undoLast } from '../store/history.ts'
import { flipVariant, useProject } from '../store/project-store.ts'
import { followRuns } from '../store/run-store.ts'
import { useStorage } from '../store/storage.ts'
import { useAddressedProject, useGo, withinProject } from './address.ts'
import { DevicePanel } from '../device/DevicePanel.tsx'
import { markNow, useDevice } from '../device/device-store.ts'
import { LazyPart } from './LazyPart.tsx'
import { steps } from './steps.ts'
import { TowLine } from './TowLine.tsx'
import { useDroppedFiles } from './dropped-files.ts'

/** The frame of the whole: tow line, device, the step's panel, and the strip beneath. */
export function Shell() {
  const { storage, generation } = useStorage()
  // What was read from a database that another has taken the place of is read again.
  return <Frame key={generation} ready={storage.is !== 'opening'} />
}

function Frame({ ready }: { ready: boolean }) {
  const state = useProject()
  const screen = useDevice(({ screen }) => screen)
  const place = withinProject(useLocation().pathname)
  const missing = useAddressedProject(ready)
  useStepKeys()
  useDroppedFiles()
  useFollowHand(state, screen)
  const id = state?.id
  useEffect(() => {
    if (id) followRuns(id)
  }, [id])
  const hasStrip = /^\/(cell|loading|drive)/.test(place)
  return (
    <div className="tt-shell" data-strip={hasStrip ? '' : undefined}>
      <TowLine />
      <DevicePanel />
      <main className="tt-panel">
        <LazyPart name="Notices" load={() => import('./Notices.tsx')} meanwhile={null} />
        {!ready && <p className="tt-quiet">Opening what this browser keeps…</p>}
        {missing ? (
          <LazyPart
            name="Missing project"
            load={() => import('./MissingProject.tsx')}
            meanwhile={null}
            without={<p role="alert">{missing.why}</p>}
          />
        ) : (
          state && (
            <Fragment key={state.id}>
              <Outlet />
            </Fragment>
          )
        )}
      </main>
      <LazyPart name="Explanations" load={() => import('./Explanations.tsx')} meanwhile={null} without={null} />
      {hasStrip && (
        <LazyPart name="Strip" load={() => import('./Strip.tsx')} meanwhile={<section className="tt-strip" />} />
      )}
    </div>
  )
}

/** Keys 1–7 go to the steps; v flips the variant, m marks the moment; Ctrl or Cmd with z takes the last change back, with Shift does it again. */
function useStepKeys(): void {
  const go = useGo()
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event
      const typing =
        target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName))
      if (typing) return
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z')
        void (event.shiftKey ? redoLast() : undoLast())
      else if (event.ctrlKey || event.metaKey || event.altKey) return
      else if (event.key === 'm') markNow()
      else if (event.key === 'v') flipVariant()
      else {
        const step = steps[Number(event.key) - 1]
        if (step) go(`/${step.path}`)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [go])
}
