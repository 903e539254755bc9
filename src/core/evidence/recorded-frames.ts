import type { AppEvent } from './app-event.ts'
import type { EvidenceEvent } from './evidence.ts'

type Frame = Extract<AppEvent, { event: 'frame' }>

const usualHz = 60
const known = [24, 30, 48, 60, 72, 90, 120, 144, 165, 240]
/** A longer gap is a list at rest, not a late frame, where no due times are reported. */
const restMs = 1000
/** A frame that moves the list by less is one of the last before it rests, dp. */
const leastMoveDp = 1
/** A scroll is shown by the first frame within this. */
const soonMs = 100

/** The refresh rate of the frames: from the shortest common gap between them. */
export function refreshOf(events: readonly EvidenceEvent[]): number {
  const frames = events.filter((event) => event.event === 'frame').map(({ presentedMs }) => presentedMs)
  const gaps = frames
    .toSorted((one, other) => one - other)
    .flatMap((at, i, all) => (i === 0 || at - all[i - 1]! < 2 ? [] : [at - all[i - 1]!]))
    .toSorted((one, other) => one - other)
  if (gaps.length < 5) return usualHz
  const hz = 1000 / gaps[Math.floor(gaps.length / 3)]!
  const near = known.reduce((best, each) => (Math.abs(each - hz) < Math.abs(best - hz) ? each : best))
  return Math.abs(near - hz) / near < 0.12 ? near : Math.max(1, Math.round(hz))
}

/** When frames began and were due, and which of them shows a scroll. All in ms. */
export class FrameTimes {
  readonly intervalMs: number
  private readonly presented: number[]
  /** Frames that move the list, where scrolls are reported. */
  private readonly moving = new Set<number>()
  private readonly knowsMoves: boolean
  /** The place of each frame among the events. */
  private readonly orders = new Map<number, number>()

  constructor(events: readonly EvidenceEvent[], refreshHz: number) {
    this.intervalMs = 1000 / refreshHz
    for (const [order, event] of events.entries())
      if (event.event === 'frame') this.orders.set(event.presentedMs, order)
    this.presented = [...this.orders.keys()].sort((one, other) => one - other)
    let top: number | null = null
    for (const event of events) {
      if (event.event !== 'scroll') continue
      const shown = this.frameAfter(event.t)
      if (shown && top !== null && Math.abs(event.topDp - top) >= leastMoveDp) this.moving.add(shown.presentedMs)
      top = event.topDp
    }
    this.knowsMoves = top !== null
  }

  /** The first frame presented at an instant or soon after; null: there is none. */
  frameAfter(ms: number): { presentedMs: number; order: number } | null {
    const at = this.indexAtOrAfter(ms)
    const presentedMs = this.presented[at]
    if (presentedMs === undefined || presentedMs - ms > soonMs) return null
    return { presentedMs, order: this.orders.get(presentedMs)! }
  }

  of({ presentedMs, dueMs, beginMs }: Frame): { due: number; begin: number } {
    const due = dueMs ?? (beginMs === undefined ? this.dueByGap(presentedMs) : beginMs + this.intervalMs)
    // A frame that is early is in time.
    const inTime = Math.max(0, Math.min(due, presentedMs))
    return { due: inTime, begin: Math.max(0, beginMs ?? inTime - this.intervalMs) }
  }

  /** By the gap to the frame before, in whole refreshes: clocks of frames are not exact. */
  private dueByGap(presentedMs: number): number {
    const before = this.presented[this.indexAtOrAfter(presentedMs) - 1]
    if (before === undefined || presentedMs - before > restMs) return presentedMs
    // A list at rest requests no frame: one was due only between two that move it.
    if (this.knowsMoves && !(this.moving.has(before) && this.moving.has(presentedMs))) return presentedMs
    const late = Math.max(0, Math.round((presentedMs - before) / this.intervalMs) - 1)
    return presentedMs - late * this.intervalMs
  }

  private indexAtOrAfter(ms: number): number {
    let low = 0
    let high = this.presented.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.presented[middle]! < ms) low = middle + 1
      else high = middle
    }
    return low
  }
}
