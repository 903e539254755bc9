import { currentProject } from '../store/project-store.ts'
import { currentRuns } from '../store/run-store.ts'
import { currentStorage, isWaiting } from '../store/storage.ts'
import { currentDevice } from '../device/device-store.ts'

/** Whether closing the page now would lose something. */
function wouldLose(): boolean {
  if (currentDevice().mode === 'driving' || currentDevice().simulating || isWaiting()) return true
  const { storage } = currentStorage()
  const keepsNothing = storage.is === 'session' || storage.is === 'outdated'
  return keepsNothing && (currentRuns().list.length > 0 || currentProject()?.saved === 'failed')
}

/** The browser asks before a page is left during a drive, or with unsaved work. */
export function asksBeforeLeaving(): void {
  addEventListener('beforeunload', (event) => {
    if (wouldLose()) event.preventDefault()
  })
}
