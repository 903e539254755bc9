import type { Facts, FrameFact } from '../../facts/facts.ts'
import { movers, type Mover } from '../../../log/event-kinds.ts'
import { ascending, percentile, sum } from '../../figures/numbers.ts'
import { type While } from './while.ts'

export interface FramesLens {
  refreshMs: number
  /** The part of the run, ms. */
  fromMs: number
  endMs: number
  /** Main-thread work of each frame; of very many, the most work in each span of equal length. */
  works: { ms: number; workMs: number }[]
  /** Frames by how many refreshes they were late; the last counts all beyond. */
  late: { refreshes: number; frames: number }[]
  parts: { part: Mover; frames: number; late: number; lateMsPerS: number; workP95: number | null }[]
  worst: { ms: number; lateMs: number; workMs: number; part: Mover; causes: { cause: string; ms: number }[] }[]
}

const lateSteps = 6
const mostWorst = 10

/**
 * Every frame of a run, or of a part of it, against the budget of the device's refresh rate, and the ten latest with
 * their work.
 */
export function framesLens({ frames: all, scrolls, log, endT }: Facts, within: While | null = null): FramesLens {
  const frames = within
    ? all.filter(
        ({ due, presented }) => presented >= Math.round(within.fromMs * 1000) && due <= Math.round(within.toMs * 1000),
      )
    : all
  const fromMs = Math.max(0, within?.fromMs ?? 0)
  const endMs = Math.min(endT / 1000, within?.toMs ?? Infinity)
  const refreshUs = 1e6 / log.head.refreshHz
  const by = new Map(scrolls.map((each) => [each.t, each.by]))
  const lateUs = (frame: FrameFact) => frame.presented - frame.due
  const counts = new Array<number>(lateSteps).fill(0)
  for (const frame of frames) counts[Math.min(lateSteps - 1, Math.round(lateUs(frame) / refreshUs))]!++
  const parted = frames.map((frame) => ({ frame, part: frame.moved ? (by.get(frame.presented) ?? 'rest') : 'rest' }))
  return {
    refreshMs: refreshUs / 1000,
    fromMs,
    endMs,
    works: mostOfEach(frames, fromMs, endMs),
    late: counts.map((count, refreshes) => ({ refreshes, frames: count })),
    parts: movers.map((part) => {
      const own = parted.flatMap((each) => (each.part === part ? [each.frame] : []))
      const seconds = sum(own.map((frame) => frame.presented - frame.begin)) / 1e6
      return {
        part,
        frames: own.length,
        late: own.filter((frame) => lateUs(frame) > 0).length,
        lateMsPerS: seconds === 0 ? 0 : sum(own.map(lateUs)) / 1000 / seconds,
        workP95: percentile(ascending(own.map((frame) => frame.work / 1000)), 0.95),
      }
    }),
    worst: parted
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

/** The most frames that are listed one by one. */
const mostWorks = 600

function mostOfEach(frames: readonly FrameFact[], fromMs: number, endMs: number): FramesLens['works'] {
  const works = frames.map(({ begin, work }) => ({ ms: begin / 1000, workMs: work / 1000 }))
  if (works.length <= mostWorks) return works
  const most = new Map<number, (typeof works)[number]>()
  for (const each of works) {
    const stretch = Math.min(mostWorks - 1, Math.floor(((each.ms - fromMs) / (endMs - fromMs)) * mostWorks))
    if (each.workMs >= (most.get(stretch)?.workMs ?? 0)) most.set(stretch, each)
  }
  return [...most.values()].sort((one, other) => one.ms - other.ms)
}
