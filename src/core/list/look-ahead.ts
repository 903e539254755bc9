import type { ListLayout } from '../layout/list-layout.ts'
import type { Claim } from '../loading/request.ts'
import type { Loading } from '../project/types.ts'

interface Window {
  firstRow: number
  lastRow: number
  top: number
  height: number
  direction: 1 | -1
}

/** Claims for rows that are coming up; nobody's cell holds them. */
export class LookAhead {
  private readonly policy: Loading['ahead']
  private readonly claim: (index: number, row: number) => Claim[]
  private readonly release: (claim: Claim, why: string) => void
  private readonly claims = new Map<number, { row: number; claims: Claim[] }>()
  /** What was followed last; null: something else than the window has changed since. */
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
  follow(layout: ListLayout, window: Window, isAttached: (index: number) => boolean): void {
    const [from, to] = this.reach(layout, window)
    // Most frames change nothing of it: the same rows, attached and ahead, of as many cells.
    const { last } = this
    if (
      last?.layout === layout &&
      last.from === from &&
      last.to === to &&
      last.cells === layout.cellCount &&
      last.firstRow === window.firstRow &&
      last.lastRow === window.lastRow &&
      last.direction === window.direction
    )
      return
    this.last = {
      layout,
      from,
      to,
      cells: layout.cellCount,
      firstRow: window.firstRow,
      lastRow: window.lastRow,
      direction: window.direction,
    }
    for (const [index, entry] of this.claims) {
      const inside = entry.row >= from && entry.row <= to
      if (inside && !isAttached(index)) continue
      for (const claim of entry.claims) this.release(claim, 'ahead')
      this.claims.delete(index)
    }
    if (window.direction > 0) for (let row = from; row <= to; row++) this.claimRow(layout, row, isAttached)
    else for (let row = to; row >= from; row--) this.claimRow(layout, row, isAttached)
  }

  /** Lets everything go: the screen is left, or the feed has changed. */
  clear(why = 'ahead'): void {
    for (const entry of this.claims.values()) for (const claim of entry.claims) this.release(claim, why)
    this.claims.clear()
    this.last = null
  }

  private claimRow(layout: ListLayout, row: number, isAttached: (index: number) => boolean): void {
    for (let column = 0; column < layout.columns; column++) {
      const index = layout.itemAt(row, column)
      if (index === null || isAttached(index) || this.claims.has(index)) continue
      this.claims.set(index, { row, claims: this.claim(index, row) })
    }
  }

  /** How many rows below the window are looked ahead for, whether they are there already or not. */
  rowsBelow(layout: ListLayout, { top, height, direction }: Pick<Window, 'top' | 'height' | 'direction'>): number {
    const { by, amount, direction: ways } = this.policy
    if (amount <= 0 || (ways !== 'both' && direction < 0)) return 0
    if (by === 'rows') return Math.ceil(amount)
    return Math.ceil(amount * Math.max(1, layout.rowAt(top + height) - layout.rowAt(top)))
  }

  private reach(layout: ListLayout, window: Window): [number, number] {
    const { by, amount, direction } = this.policy
    const last = layout.rowCount - 1
    if (amount <= 0 || last < 0) return [0, -1]
    const down = direction === 'both' || window.direction > 0
    const up = direction === 'both' || window.direction < 0
    if (by === 'rows') {
      const rows = Math.ceil(amount)
      return [Math.max(0, window.firstRow - (up ? rows : 0)), Math.min(last, window.lastRow + (down ? rows : 0))]
    }
    const reach = Math.round(amount * window.height)
    return [
      up ? layout.rowAt(window.top - reach) : window.firstRow,
      // A row covers its top and not its bottom: one that begins just where the reach ends is beyond it.
      down ? layout.rowAt(window.top + window.height + reach - 1) : window.lastRow,
    ]
  }
}
