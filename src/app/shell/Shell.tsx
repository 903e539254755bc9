import { useEffect } from 'react'
import Alert from 'react-bootstrap/Alert'
import { Outlet, useLocation, useNavigate } from 'react-router'
import { useFollowHand } from '../simulate/follow-hand.ts'
import { flipVariant, tell, undoLast, useProject } from '../store/project-store.ts'
import { followRuns } from '../store/run-store.ts'
import { DevicePanel } from './DevicePanel.tsx'
import { markNow, useDevice } from './device-store.ts'
import { StepBoundary } from './StepBoundary.tsx'
import { steps } from './steps.ts'
import { Strip } from './Strip.tsx'
import { TowLine } from './TowLine.tsx'

/** The frame of the whole: tow line, device, the step's panel, and the strip beneath. */
export function Shell() {
  const state = useProject()
  const device = useDevice()
  const { pathname } = useLocation()
  useStepKeys()
  useFollowHand(state, device.screen)
  const id = state?.id
  useEffect(() => {
    if (id) followRuns(id)
  }, [id])
  const hasStrip = /^\/(cell|loading|drive)/.test(pathname)
  return (
    <div className="tt-shell" data-strip={hasStrip ? '' : undefined}>
      <TowLine />
      <DevicePanel />
      <main className="tt-panel">
        {state?.notice && (
          <Alert variant="warning" dismissible onClose={() => tell(null)} className="tt-notice">
            {state.notice}
          </Alert>
        )}
        <StepBoundary key={pathname.split('/')[1]}>{state && <Outlet />}</StepBoundary>
      </main>
      {hasStrip && <Strip />}
    </div>
  )
}

/** Keys 1–7 go to the steps; v flips the variant, m marks the moment; Ctrl or Cmd with z takes the last change back. */
function useStepKeys(): void {
  const navigate = useNavigate()
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event
      const typing =
        target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName))
      if (typing) return
      if ((event.ctrlKey || event.metaKey) && event.key === 'z') undoLast()
      else if (event.key === 'm' && !event.ctrlKey && !event.metaKey && !event.altKey) markNow()
      else if (event.key === 'v' && !event.ctrlKey && !event.metaKey && !event.altKey) flipVariant()
      else if (!event.ctrlKey && !event.metaKey && !event.altKey) {
        const step = steps[Number(event.key) - 1]
        if (step) void navigate(`/${step.path}`)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [navigate])
}
