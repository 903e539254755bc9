import { useEffect, useState } from 'react'
import { whyBlank } from '../../core/watch/blank-screen.ts'
import { ReadoutReader, type Readout } from '../../core/watch/readout.ts'
import type { LiveRun } from '../../live/live-run.ts'
import { currentRun } from './device-store.ts'

/** How often the live run is looked at, ms. */
const lookMs = 200
/** How long a screen stays blank before the reason is shown, ms. */
const patienceMs = 1500

let watched: { run: LiveRun; reader: ReadoutReader; blankSinceMs: number | null } | null = null

function readDevice(): { readout: Readout; why: string | null } | null {
  const run = currentRun()
  if (!run) return null
  if (watched?.run !== run) watched = { run, reader: new ReadoutReader(run.log), blankSinceMs: null }
  const why = whyBlank(run.run)
  const now = run.nowMs()
  watched.blankSinceMs = why === null ? null : (watched.blankSinceMs ?? now)
  return {
    readout: watched.reader.now(),
    why: watched.blankSinceMs !== null && now - watched.blankSinceMs >= patienceMs ? why : null,
  }
}

/** What the live device is doing, in figures while the finger moves; and the reason when nothing is visible. */
export default function DeviceReadout({ on }: { on: boolean }) {
  const [now, setNow] = useState<ReturnType<typeof readDevice>>(null)
  useEffect(() => {
    const timer = setInterval(() => {
      const seen = readDevice()
      setNow(seen)
      if (!on || !seen) return
      for (const cell of document.querySelectorAll<HTMLElement>('.tt-glass .tt-cell[data-cell]'))
        cell.dataset.tier = seen.readout.tiers.get(Number(cell.dataset.cell)) ?? ''
    }, lookMs)
    return () => clearInterval(timer)
  }, [on])
  if (!now) return null
  const { created, bound, inFlight, late, frames } = now.readout
  return (
    <>
      {now.why && (
        <div className="tt-feed-sign" role="status" data-is="blank">
          {now.why}
        </div>
      )}
      {on && (
        <dl className="tt-readout" aria-label="Readout">
          {(
            [
              ['created', created],
              ['bound', bound],
              ['in flight', inFlight],
              ['late', `${late} of ${frames}`],
            ] as const
          ).map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      )}
    </>
  )
}
