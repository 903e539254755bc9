import type { Clock, Us } from './ports.ts'

/** A machine's own clock and timers, handed in: the core has none. */
export interface Timers<T> {
  /** ms on a clock that never goes back. */
  now: () => number
  set: (run: () => void, ms: number) => T
  clear: (timer: T | undefined) => void
}

/** A real clock as the core's port: whole µs since it was made. */
export class TimerClock<T> implements Clock {
  protected origin: number
  private readonly timers: Timers<T>
  private readonly running = new Map<number, T>()
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
    const timer = this.timers.set(
      () => {
        this.running.delete(id)
        run()
      },
      Math.max(0, (time - this.now()) / 1000),
    )
    this.running.set(id, timer)
    return id
  }

  cancel(id: number): void {
    this.timers.clear(this.running.get(id))
    this.running.delete(id)
  }

  /** Forgets everything that was to come. */
  stop(): void {
    for (const timer of this.running.values()) this.timers.clear(timer)
    this.running.clear()
  }
}
