import type { Box } from '../layout/cell-geometry.ts'
import type { GeometryRow, RunLog } from '../log/run-log.ts'

/** Numbers for the places that slots take in their rows. */
export class GeometryTable {
  private readonly rows: GeometryRow[]
  private readonly density: number
  private readonly numbers = new Map<string, number>()

  constructor(log: RunLog, density: number) {
    this.rows = log.geometries
    this.density = density
  }

  number(left: number, box: Box, fit: string): number {
    const name = `${left} ${box.x} ${box.y} ${box.width} ${box.height} ${fit}`
    let number = this.numbers.get(name)
    if (number === undefined) {
      const { density } = this
      number =
        this.rows.push({
          x: left + box.x,
          y: box.y,
          width: box.width,
          height: box.height,
          widthPx: Math.max(1, Math.round(box.width * density)),
          heightPx: Math.max(1, Math.round(box.height * density)),
          fit,
        }) - 1
      this.numbers.set(name, number)
    }
    return number
  }
}
