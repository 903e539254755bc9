import type { Clock, Us } from '../../core/worlds/ports.ts'

/** The machine's clock as the core's port: whole µs since it was made. */
export class RealClock implements Clock {
  private readonly start = performance.now()
  private readonly timers = new Map<number, NodeJS.Timeout>()
  private last = 0

  now(): Us {
    return Math.round((performance.now() - this.start) * 1000)
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

  /** Forgets everything that was to come. */
  stop(): void {
    for (const timer of this.timers.values()) clearTimeout(timer)
    this.timers.clear()
  }
}
