import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { EvidenceEvent } from './evidence.ts'

/** A row that nobody tells the height of, dp, when nothing else says how high rows are. */
const usualHeightDp = 120

/** Where the rows of a recorded list lie: from the heights that binds tell, else from how far apart rows were bound. */
export class RecordedRows {
  /** Whether the heights are told: then scrolls say what is on screen. */
  readonly isMeasured: boolean
  readonly columns: number
  private readonly heights = new Map<number, number>()
  private readonly usual: number
  /** Tops of rows, 1/1024 dp, grown as they are asked for. */
  private readonly tops: number[] = [0]

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
    // Items that come and go at a row over time are no columns.
    this.columns = columns > 12 ? 1 : columns
    const told = [...this.heights.values()]
    this.isMeasured = told.length > 0
    this.usual = this.isMeasured
      ? Math.round(told.reduce((sum, each) => sum + each, 0) / told.length)
      : toUnits(pitchOf(placed))
  }

  /** 1/1024 dp. */
  heightOf(row: number): number {
    return this.heights.get(row) ?? this.usual
  }

  /** 1/1024 dp. */
  topOf(row: number): number {
    // Beyond what a list on a phone shows, rows are as high as the others.
    const most = 200_000
    const near = Math.min(row, most)
    while (this.tops.length <= near) this.tops.push(this.tops.at(-1)! + this.heightOf(this.tops.length - 1))
    return this.tops[near]! + (row - near) * this.usual
  }
}

/** How far apart rows are, dp: by how far the list had moved between binds of rows that lie far apart. */
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
