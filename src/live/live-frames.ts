import { workCauses, type Frames, type Us, type WorkCause } from '../core/worlds/ports.ts'
import type { Gate } from './gate.ts'
import type { LiveClock } from './live-clock.ts'

const numberOf = Object.fromEntries(workCauses.map((cause, number) => [cause, number])) as Record<WorkCause, number>

/**
 * Frames on requestAnimationFrame. Work is measured: the time since the last mark belongs to the cause that is logged.
 * A frame is presented at the next timestamp, counted in whole refreshes.
 */
export class LiveFrames implements Frames {
  private readonly clock: LiveClock
  private readonly gate: Gate
  private readonly interval: Us
  private run: (begin: Us) => void = () => undefined
  /** The frame that is asked for. */
  private handle: number | null = null
  private stopped = false
  private wanted = false
  private mark = 0
  private readonly sums = new Float64Array(workCauses.length)
  private shown: {
    begin: Us
    report: (due: Us, presented: Us, work: Float64Array) => void
    work: Float64Array
  } | null = null

  private readonly finish: () => void
  private readonly afterEach: () => void

  /** `finish` does the last of a frame's work; `afterEach` runs after every frame callback, idle ones too. */
  constructor(
    clock: LiveClock,
    gate: Gate,
    refreshHz: number,
    { finish, afterEach }: { finish: () => void; afterEach: () => void },
  ) {
    this.gate = gate
    this.finish = finish
    this.clock = clock
    this.interval = 1e6 / refreshHz
    this.afterEach = afterEach
  }

  onFrame(run: (begin: Us) => void): void {
    this.run = run
  }

  request(): void {
    this.wanted = true
    this.schedule()
  }

  work(cause: WorkCause): void {
    const now = performance.now()
    this.sums[numberOf[cause]]! += (now - this.mark) * 1000
    this.mark = now
  }

  spent(cause: WorkCause): void {
    this.work(cause)
  }

  end(afterWork: () => void, presented: (due: Us, presented: Us, work: Float64Array) => void): void {
    this.finish()
    this.work('frame')
    afterWork()
    this.shown = { begin: this.begin, report: presented, work: this.sums.slice() }
    this.schedule()
  }

  stop(): void {
    if (this.handle !== null) cancelAnimationFrame(this.handle)
    this.stopped = true
    this.run = () => undefined
  }

  /** The gate is open again: a frame that had to wait is made. */
  goOn(): void {
    if (!this.missed) return
    this.missed = false
    this.schedule()
  }

  private missed = false
  private begin: Us = 0

  private schedule(): void {
    if (this.handle === null && !this.stopped)
      this.handle = requestAnimationFrame((timestamp) => this.refresh(timestamp))
  }

  private refresh(timestamp: number): void {
    this.handle = null
    if (this.gate.closed) {
      this.missed = true
      return
    }
    const begin = this.clock.fromPage(timestamp)
    this.present(begin)
    this.gate.look()
    if (this.gate.closed) {
      // It stopped at what the frame before has shown.
      this.missed = true
      return
    }
    if (this.wanted) {
      this.wanted = false
      this.begin = begin
      this.sums.fill(0)
      this.mark = performance.now()
      this.run(begin)
      this.gate.look()
    }
    this.afterEach()
  }

  private present(now: Us): void {
    const { shown } = this
    if (!shown) return
    this.shown = null
    const refreshes = Math.max(1, Math.round((now - shown.begin) / this.interval))
    const at = (count: number) => Math.round(shown.begin + count * this.interval)
    shown.report(at(1), at(refreshes), shown.work)
  }
}
