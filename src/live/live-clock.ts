import { TimerClock } from '../core/worlds/timer-clock.ts'
import type { Us } from '../core/worlds/ports.ts'

/** The browser's clock as the core's port: whole µs since the visit began. */
export class LiveClock extends TimerClock<ReturnType<typeof setTimeout>> {
  constructor() {
    super({ now: () => performance.now(), set: (run, ms) => setTimeout(run, ms), clear: (timer) => clearTimeout(timer) })
  }

  /** An instant of the page's clock, ms, as an instant of the visit. */
  fromPage(ms: number): Us {
    return Math.max(0, Math.round((ms - this.origin) * 1000))
  }
}
