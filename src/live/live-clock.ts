import { TimerClock } from '../core/worlds/timer-clock.ts'
import type { Us } from '../core/worlds/ports.ts'

/** The browser's clock as the core's port: whole µs since the visit began. */
export class LiveClock extends TimerClock<ReturnType<typeof setTimeout>> {
  constructor() {
    super({
      now: () => performance.now(),
      set: (run, ms) => setTimeout(run, ms),
      clear: (timer) => clearTimeout(timer),
    })
  }

  /** An instant of the page's clock, ms, as an instant of the visit. */
  fromPage(ms: number): Us {
    return Math.max(0, Math.round((ms - this.origin) * 1000))
  }

  private heldAt: Us | null = null

  /** The visit's time is paused. */
  hold(): void {
    this.heldAt ??= super.now()
  }

  /** Time continues from where it was. */
  goOn(): void {
    if (this.heldAt === null) return
    this.origin += (super.now() - this.heldAt) / 1000
    this.heldAt = null
  }

  override now(): Us {
    return this.heldAt ?? super.now()
  }
}
