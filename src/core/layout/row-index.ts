/**
 * Row heights with fast sums: one height for all rows costs nothing, varying ones are in a Fenwick tree (find, change
 * and total in O(log n), a million rows are normal). Units: 1/1024 dp.
 */
export class RowIndex {
  private uniform: number | null = null
  private heights = new Float64Array(0)
  /** tree[i] sums the heights of the lowbit(i) rows that end with row i − 1. */
  private tree = new Float64Array(1)
  private rows = 0
  /** Increases whenever a row comes, goes or changes its height. */
  version = 0

  get count(): number {
    return this.rows
  }

  /** n rows of one height; replaces all rows. */
  fillUniform(count: number, height: number): void {
    this.version++
    this.rows = count
    this.uniform = height
  }

  /** Replaces all rows; O(n). */
  fill(heights: Float64Array<ArrayBuffer>): void {
    const n = heights.length
    this.version++
    this.uniform = null
    this.rows = n
    this.heights = heights
    const tree = new Float64Array(n + 1)
    for (let i = 1; i <= n; i++) tree[i] = heights[i - 1]!
    for (let i = 1; i <= n; i++) {
      const parent = i + (i & -i)
      if (parent <= n) tree[parent]! += tree[i]!
    }
    this.tree = tree
  }

  append(height: number): void {
    this.version++
    if (this.rows === 0 && this.uniform === null) this.uniform = height
    if (this.uniform === height) {
      this.rows++
      return
    }
    this.spread()
    const i = ++this.rows
    if (i > this.heights.length) this.grow()
    this.heights[i - 1] = height
    this.tree[i] = height + this.prefix(i - 1) - this.prefix(i - (i & -i))
  }

  heightOf(row: number): number {
    return this.uniform ?? this.heights[row]!
  }

  setHeight(row: number, height: number): void {
    if (this.uniform === height) return
    this.version++
    this.spread()
    const change = height - this.heights[row]!
    this.heights[row] = height
    for (let i = row + 1; i <= this.rows; i += i & -i) this.tree[i]! += change
  }

  /** The top of a row; for row = count, the end of the list. */
  topOf(row: number): number {
    return this.uniform === null ? this.prefix(row) : row * this.uniform
  }

  get total(): number {
    return this.topOf(this.rows)
  }

  /** The row that covers a position ([top, bottom)); the first or last one for positions outside; null: no rows. */
  rowAt(position: number): number | null {
    if (this.rows === 0) return null
    if (position < 0) return 0
    if (this.uniform !== null)
      return this.uniform === 0 ? this.rows - 1 : Math.min(this.rows - 1, Math.floor(position / this.uniform))
    let at = 0
    let rest = position
    let step = 2 ** Math.floor(log2(this.rows))
    for (; step > 0; step >>= 1) {
      const next = at + step
      if (next <= this.rows && this.tree[next]! <= rest) {
        at = next
        rest -= this.tree[next]!
      }
    }
    return Math.min(at, this.rows - 1)
  }

  private prefix(count: number): number {
    let sum = 0
    for (let i = count; i > 0; i -= i & -i) sum += this.tree[i]!
    return sum
  }

  private spread(): void {
    if (this.uniform !== null) this.fill(new Float64Array(this.rows).fill(this.uniform))
  }

  private grow(): void {
    const size = Math.max(16, this.heights.length * 2)
    const heights = new Float64Array(size)
    const tree = new Float64Array(size + 1)
    heights.set(this.heights)
    tree.set(this.tree)
    this.heights = heights
    this.tree = tree
  }
}

const log2 = (n: number) => 31 - Math.clz32(n)
