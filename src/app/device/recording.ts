import { EventReader } from '../../core/log/event-reader.ts'
import { unitsPerDp } from '../../core/numbers/units.ts'
import type { Step } from '../../core/project/types.ts'
import { scriptOfRecording, type Sample } from '../../core/scrolling/recording.ts'
import type { LiveRun } from '../../live/live-run.ts'
import { createStore } from '../store/external-store.ts'
import { currentRun } from './device-store.ts'

/** A drive begins before its feed is there, and the hand had a list already: so long it waits, ms. */
const feedWaitMs = 1500

/** The run under the hand and where in it the recording began; null: nothing is recorded. */
const store = createStore<{ run: LiveRun; ms: number; event: number } | null>(null)
export const useRecording = () => store.use((recording) => recording !== null)

/** Records the hand on the live device from now on. */
export function startRecording(): void {
  const run = currentRun()
  if (run?.hand) store.set({ run, ms: run.nowMs(), event: run.log.count })
}

/** Ends the recording: the gesture as steps of a script; null when the hand did nothing, or its list is not there any more. */
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
  return [{ do: 'wait', ms: feedWaitMs }, ...scriptOfRecording([{ ms: 0, top: samples[0]!.top }, ...samples])]
}
