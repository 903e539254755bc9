import type { FeedList } from '../feed/feed-list.ts'
import type { Item, Screen, StageName } from '../project/types.ts'
import { cellWidthOf, hasStageFrames, isUniform, layOutCell, type CellGeometry } from './cell-geometry.ts'
import { countUpTo } from '../numbers/search.ts'
import { toUnits } from '../numbers/units.ts'
import { RowIndex } from './row-index.ts'

const unknownRatio = () => null

/**
 * Positions of all cells of a list: rows of `columns` cells, each of its item's kind. Tops and heights in 1/1024 dp,
 * widths in dp. Items that no kind fits take no room and are counted.
 */
export class ListLayout {
  readonly columns: number
  readonly cellWidthDp: number
  readonly index = new RowIndex()
  private readonly screen: Screen
  private readonly feed: FeedList
  private readonly kindNumbers = new Map<string, number>()
  private readonly anyKind: number | null
  private readonly shared: (CellGeometry | null)[] = []
  /** Heights of cells by their item, 1/1024 dp. */
  private readonly heights = new WeakMap<Item, number>()
  /** Feed indices in list order when some have no kind; null while every item has one. */
  private fitting: number[] | null = null
  /** Ratios of pictures that are known by now, by feed index and slot. */
  private readonly ratios = new Map<string, number>()
  /** Stages of slots whose kinds have frames by stage, by key and slot, as far as they are known. */
  private readonly stages = new Map<string, StageName>()
  private readonly framed: boolean[]
  /** Kinds whose cells are all alike. */
  private readonly uniform: readonly boolean[]
  /** Kinds with a slot sized by its picture's ratio. */
  private readonly ratioed: boolean[]
  private readonly beginsWith: (index: number, slot: number) => StageName
  /** Rows that are laid out before anything is requested begin with waiting. */
  private begun = false
  private laidOut = 0
  /** Between rows, 1/1024 dp. */
  readonly gap: number
  private readonly padding: number

  /** `beginsWith`: the stage in which a slot will begin when its item is bound. */
  constructor(
    screen: Screen,
    widthDp: number,
    feed: FeedList,
    beginsWith: (index: number, slot: number) => StageName = () => 'waiting',
  ) {
    this.beginsWith = beginsWith
    this.screen = screen
    this.feed = feed
    const { columns, gapDp, paddingDp } = screen.layout
    this.columns = columns
    this.framed = screen.cells.map(hasStageFrames)
    this.uniform = screen.cells.map(isUniform)
    this.ratioed = screen.cells.map((cell) => cell.slots.some(({ size }) => size.type === 'from-picture'))
    this.gap = toUnits(gapDp)
    this.padding = toUnits(paddingDp)
    this.cellWidthDp = cellWidthOf(screen.layout, widthDp)
    for (const [number, cell] of screen.cells.entries())
      if (!this.kindNumbers.has(cell.kind)) this.kindNumbers.set(cell.kind, number)
    this.anyKind = this.kindNumbers.get('*') ?? null
    if (screen.feed.kind !== null) this.fitting = []
    this.grow()
    this.begun = true
  }

  /**
   * Lays out again after edits; heights that came from pictures are kept by key only as far as positions are unchanged.
   */
  rebuild(): void {
    this.laidOut = 0
    if (this.fitting) this.fitting = []
    this.index.fillUniform(0, 0)
    this.index.fill(new Float64Array(0))
    this.grow()
  }

  /** Adds the items that have arrived since. */
  grow(): void {
    const count = this.feed.count
    if (this.fitting) {
      for (let i = this.laidOut; i < count; i++) if (this.fittingKindOf(i) !== null) this.fitting.push(i)
    }
    const before = this.index.count
    const cells = this.fitting?.length ?? count
    const rows = Math.ceil(cells / this.columns)
    const partial = before > 0 && this.laidOut % this.columns !== 0
    this.laidOut = count
    if (partial && !this.allUniform()) this.index.setHeight(before - 1, this.measureRow(before - 1))
    if (before === 0 && this.allUniform() && rows > 0) {
      this.index.fillUniform(rows, this.measureRow(0))
      return
    }
    if (before === 0) {
      const heights = new Float64Array(rows)
      for (let row = 0; row < rows; row++) heights[row] = this.measureRow(row)
      this.index.fill(heights)
      return
    }
    for (let row = before; row < rows; row++) this.index.append(this.measureRow(row))
  }

  /** Cells that the list has, those of a part-filled last row among them. */
  get cellCount(): number {
    return this.fitting?.length ?? this.feed.count
  }

  get rowCount(): number {
    return this.index.count
  }

  /** The whole scrollable height. */
  get total(): number {
    return this.index.count === 0 ? 0 : this.index.total + 2 * this.padding - this.gap
  }

  topOf(row: number): number {
    return this.padding + this.index.topOf(row)
  }

  /** The height of a row without the gap below it. */
  heightOf(row: number): number {
    return this.index.heightOf(row) - this.gap
  }

  /** The row at a position of the list, the first or last one for positions outside; null: no rows. */
  rowAt(position: number): number | null {
    return this.index.rowAt(position - this.padding)
  }

