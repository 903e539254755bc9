import { unitsPerDp } from '../numbers/units.ts'
import type { Facts } from '../profile/facts/facts.ts'
import { scriptOfRecording, type Sample } from '../scrolling/recording.ts'
import type { Script } from '../project/types.ts'

/** A gesture as it is recovered: the script, its origin, and its uncertainty, dp. */
export interface Gesture {
  script: Script
  from: 'scrolls' | 'binds' | 'order of addresses'
  uncertaintyDp: number
  /** Added to an instant of the run to get that of the script, ms. */
  shiftMs: number
}

/** Longer than this between two orders of magnitude of samples says nothing new, ms. */
const tooClose = 1

/**
 * How the list was moved in a recorded run: from its scrolls, else from the rows that were bound, else from the places
 * in the feed of the addresses that were requested. null: nothing shows it. `feed`: addresses in the order of the feed;
 * `pitchDp`: the distance between rows, `columns` items in each. `feedMs`: how long its feed takes to arrive when it is
 * replayed.
 */
export function recoverGesture(
  facts: Facts,
  feed: { addresses: readonly string[]; columns: number; pitchDp: number },
  feedMs: number,
): Gesture | null {
  const { scrolls, log } = facts
  const name = 'recorded'
  // A script begins when its list is opened: with the first bind, or the first request.
  const opened = Math.min(facts.bindTimes[0] ?? Infinity, facts.requests[0]?.queueT ?? Infinity)
  const shiftMs = feedMs - (opened === Infinity ? 0 : opened / 1000)
  if (scrolls.length > 0) {
    const samples = scrolls.map(({ t, top }) => ({ ms: t / 1000, top: top / unitsPerDp }))
    return {
      script: { name, steps: scriptOfRecording(from0(samples, shiftMs)) },
      from: 'scrolls',
      uncertaintyDp: 0.4,
      shiftMs,
    }
  }
  const { heightDp } = log.head
  const shown = placesOf(facts)
  if (shown.length > 1) {
    const pitch = usualHeight(facts) ?? feed.pitchDp
    const samples = windowTops(
      shown.map(({ t, row }) => ({ ms: t / 1000, top: row * pitch, bottom: (row + 1) * pitch })),
      heightDp,
    )
    return {
      script: { name, steps: scriptOfRecording(from0(samples, shiftMs)) },
      from: 'binds',
      uncertaintyDp: pitch,
      shiftMs,
    }
  }
  const places = new Map(feed.addresses.map((address, index) => [address, index]))
  const asked = facts.requests.flatMap(({ asset, queueT }) => {
    const index = places.get(log.assets[asset]!.address)
    if (index === undefined) return []
    const top = Math.floor(index / feed.columns) * feed.pitchDp
    return [{ ms: queueT / 1000, top, bottom: top + feed.pitchDp }]
  })
  if (asked.length < 2) return null
  const samples = windowTops(asked, heightDp)
  return {
    script: { name, steps: scriptOfRecording(from0(samples, shiftMs)) },
    from: 'order of addresses',
    uncertaintyDp: 2 * feed.pitchDp,
    shiftMs,
  }
}

/** Rows by the instants at which they were bound. */
function placesOf({ bindTimes, bindRows }: Facts): { t: number; row: number }[] {
  return bindTimes.map((t, i) => ({ t, row: bindRows[i]! }))
}

function usualHeight({ places }: Facts): number | null {
  const heights = places.map(({ height }) => height / unitsPerDp).toSorted((one, other) => one - other)
  return heights[heights.length >> 1] ?? null
}

/** Position of the window when rows came in at its edges: the lower one going down, the upper one going up. */
function windowTops(rows: readonly { ms: number; top: number; bottom: number }[], heightDp: number): Sample[] {
  const samples: Sample[] = [{ ms: 0, top: 0 }]
  let last = -Infinity
  for (const { ms, top, bottom } of rows) {
    if (top > last) samples.push({ ms, top: Math.max(0, top - heightDp) })
    else if (top < last) samples.push({ ms, top: Math.max(0, bottom) })
    last = top
  }
  return samples
}

/** A recording begins at the start of the run, and has one position an instant. */
function from0(all: readonly Sample[], shiftMs: number): Sample[] {
  const samples = all.map(({ ms, top }) => ({ ms: Math.max(0, ms + shiftMs), top }))
  const first = samples[0]!
  const out: Sample[] = first.ms > 0 ? [{ ms: 0, top: Math.max(0, first.top) }] : []
  for (const { ms, top } of samples) {
    const sample = { ms, top: Math.max(0, top) }
    const last = out.at(-1)
    if (last && ms - last.ms < tooClose && out.length > 1) out[out.length - 1] = sample
    else out.push(sample)
  }
  return out
}
