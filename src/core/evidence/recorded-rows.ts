import { countUpTo } from '../numbers/search.ts'
import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { EvidenceEvent } from './evidence.ts'

/** Height of a row, dp, when nothing reports or suggests one. */
const usualHeightDp = 120

/**
 * Positions of the rows of a recorded list: from the heights that binds report, else from how far apart rows were
 * bound.
 */
export class RecordedRows {
  /** Whether heights are reported: then scrolls determine what is on screen. */
  readonly isMeasured: boolean
  readonly columns: number
  private readonly heights = new Map<number, number>()
  private readonly usual: number
  /**
   * Rows whose height is reported, ascending, and the sum of their differences from usual ones before each, 1/1024 dp.
   */
  private readonly measured: number[]
  private readonly more: number[] = [0]

  constructor(events: readonly EvidenceEvent[]) {
    const cells = new Map<number, Set<number | string>>()
    const placed: { row: number; top: number }[] = []
    let top: number | null = null
    let columns = 1
    for (const event of events)
      if (event.event === 'scroll') top = event.topDp
      else if (event.event === 'bind') {
        if (event.heightDp !== undefined && event.heightDp > 0) this.heights.set(event.row, toUnits(event.heightDp))
        const items = cells.get(event.row) ?? new Set()
        items.add(event.key ?? event.cell)
        if (event.key !== undefined) columns = Math.max(columns, items.size)
        cells.set(event.row, items)
        if (top !== null) placed.push({ row: event.row, top })
      }
    // Items that come and go in a row over time are not columns.
    this.columns = columns > 12 ? 1 : columns
    const heights = [...this.heights.values()]
    this.isMeasured = heights.length > 0
    this.usual = this.isMeasured
      ? Math.round(heights.reduce((sum, each) => sum + each, 0) / heights.length)
      : toUnits(pitchOf(placed))
    this.measured = [...this.heights.keys()].sort((one, other) => one - other)
    for (const row of this.measured) this.more.push(this.more.at(-1)! + this.heights.get(row)! - this.usual)
  }

  /** 1/1024 dp. */
  heightOf(row: number): number {
    return this.heights.get(row) ?? this.usual
  }

  /** 1/1024 dp. */
  topOf(row: number): number {
    return row * this.usual + this.more[countUpTo(this.measured, row - 1)]!
  }
}

/** Distance between rows, dp: from how far the list had moved between binds of rows that are far apart. */
function pitchOf(placed: readonly { row: number; top: number }[]): number {
  const steps: number[] = []
  for (const [i, to] of placed.entries()) {
    const from = placed[Math.max(0, i - 10)]!
    const pitch = (to.top - from.top) / (to.row - from.row)
    if (to.row !== from.row && pitch > 1 && pitch < 5000) steps.push(pitch)
  }
  return steps.toSorted((one, other) => one - other)[steps.length >> 1] ?? usualHeightDp
}

export const inDp = (units: number) => units / unitsPerDp
