import { useEffect, useState } from 'react'
import { loggedClass } from '../../core/loading/rank.ts'
import { running as isRunning, type Request } from '../../core/loading/request.ts'
import { currentRun } from '../device/device-store.ts'

/** The classes of a request, by number. */
export const classNames = ['on screen', 'coming up', 'just left', 'nobody’s'] as const

/** The rows that wait for a request's picture; one that nobody claims any more has none. */
export const rowName = (row: number | null) => (row === null ? 'no row' : `row ${row}`)

interface InLine {
  id: number
  row: number | null
  /** 0 on screen, 1 coming up, 2 held or just left, 3 all else. */
  class: number
}

interface InSlot extends InLine {
  /** Received of total; null: the total is not known. */
  share: number | null
}

/** The loader of the live device: what is running, the queue in its order, and what was let go a moment ago. */
interface LiveLine {
  running: readonly InSlot[]
  waiting: readonly InLine[]
  fallen: readonly (InLine & { at: number })[]
}

/** The interval at which the device is read, and how long a request that was let go is seen to fall, ms. */
const lookMs = 120
const fallMs = 600
const mostFallen = 8

/** Follows the loader of the live device. The queue is in its own order: the first gets the next free slot. */
export function useLiveLine(): LiveLine {
  const [line, setLine] = useState<LiveLine>({ running: [], waiting: [], fallen: [] })
  useEffect(() => {
    let known: readonly { request: Request; place: InLine }[] = []
    const timer = setInterval(() => {
      const now = performance.now()
      // A request that was let go has no claims any more: it falls from where it was last seen.
      const dropped = known
        .filter(({ request }) => request.state === 'cancelled')
        .map(({ place }) => ({ ...place, at: now }))
      const run = currentRun()
      const all = run?.run.loader.ranked() ?? []
      known = all.filter(({ state }) => state !== 'decoding').map((request) => ({ request, place: placeOf(request) }))
      setLine((before) => {
        const fallen = [...before.fallen.filter(({ at }) => now - at < fallMs), ...dropped].slice(-mostFallen)
        const running = all.filter(isRunning).map((request) => ({
          ...placeOf(request),
          share: request.total ? run!.received(request.transfer) / request.total : null,
        }))
        const waiting = all.filter(({ state }) => state === 'queued').map(placeOf)
        // Most of the time nothing happens: then nothing is drawn.
        const still = [fallen, running, waiting, before.fallen, before.running, before.waiting].every(
          ({ length }) => length === 0,
        )
        return still ? before : { running: running.sort((one, other) => one.id - other.id), waiting, fallen }
      })
    }, lookMs)
    return () => clearInterval(timer)
  }, [])
  return line
}

const placeOf = (request: Request): InLine => ({
  id: request.id,
  row: request.claims[0]?.row ?? null,
  class: loggedClass(request),
})