  /** The feed index of the item at a row and column, null where the last row has none. */
  itemAt(row: number, column: number): number | null {
    const at = row * this.columns + column
    if (this.fitting) return this.fitting[at] ?? null
    return at < this.feed.count ? at : null
  }

  leftOf(column: number): number {
    return this.screen.layout.paddingDp + column * (this.cellWidthDp + this.screen.layout.gapDp)
  }

  /** The row of an item, null for one that no kind fits. */
  rowOf(index: number): number | null {
    const place = this.placeOf(index)
    return place === null ? null : Math.floor(place / this.columns)
  }

  /** The column of an item, null for one that no kind fits. */
  columnOf(index: number): number | null {
    const place = this.placeOf(index)
    return place === null ? null : place % this.columns
  }

  /** How many items are before one; null for one that no kind fits. */
  private placeOf(index: number): number | null {
    if (!this.fitting) return index
    const place = countUpTo(this.fitting, index) - 1
    return place >= 0 && this.fitting[place] === index ? place : null
  }

  /** The number of the cell template for an item of the list. */
  kindOf(index: number): number {
    return this.fittingKindOf(index)!
  }

  /** The number of the cell template for an item, null when none fits. */
  fittingKindOf(index: number): number | null {
    const kind = this.feed.kind(index)
    if (kind === null) return this.anyKind ?? 0
    return this.kindNumbers.get(kind) ?? this.anyKind
  }

  get withoutKind(): number {
    return this.fitting ? this.feed.count - this.fitting.length : 0
  }

  geometry(index: number): CellGeometry {
    const kind = this.kindOf(index)
    const cell = this.screen.cells[kind]!
    if (this.uniform[kind])
      return (this.shared[kind] ??= layOutCell(cell, this.cellWidthDp, this.feed.item(index), unknownRatio))
    return this.measure(kind, index, this.feed.item(index))
  }

  /** A picture's ratio is known: returns how far what is below its row moves, in 1/1024 dp. */
  learnRatio(index: number, slot: number, row: number, ratio: number): number {
    const name = `${this.feed.key(index)}\n${slot}`
    if (this.screen.cells[this.kindOf(index)]!.slots[slot]?.size.type !== 'from-picture') return 0
    if (this.ratios.get(name) === ratio) return 0
    this.ratios.set(name, ratio)
    return this.measureAgain(row)
  }

  /** Whether cells of a kind change their size by the stage of their pictures. */
  isFramed(kind: number): boolean {
    return this.framed[kind]!
  }

  /** A slot is in another stage: returns how far what is below its row moves, in 1/1024 dp. */
  learnStage(index: number, slot: number, row: number, stage: StageName): number {
    const name = `${this.feed.key(index)}\n${slot}`
    if (!this.framed[this.kindOf(index)]! || this.stages.get(name) === stage) return 0
    this.stages.set(name, stage)
    return this.measureAgain(row)
  }

  /** Whether a picture that arrives, or another stage, can change the frames of a kind's slots. */
  changesWithPictures(kind: number): boolean {
    return this.framed[kind]! || this.ratioed[kind]!
  }

  /**
   * The geometry by which an item's pictures are requested: as if all were there, and no ratio known. A ratio that is
   * learned later must not change the address of what is on screen.
   */
  asked(index: number): CellGeometry {
    const kind = this.kindOf(index)
    if (!this.changesWithPictures(kind)) return this.geometry(index)
    return layOutCell(this.screen.cells[kind]!, this.cellWidthDp, this.feed.item(index), unknownRatio)
  }

  private measureAgain(row: number): number {
    const before = this.index.heightOf(row)
    const after = this.measureRow(row)
    this.index.setHeight(row, after)
    return after - before
  }

  private measure(kind: number, index: number, item: Item): CellGeometry {
    const framed = this.framed[kind]!
    const key = this.ratios.size > 0 || framed ? this.feed.key(index) : ''
    const ratioOf = (slot: number) => this.ratios.get(`${key}\n${slot}`) ?? null
    return layOutCell(
      this.screen.cells[kind]!,
      this.cellWidthDp,
      item,
      ratioOf,
      framed
        ? (slot) => this.stages.get(`${key}\n${slot}`) ?? (this.begun ? this.beginsWith(index, slot) : 'waiting')
        : undefined,
    )
  }

  private measureRow(row: number): number {
    let height = 0
    for (let column = 0; column < this.columns; column++) {
      const index = this.itemAt(row, column)
      if (index !== null) height = Math.max(height, this.heightOfItem(index))
    }
    return height + this.gap
  }

  /** The height of an item's cell, 1/1024 dp; repeats of an item have one height, which is computed once. */
  private heightOfItem(index: number): number {
    const kind = this.kindOf(index)
    if (this.uniform[kind] || this.changesWithPictures(kind)) return toUnits(this.geometry(index).heightDp)
    const item = this.feed.item(index)
    let height = this.heights.get(item)
    if (height === undefined) this.heights.set(item, (height = toUnits(this.geometry(index).heightDp)))
    return height
  }

  private allUniform(): boolean {
    return this.screen.cells.length === 1 && this.uniform[0]!
  }
}
