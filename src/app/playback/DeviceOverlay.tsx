import { useRuns, useRunLog } from '../store/run-store.ts'
import PlayedDevice from './PlayedDevice.tsx'
import { usePlayed } from './playback-store.ts'

/** Over the live list while a run is played back. */
export default function DeviceOverlay({ scale }: { scale: number }) {
  const played = usePlayed()
  const run = useRuns().list.find(({ id }) => id === played?.run)
  const kept = useRunLog(run?.id)
  if (!played || !run || !kept) return null
  return (
    <div className="tt-played-over">
      <PlayedDevice run={run} kept={kept} ms={played.ms} scale={scale} />
    </div>
  )
}
