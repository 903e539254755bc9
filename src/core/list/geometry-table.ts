import type { Box } from '../layout/cell-geometry.ts'
import type { GeometryRow, RunLog } from '../log/run-log.ts'

/** Numbers for the places that slots take in their rows. */
export class GeometryTable {
  private readonly rows: GeometryRow[]
  private readonly density: number
  private readonly numbers = new Map<string, number>()
  /** The numbers of each box, one a column: most cells of a list share their boxes. */
  private readonly byBox = new WeakMap<Box, { left: number; fit: string; number: number }[]>()

  constructor(log: RunLog, density: number) {
    this.rows = log.geometries
    this.density = density
  }

  number(left: number, box: Box, fit: string): number {
    let known = this.byBox.get(box)
    if (!known) this.byBox.set(box, (known = []))
    for (const each of known) if (each.left === left && each.fit === fit) return each.number
    const number = this.lookUp(left, box, fit)
    known.push({ left, fit, number })
    return number
  }

  private lookUp(left: number, box: Box, fit: string): number {
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
