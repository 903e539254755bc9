import type { Clock, Us } from '../core/worlds/ports.ts'

/** The browser's clock as the core's port: whole µs since the visit began. */
export class LiveClock implements Clock {
  private readonly origin = performance.now()
  private readonly timers = new Map<number, ReturnType<typeof setTimeout>>()
  private last = 0

  now(): Us {
    return this.fromPage(performance.now())
  }

  /** An instant of the page's clock, ms, as an instant of the visit. */
  fromPage(ms: number): Us {
    return Math.max(0, Math.round((ms - this.origin) * 1000))
  }

  at(time: Us, run: () => void): number {
    const id = ++this.last
    const timer = setTimeout(() => {
      this.timers.delete(id)
      run()
    }, Math.max(0, (time - this.now()) / 1000))
    this.timers.set(id, timer)
    return id
  }

  cancel(id: number): void {
    clearTimeout(this.timers.get(id))
    this.timers.delete(id)
  }

  stop(): void {
    for (const timer of this.timers.values()) clearTimeout(timer)
    this.timers.clear()
  }
}
