import type { Device } from '../../project/types.ts'
import type { Heap } from '../ports.ts'

/** Garbage that grows with churn, and a collection when it passes the device's threshold. */
export class VirtualHeap implements Heap {
  private readonly threshold: number
  private readonly pauseUs: number
  private bytes = 0

  constructor(device: Device) {
    this.threshold = device.costs.gcThresholdMb * 1e6
    this.pauseUs = Math.round((device.costs.gcPauseMs * 1000) / device.speed)
  }

  churn(bytes: number): void {
    this.bytes += bytes
  }

  garbage(): number {
    return this.bytes
  }

  collect(force: boolean): { us: number; freed: number } | null {
    if (this.bytes === 0 || (!force && this.bytes <= this.threshold)) return null
    const freed = this.bytes
    this.bytes = 0
    return { us: this.pauseUs, freed }
  }
}
