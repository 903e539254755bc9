import type { Step } from '../project/types.ts'

/** Position of the list under a hand: ms since the recording began, dp. */
export interface Sample {
  ms: number
  top: number
}

/** A replay may differ from the recording by this much, dp. */
const toleranceDp = 0.4
/** Steps are written to the µs and to a thousandth of a dp. */
const fine = (value: number) => Math.round(value * 1000) / 1000

/** A visit begins before its feed is there, while the hand had a list with pictures already: the wait for that, ms. */
const feedWaitMs = 1500

/**
 * A hand's recording as a script. It waits for the feed, however long that takes; where the hand paused it pauses.
 * `top`: position of the list when the recording began, dp; `samples`: the frames that moved it; `frameMs`: the
 * duration of a frame.
 */
export function scriptOfHand(top: number, samples: readonly Sample[], frameMs: number): Step[] {
  const all: Sample[] = [{ ms: 0, top }]
  for (const sample of samples) {
    const last = all.at(-1)!
    // Frames that do not move the list are not logged: it was at rest until the frame before this one.
    if (sample.ms - last.ms > 1.5 * frameMs) all.push({ ms: sample.ms - frameMs, top: last.top })
    all.push(sample)
  }
  return [{ do: 'wait', ms: feedWaitMs }, { do: 'to', where: 'start', dpPerS: 1000 }, ...scriptOfRecording(all)]
}

/**
 * A recorded gesture as a script: straight drags between those samples that describe it to within the tolerance, so
 * that it replays the same on any device, whatever its flicks do. Rest becomes a wait. It begins with a move to the
 * hand's first position, when that is not the top.
 */
export function scriptOfRecording(samples: readonly Sample[]): Step[] {
  const first = samples[0]
  if (!first) return []
  const kept = simplify(samples)
  const steps: Step[] = first.top === 0 ? [] : [{ do: 'drag', dp: fine(first.top), ms: 0 }]
  for (const [i, at] of kept.slice(1).entries()) {
    const from = kept[i]!
    const dp = fine(at.top) - fine(from.top)
    const ms = fine(at.ms) - fine(from.ms)
    if (Math.abs(dp) < 0.0005) steps.push({ do: 'wait', ms: fine(ms) })
    else steps.push({ do: 'drag', dp: fine(dp), ms: fine(ms) })
  }
  return steps
}

/**
 * Keeps the samples between which straight lines are near all others (Douglas–Peucker algorithm, without recursion).
 */
function simplify(samples: readonly Sample[]): Sample[] {
  const keep = new Uint8Array(samples.length)
  keep[0] = 1
  keep[samples.length - 1] = 1
  const open: [number, number][] = [[0, samples.length - 1]]
  for (let span = open.pop(); span; span = open.pop()) {
    const [from, to] = span
    const [a, b] = [samples[from]!, samples[to]!]
    let worst: number | null = null
    let most = toleranceDp
    for (let i = from + 1; i < to; i++) {
      const { ms, top } = samples[i]!
      const straight = b.ms === a.ms ? a.top : a.top + ((b.top - a.top) * (ms - a.ms)) / (b.ms - a.ms)
      const off = Math.abs(top - straight)
      if (off <= most) continue
      most = off
      worst = i
    }
    if (worst === null) continue
    keep[worst] = 1
    open.push([from, worst], [worst, to])
  }
  return samples.filter((_, i) => keep[i] === 1)
}
