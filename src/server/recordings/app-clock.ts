/** What is known of an app's clock against a recording's. */
export interface ClockAlignment {
  /** Recording − app, ms; null: the app's events are told on the recording's own clock. */
  offsetMs: number | null
  /** By how much that may be off, ms; null: nobody has measured it. */
  errorMs: number | null
  samples: number
}

/**
 * Aligns an app's monotonic clock with a recording's. Each batch may tell the app's clock as it is sent, and the round
 * trip of the batch before: what came quickest was held up least, and counts.
 */
export class AppClock {
  private least: number | null = null
  private quickestMs: number | null = null
  private samples = 0

  /** A batch has arrived that says what time it was for the app; `rttMs`: what the app measured for the one before. */
  arrived(clockMs: number, atMs: number, rttMs: number | null): void {
    this.samples++
    // A batch cannot arrive before it was sent: the least difference is the nearest to the truth.
    this.least = Math.min(this.least ?? Infinity, atMs - clockMs)
    if (rttMs !== null && rttMs >= 0) this.quickestMs = Math.min(this.quickestMs ?? Infinity, rttMs)
  }

  get alignment(): ClockAlignment {
    const { least, quickestMs, samples } = this
    const errorMs = quickestMs === null ? null : quickestMs / 2
    return { offsetMs: least === null ? null : least - (errorMs ?? 0), errorMs, samples }
  }
}
