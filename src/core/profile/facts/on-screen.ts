import type { RunLog } from '../../log/run-log.ts'
import { unitsPerDp } from '../../numbers/units.ts'
import type { ExposureFact } from './facts.ts'
import type { PlaceWatch } from './place-watch.ts'

/**
 * The exposures that are open while a log is read: how much of each has been visible, and how much of that without its
 * picture.
 */
export class OnScreen {
  private readonly log: RunLog
  private readonly placing: PlaceWatch
  private readonly open = new Set<ExposureFact>()
  private lastT = 0
  /** 1/1024 dp. */
  private windowHeight: number

  constructor(log: RunLog, placing: PlaceWatch) {
    this.log = log
    this.placing = placing
    this.windowHeight = log.head.heightDp * unitsPerDp
  }

  /** The device was turned: the height of the screen from now on, 1/1024 dp. */
  turned(t: number, height: number): void {
    this.pass(t)
    this.windowHeight = height
  }

  add(exposure: ExposureFact): void {
    this.open.add(exposure)
  }

  delete(exposure: ExposureFact): void {
    this.open.delete(exposure)
  }

  get all(): ExposureFact[] {
    return [...this.open]
  }

  /** The screen changes: each open exposure adds its visible area × the time since the last change, dp² × µs. */
  pass(t: number): void {
    const span = t - this.lastT
    if (span <= 0) return
    this.lastT = t
    const { log, placing } = this
    for (const exposure of this.open) {
      const { y, height, width } = log.geometries[exposure.geometry]!
      const from = placing.topOf(exposure.row) + y * unitsPerDp - placing.top
      const visible = Math.min(this.windowHeight, from + height * unitsPerDp) - Math.max(0, from)
      if (visible <= 0) continue
      const area = (visible / unitsPerDp) * width * span
      exposure.areaTime += area
      if (!exposure.covered && exposure.claim !== null) exposure.holeTime += area
    }
  }
}
