import { K } from '../core/log/event-kinds.ts'
import { RunLog } from '../core/log/run-log.ts'
import type { Us } from '../core/worlds/ports.ts'

/**
 * The log of a live run. The browser calls back some ms after the refresh that a frame is reported for, and what
 * arrived in between is in the log already: the frame is then logged at the instant of the last of it, so that events
 * stay in the order of their instants. How late it was and its cost are durations, and stay as they were measured; by
 * how much the frame is logged later than it was presented is logged with it.
 */
export class LiveLog extends RunLog {
  override row(kind: number, t: Us, a = 0, b = 0, c = 0, d = 0, x = 0): void {
    const at = Math.max(t, this.endTime)
    super.row(kind, at, a, b, c, kind === K.frame ? at - t : d, x)
  }
}
