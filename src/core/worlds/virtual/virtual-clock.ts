import type { Clock, Us } from '../ports.ts'
import { EventHeap } from './event-heap.ts'

/** A discrete-event clock: time is paused while a callback runs and jumps to the next one after it. */
export class VirtualClock implements Clock {
  private readonly heap = new EventHeap()
  private time: Us = 0

  now(): Us {
    return this.time
  }

  at(time: Us, run: () => void): number {
    return this.heap.push(Math.max(this.time, Math.ceil(time)), run)
  }

  cancel(timer: number): void {
    this.heap.cancel(timer)
  }

  nextTime(): Us {
    return this.heap.nextTime()
  }

  runNext(): void {
    const time = this.heap.nextTime()
    this.time = time
    this.heap.pop()()
  }

  /** Jumps to an instant at which the loop has something of its own to do. */
  leap(time: Us): void {
    this.time = time
  }
}
