/** The feed index of an item, and its place in the list. */
export interface Place {
  index: number
  row: number
  column: number
}

/** One recyclable view, and its last place. */
export interface RecycledCell extends Place {
  readonly id: number
  readonly kind: number
  state: 'attached' | 'held' | 'pooled'
}

export type Attached<C> = { cell: C; from: 'held' | 'pool' | 'new' }

/**
 * Creates, pools, holds and hands out cells by kind. It knows nothing of pictures: binding is up to its caller.
 * Invariant: cells created of a kind ≤ the most attached at once + held.
 */
export class Recycler<C extends RecycledCell> {
  readonly cells: C[] = []
  /** Attached cells by feed index. */
  readonly attached = new Map<number, C>()
  private readonly pools = new Map<number, C[]>()
  /** Held cells, least recently detached first. */
  private held: C[] = []
  private readonly heldRoom: number
  private readonly make: (id: number, kind: number, place: Place) => C
  private readonly unbind: (cell: C) => void

  /** `unbind` is called when a cell loses its item: into the pool, or pushed out of the held ones. */
  constructor(heldRoom: number, make: (id: number, kind: number, place: Place) => C, unbind: (cell: C) => void) {
    this.heldRoom = heldRoom
    this.make = make
    this.unbind = unbind
  }

  /** A cell for an item: the held one that still shows it, else a pooled one of its kind, else a new one. */
  attach(index: number, kind: number, row: number, column: number): Attached<C> {
    const taken = this.takeHeld(index, kind) ??
      this.takePooled(kind) ?? { cell: this.create(kind, { index, row, column }), from: 'new' as const }
    const { cell } = taken
    cell.index = index
    cell.row = row
    cell.column = column
    cell.state = 'attached'
    this.attached.set(index, cell)
    return taken
  }

  /** Takes a cell off the list; it is held while there is room for it, else recycled. */
  detach(cell: C, mayHold: boolean): 'held' | 'pooled' {
    this.attached.delete(cell.index)
    if (!mayHold || this.heldRoom === 0) {
      this.pool(cell)
      return 'pooled'
    }
    cell.state = 'held'
    this.held.push(cell)
    if (this.held.length > this.heldRoom) this.pool(this.held.shift()!)
    return 'held'
  }

  /** Recycles all held cells: memory is short, or the feed has changed under them. */
  dropHeld(): void {
    for (const cell of this.held.splice(0)) this.pool(cell)
  }

  private takeHeld(index: number, kind: number): Attached<C> | null {
    const at = this.held.findIndex((cell) => cell.index === index && cell.kind === kind)
    return at < 0 ? null : { cell: this.held.splice(at, 1)[0]!, from: 'held' }
  }

  private takePooled(kind: number): Attached<C> | null {
    const cell = this.pools.get(kind)?.pop()
    return cell ? { cell, from: 'pool' } : null
  }

  private pool(cell: C): void {
    cell.state = 'pooled'
    this.unbind(cell)
    const pool = this.pools.get(cell.kind)
    if (pool) pool.push(cell)
    else this.pools.set(cell.kind, [cell])
  }

  private create(kind: number, place: Place): C {
    const cell = this.make(this.cells.length, kind, place)
    this.cells.push(cell)
    return cell
  }
}
