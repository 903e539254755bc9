import type { Clock, Us } from './ports.ts'

/** A machine's own clock and timers, passed in: the core has none. */
export interface Timers<T> {
  /** ms on a clock that never goes back. */
  now: () => number
  set: (run: () => void, ms: number) => T
  clear: (timer: T | undefined) => void
}

interface Due {
  id: number
  time: Us
  run: () => void
}

/**
 * A real clock as the core's port: whole µs since it was made. One of the machine's timers serves all that is due: most
 * of it is due with other things, and each timer costs a frame some µs.
 */
export class TimerClock<T> implements Clock {
  protected origin: number
  private readonly timers: Timers<T>
  /** The pending callbacks, in order. */
  private readonly due: Due[] = []
  /** The machine's timer, and its instant. */
  private timer: { handle: T; time: Us } | null = null
  private last = 0

  constructor(timers: Timers<T>) {
    this.timers = timers
    this.origin = timers.now()
  }

  now(): Us {
    return Math.round((this.timers.now() - this.origin) * 1000)
  }

  at(time: Us, run: () => void): number {
    const id = ++this.last
    let place = this.due.length
    while (place > 0 && this.due[place - 1]!.time > time) place--
    this.due.splice(place, 0, { id, time, run })
    if (place === 0) this.set()
    return id
  }

  cancel(id: number): void {
    const place = this.due.findIndex((each) => each.id === id)
    if (place < 0) return
    this.due.splice(place, 1)
    if (place === 0) this.set()
  }

  /** Cancels everything that is pending. */
  stop(): void {
    this.due.length = 0
    this.set()
  }

  /** Sets the machine's timer to the next callback. */
  private set(): void {
    const next = this.due[0]
    if (this.timer?.time === next?.time) return
    if (this.timer) this.timers.clear(this.timer.handle)
    this.timer = null
    if (!next) return
    const ms = Math.max(0, (next.time - this.now()) / 1000)
    this.timer = { handle: this.timers.set(() => this.ring(next.time), ms), time: next.time }
  }

  /** Runs what is due by now; what is added meanwhile waits for the next time. */
  private ring(time: Us): void {
    this.timer = null
    const now = Math.max(time, this.now())
    const last = this.last
    try {
      for (let next = this.due[0]; next && next.time <= now && next.id <= last; next = this.due[0]) {
        this.due.shift()
        next.run()
      }
    } finally {
      this.set()
    }
  }
}
