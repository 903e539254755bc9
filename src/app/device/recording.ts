import { EventReader } from '../../core/log/event-reader.ts'
import { unitsPerDp } from '../../core/numbers/units.ts'
import type { Step } from '../../core/project/types.ts'
import { scriptOfHand, type Sample } from '../../core/scrolling/recording.ts'
import type { LiveRun } from '../../live/live-run.ts'
import { createStore } from '../store/external-store.ts'
import { currentRun } from './device-store.ts'

/** The run under the hand, when the recording began, and where its list was, dp; null: nothing is recorded. */
const store = createStore<{ run: LiveRun; ms: number; event: number; top: number } | null>(null)
export const useRecording = () => store.use((recording) => recording !== null)

/** Records the hand on the live device from now on. */
export function startRecording(): void {
  const run = currentRun()
  if (run?.hand) store.set({ run, ms: run.nowMs(), event: run.log.count, top: run.hand.topDp })
}

/**
 * Ends the recording and returns the gesture as steps of a script; null when the hand did nothing, or its list is gone.
 */
export function stopRecording(): Step[] | null {
  const from = store.get()
  store.set(null)
  if (!from || currentRun() !== from.run) return null
  const samples: Sample[] = []
  const { log } = from.run
  new EventReader(log, {
    scroll: ({ t, top }) => samples.push({ ms: t / 1000 - from.ms, top: top / unitsPerDp }),
  }).read(from.event, log.count)
  if (samples.length === 0) return null
  return scriptOfHand(from.top, samples, 1000 / log.head.refreshHz)
}
