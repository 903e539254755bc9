import { TimerClock } from '../../core/worlds/timer-clock.ts'

/** The machine's clock as the core's port. */
export class RealClock extends TimerClock<NodeJS.Timeout> {
  constructor() {
    super({
      now: () => performance.now(),
      set: (run, ms) => setTimeout(run, ms),
      clear: (timer) => clearTimeout(timer),
    })
  }
}
