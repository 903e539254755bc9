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
  private sent: number | null = null
  private best: { offsetMs: number; errorMs: number } | null = null
  private samples = 0

  /** A batch has arrived that says what time it was for the app; `rttMs`: what the app measured for the one before. */
  arrived(clockMs: number, atMs: number, rttMs: number | null): void {
    this.samples++
    const offsetMs = atMs - clockMs
    // A batch cannot arrive before it was sent: the least difference is the nearest to the truth.
    this.sent = Math.min(this.sent ?? Infinity, offsetMs)
    if (rttMs !== null && rttMs >= 0 && (this.best === null || rttMs / 2 < this.best.errorMs))
      this.best = { offsetMs: this.sent - rttMs / 2, errorMs: rttMs / 2 }
  }

  get alignment(): ClockAlignment {
    const { best, sent, samples } = this
    return { offsetMs: best?.offsetMs ?? sent, errorMs: best?.errorMs ?? null, samples }
  }
}
