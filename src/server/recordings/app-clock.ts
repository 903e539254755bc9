/** What is known of an app's clock against a recording's. */
export interface ClockAlignment {
  /** Recording − app, ms; null: the app's events are on the recording's own clock. */
  offsetMs: number | null
  /** The uncertainty of that, ms; null: it was not measured. */
  errorMs: number | null
  samples: number
}

/**
 * Aligns an app's monotonic clock with a recording's. Each batch may state the app's clock as it is sent, and the round
 * trip of the batch before: the quickest was held up least, and counts. Where every batch was held up, requests give a
 * better bound: none is answered before the app has started it.
 */
export class AppClock {
  private least: number | null = null
  private quickestMs: number | null = null
  private samples = 0
  /** When each address was first started, on the app's clock, and first requested, on the recording's; ms. */
  private readonly started = new Map<string, number>()
  private readonly asked = new Map<string, number>()
  /** The least time between the two; null: to be computed again. */
  private latest: number | null = null

  /** A batch has arrived that states the app's time; `rttMs`: what the app measured for the one before. */
  arrived(clockMs: number, atMs: number, rttMs: number | null): void {
    this.samples++
    // A batch cannot arrive before it was sent: the least difference is the nearest to the truth.
    this.least = Math.min(this.least ?? Infinity, atMs - clockMs)
    if (rttMs !== null && rttMs >= 0) this.quickestMs = Math.min(this.quickestMs ?? Infinity, rttMs)
    this.latest = null
  }

  /** The app reports that it has started to load an address. */
  starts(address: string, clockMs: number): void {
    this.started.set(address, Math.min(this.started.get(address) ?? Infinity, clockMs))
    this.latest = null
  }

  /** A request for an address has come in. */
  asks(address: string, atMs: number): void {
    this.asked.set(address, Math.min(this.asked.get(address) ?? Infinity, atMs))
    this.latest = null
  }

  get alignment(): ClockAlignment {
    const { least, quickestMs, samples } = this
    if (least === null || quickestMs === null) return { offsetMs: least, errorMs: null, samples }
    // Closer together than the quickest round trip allows means different requests: an app need not report each one
    // that it starts.
    this.latest ??= this.leastWait(least - quickestMs)
    return { offsetMs: Math.min(least - quickestMs / 2, this.latest), errorMs: quickestMs / 2, samples }
  }

  private leastWait(from: number): number {
    let wait = Infinity
    for (const [address, clockMs] of this.started) {
      const difference = (this.asked.get(address) ?? Infinity) - clockMs
      if (difference >= from) wait = Math.min(wait, difference)
    }
    return wait
  }
}
