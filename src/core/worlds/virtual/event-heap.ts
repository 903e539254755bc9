/** Room for the sequence beside the instant in one exact double: µs × 2²⁰ + sequence. */
const sequenceRoom = 2 ** 20
/** Room for the place of a callback in a handle, beside a count that never repeats. */
const placeRoom = 2 ** 24

/**
 * A binary heap of callbacks by instant, first come first among equals. The key is one number in a typed array; the
 * callbacks are in a free list beside it. When the sequence runs out, what waits is numbered again.
 */
export class EventHeap {
  private keys = new Float64Array(256)
  private ids = new Int32Array(256)
  private runs: ((() => void) | null)[] = []
  private handles: number[] = []
  private issued = 0
  private free: number[] = []
  private size = 0
  private sequence = 0

  /** The instant of the next event in µs, Infinity when there is none. */
  nextTime(): number {
    this.dropCancelled()
    return this.size === 0 ? Infinity : Math.floor(this.keys[0]! / sequenceRoom)
  }

  push(time: number, run: () => void): number {
    if (this.sequence === sequenceRoom) this.renumber()
    const id = this.free.pop() ?? this.runs.length
    this.runs[id] = run
    if (this.size === this.keys.length) this.grow()
    this.siftUp(this.size++, time * sequenceRoom + this.sequence++, id)
    return (this.handles[id] = ++this.issued * placeRoom + id)
  }

  /** Cancels what push returned; a handle whose callback has run already is ignored. */
  cancel(handle: number): void {
    const id = handle % placeRoom
    if (this.handles[id] === handle) this.runs[id] = null
  }

  /** Removes and returns the next callback; call only when nextTime() is finite. */
  pop(): () => void {
    this.dropCancelled()
    const id = this.ids[0]!
    const run = this.runs[id]!
    this.removeTop()
    return run
  }

  private dropCancelled(): void {
    while (this.size > 0 && this.runs[this.ids[0]!] === null) this.removeTop()
  }

  private removeTop(): void {
    const id = this.ids[0]!
    this.runs[id] = null
    this.handles[id] = 0
    this.free.push(id)
    const last = --this.size
    if (last > 0) this.siftDown(this.keys[last]!, this.ids[last]!)
  }

  private siftUp(start: number, key: number, id: number): void {
    const { keys, ids } = this
    let at = start
    while (at > 0) {
      const parent = (at - 1) >> 1
      if (keys[parent]! <= key) break
      keys[at] = keys[parent]!
      ids[at] = ids[parent]!
      at = parent
    }
    keys[at] = key
    ids[at] = id
  }

  private siftDown(key: number, id: number): void {
    const { keys, ids, size } = this
    let at = 0
    for (;;) {
      let child = 2 * at + 1
      if (child >= size) break
      if (child + 1 < size && keys[child + 1]! < keys[child]!) child++
      if (keys[child]! >= key) break
      keys[at] = keys[child]!
      ids[at] = ids[child]!
      at = child
    }
    keys[at] = key
    ids[at] = id
  }

  private grow(): void {
    const keys = new Float64Array(this.keys.length * 2)
    const ids = new Int32Array(this.ids.length * 2)
    keys.set(this.keys)
    ids.set(this.ids)
    this.keys = keys
    this.ids = ids
  }

  private renumber(): void {
    const order = Array.from({ length: this.size }, (_, i) => i).sort((a, b) => this.keys[a]! - this.keys[b]!)
    const keys = order.map((i) => this.keys[i]!)
    const ids = order.map((i) => this.ids[i]!)
    for (let i = 0; i < this.size; i++) {
      this.keys[i] = Math.floor(keys[i]! / sequenceRoom) * sequenceRoom + i
      this.ids[i] = ids[i]!
    }
    this.sequence = this.size
  }
}
