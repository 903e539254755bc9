import type { Device } from '../../project/types.ts'
import { workCauses, type Frames, type Us, type WorkCause } from '../ports.ts'
import type { VirtualClock } from './virtual-clock.ts'

const numberOf = Object.fromEntries(workCauses.map((cause, number) => [cause, number])) as Record<WorkCause, number>

/**
 * The main thread of the virtual world. Refresh k falls at round(k × 10⁶ ÷ Hz) µs; a frame begins at the first refresh
 * at which the thread is free and takes the sum of its work. due = begin + one interval, presented = the first refresh
 * ≥ max(due, end of work). Frames that are not requested do not happen.
 */
export class VirtualFrames implements Frames {
  /** When the next frame begins, Infinity when none is requested. */
  next: Us = Infinity
  private readonly clock: VirtualClock
  private readonly hz: number
  private readonly costs: Device['costs']
  private readonly speed: number
  private readonly everyRefresh: boolean
  private run: (begin: Us) => void = () => undefined
  private freeAt: Us = 0
  private lastRefresh = -1
  /** Work sums of presented frames, to be filled again. */
  private readonly spare: Float64Array[] = []
  private readonly sums = new Float64Array(workCauses.length)

  /** `everyRefresh`: idle frames happen too, for the test that they change nothing. */
  constructor(clock: VirtualClock, device: Device, everyRefresh: boolean) {
    this.clock = clock
    this.hz = device.refreshHz
    this.costs = device.costs
    this.speed = device.speed
    this.everyRefresh = everyRefresh
  }

  onFrame(run: (begin: Us) => void): void {
    this.run = run
  }

  request(): void {
    if (this.next < Infinity) return
    const from = Math.max(this.clock.now(), this.freeAt)
    this.next = this.instant(Math.max(this.refreshAtOrAfter(from), this.lastRefresh + 1))
  }

  /** Runs the next frame. */
  step(): void {
    const begin = this.next
    this.clock.leap(begin)
    this.lastRefresh = this.refreshAtOrAfter(begin)
    this.next = Infinity
    this.sums.fill(0)
    this.run(begin)
    if (this.everyRefresh) this.request()
  }

  work(cause: WorkCause, count: number, px: number): void {
    this.sums[numberOf[cause]]! += this.cost(cause, count, px) / this.speed
  }

  spent(cause: WorkCause, us: Us): void {
    this.sums[numberOf[cause]]! += us
  }

  end(afterWork: () => void, presented: (due: Us, presented: Us, work: Float64Array) => void): void {
    const begin = this.clock.now()
    const work = this.spare.pop() ?? new Float64Array(this.sums.length)
    let endOfWork = begin
    for (let cause = 0; cause < work.length; cause++) endOfWork += work[cause] = Math.round(this.sums[cause]!)
    this.freeAt = endOfWork
    const due = this.instant(this.lastRefresh + 1)
    const shown = this.instant(this.refreshAtOrAfter(Math.max(due, endOfWork)))
    this.clock.at(endOfWork, afterWork)
    this.clock.at(shown, () => {
      presented(due, shown, work)
      this.spare.push(work)
    })
    if (this.next < endOfWork) {
      this.next = Infinity
      this.request()
    }
  }

  private instant(refresh: number): Us {
    return Math.round((refresh * 1e6) / this.hz)
  }

  private refreshAtOrAfter(time: Us): number {
    let refresh = Math.max(0, Math.floor((time * this.hz) / 1e6) - 1)
    while (this.instant(refresh) < time) refresh++
    return refresh
  }

  /** µs at speed 1. */
  private cost(cause: WorkCause, count: number, px: number): number {
    const { costs } = this
    switch (cause) {
      case 'frame':
        return count * costs.frameMs * 1000
      case 'create':
        return count * costs.createMs * 1000
      case 'bind':
        return count * costs.bindMs * 1000
      case 'upload':
      case 'animation':
        return count * costs.uploadMs * 1000 + (px * costs.uploadNsPerPx) / 1000
      case 'transition':
        return count * costs.transitionMs * 1000
      case 'mask':
        return count * costs.maskMs * 1000
      case 'layout':
        return count * costs.layoutMs * 1000
      case 'setup':
        return count * costs.setupMs * 1000
      case 'decode':
      case 'collect':
        throw new Error(`${cause} is given by its length, not by a count`)
    }
  }
}
