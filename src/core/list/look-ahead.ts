import type { ListLayout } from '../layout/list-layout.ts'
import type { Claim } from '../loading/request.ts'
import type { Loading } from '../project/types.ts'

/** The window over the list, 1/1024 dp. */
interface Window {
  top: number
  height: number
  direction: 1 | -1
}

type AttachedCells = ReadonlyMap<number, { readonly row: number }>

/** Claims for rows that are coming up; no cell holds them. */
export class LookAhead {
  private readonly policy: Loading['ahead']
  private readonly claim: (index: number, row: number) => Claim[]
  private readonly release: (claim: Claim, why: string) => void
  private readonly claims = new Map<number, { row: number; claims: Claim[] }>()
  /** The last state that was followed; null: something else than the window has changed since. */
  private last: {
    layout: ListLayout
    from: number
    to: number
    cells: number
    firstRow: number
    lastRow: number
    direction: 1 | -1
  } | null = null

  constructor(
    policy: Loading['ahead'],
    claim: (index: number, row: number) => Claim[],
    release: (claim: Claim, why: string) => void,
  ) {
    this.policy = policy
    this.claim = claim
    this.release = release
  }

  /** Follows the window: releases what is no longer ahead or has a cell of its own, claims what has come near. */
  follow(layout: ListLayout, window: Window, attached: AttachedCells): void {
    if (attached.size === 0) return
    let firstRow = Infinity
    let lastRow = 0
    for (const { row } of attached.values()) {
      if (row < firstRow) firstRow = row
      if (row > lastRow) lastRow = row
    }
    const from = this.reachFrom(layout, window, firstRow)
    const to = this.reachTo(layout, window, lastRow)
    const { direction } = window
    // Most frames change nothing: the same rows, attached and ahead, of as many cells.
    const { last } = this
    if (
      last?.layout === layout &&
      last.from === from &&
      last.to === to &&
      last.cells === layout.cellCount &&
      last.firstRow === firstRow &&
      last.lastRow === lastRow &&
      last.direction === direction
    )
      return
    this.last = { layout, from, to, cells: layout.cellCount, firstRow, lastRow, direction }
    for (const [index, entry] of this.claims) {
      const inside = entry.row >= from && entry.row <= to
      if (inside && !attached.has(index)) continue
      for (const claim of entry.claims) this.release(claim, 'ahead')
      this.claims.delete(index)
    }
    if (direction > 0) for (let row = from; row <= to; row++) this.claimRow(layout, row, attached)
    else for (let row = to; row >= from; row--) this.claimRow(layout, row, attached)
  }

  /** Releases everything: the screen is left, or the feed has changed. */
  clear(why = 'ahead'): void {
    for (const entry of this.claims.values()) for (const claim of entry.claims) this.release(claim, why)
    this.claims.clear()
    this.last = null
  }

  private claimRow(layout: ListLayout, row: number, attached: AttachedCells): void {
    for (let column = 0; column < layout.columns; column++) {
      const index = layout.itemAt(row, column)
      if (index === null || attached.has(index) || this.claims.has(index)) continue
      this.claims.set(index, { row, claims: this.claim(index, row) })
    }
  }

  /** How many rows below the window are looked ahead for, whether they are there already or not. */
  rowsBelow(layout: ListLayout, { top, height, direction }: Window): number {
    const { by, amount, direction: ways } = this.policy
    if (amount <= 0 || (ways !== 'both' && direction < 0)) return 0
    if (by === 'rows') return Math.ceil(amount)
    return Math.ceil(amount * Math.max(1, (layout.rowAt(top + height) ?? 0) - (layout.rowAt(top) ?? 0)))
  }

  /** The first row that is looked ahead for; beyond the last row: none is. */
  private reachFrom(layout: ListLayout, window: Window, firstRow: number): number {
    const { by, amount, direction } = this.policy
    if (this.reachesNothing(layout)) return 0
    if (direction !== 'both' && window.direction > 0) return firstRow
    if (by === 'rows') return Math.max(0, firstRow - Math.ceil(amount))
    return layout.rowAt(window.top - Math.round(amount * window.height)) ?? firstRow
  }

  /** The last row that is looked ahead for. */
  private reachTo(layout: ListLayout, window: Window, lastRow: number): number {
    const { by, amount, direction } = this.policy
    if (this.reachesNothing(layout)) return -1
    const down = direction === 'both' || window.direction > 0
    if (by === 'rows') return Math.min(layout.rowCount - 1, lastRow + (down ? Math.ceil(amount) : 0))
    // A row includes its top and not its bottom: one that begins just where the reach ends is beyond it.
    return (down ? layout.rowAt(window.top + window.height + Math.round(amount * window.height) - 1) : null) ?? lastRow
  }

  private reachesNothing(layout: ListLayout): boolean {
    return this.policy.amount <= 0 || layout.rowCount === 0
  }
}
