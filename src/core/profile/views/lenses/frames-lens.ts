import type { Facts, FrameFact } from '../../facts/facts.ts'
import { movers, type Mover } from '../../../log/event-kinds.ts'
import { ascending, percentile, sum } from '../../figures/numbers.ts'
import { type While } from './while.ts'

export interface FramesLens {
  refreshMs: number
  /** Frames by how many refreshes they came late; the last takes all beyond. */
  late: { refreshes: number; frames: number }[]
  parts: { part: Mover; frames: number; late: number; lateMsPerS: number; workP95: number | null }[]
  worst: { ms: number; lateMs: number; workMs: number; part: Mover; causes: { cause: string; ms: number }[] }[]
}

const lateSteps = 6
const mostWorst = 10

/** Every frame of a run, or of a while of it, against the budget of the device's refresh rate, and the ten that came latest with what they did. */
export function framesLens({ frames: all, scrolls, log }: Facts, within: While | null = null): FramesLens {
  const frames = within
    ? all.filter(
        ({ due, presented }) => presented >= Math.round(within.fromMs * 1000) && due <= Math.round(within.toMs * 1000),
      )
    : all
  const refreshUs = 1e6 / log.head.refreshHz
  const by = new Map(scrolls.map((each) => [each.t, each.by]))
  const lateUs = (frame: FrameFact) => frame.presented - frame.due
  const counts = new Array<number>(lateSteps).fill(0)
  for (const frame of frames) counts[Math.min(lateSteps - 1, Math.round(lateUs(frame) / refreshUs))]!++
  const told = frames.map((frame) => ({ frame, part: frame.moved ? (by.get(frame.presented) ?? 'rest') : 'rest' }))
  return {
    refreshMs: refreshUs / 1000,
    late: counts.map((count, refreshes) => ({ refreshes, frames: count })),
    parts: movers.map((part) => {
      const own = told.flatMap((each) => (each.part === part ? [each.frame] : []))
      const seconds = sum(own.map((frame) => frame.presented - frame.begin)) / 1e6
      return {
        part,
        frames: own.length,
        late: own.filter((frame) => lateUs(frame) > 0).length,
        lateMsPerS: seconds === 0 ? 0 : sum(own.map(lateUs)) / 1000 / seconds,
        workP95: percentile(ascending(own.map((frame) => frame.work / 1000)), 0.95),
      }
    }),
    worst: told
      .toSorted(
        (one, other) =>
          lateUs(other.frame) - lateUs(one.frame) ||
          other.frame.work - one.frame.work ||
          one.frame.due - other.frame.due,
      )
      .slice(0, mostWorst)
      .map(({ frame, part }) => ({
        ms: frame.due / 1000,
        lateMs: lateUs(frame) / 1000,
        workMs: frame.work / 1000,
        part,
        causes: [...frame.causes]
          .map(([cause, us]) => ({ cause, ms: us / 1000 }))
          .sort((one, other) => other.ms - one.ms),
      })),
  }
}
