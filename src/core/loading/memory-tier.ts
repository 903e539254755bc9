import { LRUCache } from 'lru-cache'

/**
 * Decoded pictures that are kept. Those bound to a cell are in a counted map outside the budget; on their last release
 * they enter the least-recently-used store. Invariant: the store is never over its budget.
 */
export class MemoryTier {
  private readonly budget: number
  private readonly store: LRUCache<number, number> | null
  private readonly bound = new Map<number, { count: number; bytes: number }>()
  private readonly dropped: (rendition: number, bytes: number, evicted: boolean) => void
  private boundSum = 0

  /** `dropped` is called for every rendition that is no longer kept; `evicted`: the budget pushed it out. */
  constructor(budgetBytes: number, dropped: (rendition: number, bytes: number, evicted: boolean) => void) {
    this.budget = budgetBytes
    this.dropped = dropped
    this.store =
      budgetBytes < 1
        ? null
        : new LRUCache<number, number>({
            maxSize: Math.floor(budgetBytes),
            sizeCalculation: (bytes) => bytes,
            dispose: (bytes, rendition, reason) => {
              if (reason === 'evict') this.dropped(rendition, bytes, true)
            },
          })
  }

  has(rendition: number): boolean {
    return this.bound.has(rendition) || (this.store?.has(rendition) ?? false)
  }

  get tierBytes(): number {
    return this.store?.calculatedSize ?? 0
  }

  get boundBytes(): number {
    return this.boundSum
  }

  /** A claim holds a rendition that the tier has or that was just decoded. */
  hold(rendition: number, bytes: number): void {
    const held = this.bound.get(rendition)
    if (held) {
      held.count++
      return
    }
    this.store?.delete(rendition)
    this.bound.set(rendition, { count: 1, bytes })
    this.boundSum += bytes
  }

  /** A claim is released; the last one moves the rendition into the store, if it fits at all. */
  letGo(rendition: number): void {
    const held = this.bound.get(rendition)
    if (!held) throw new Error(`rendition ${rendition} is let go but was not held`)
    if (--held.count > 0) return
    this.bound.delete(rendition)
    this.boundSum -= held.bytes
    this.keep(rendition, held.bytes)
  }

  /** Keeps a rendition that no cell holds (decoded ahead, or for a claim that has gone). */
  keep(rendition: number, bytes: number): void {
    if (this.bound.has(rendition)) return
    if (!this.store || bytes > this.budget) this.dropped(rendition, bytes, false)
    else this.store.set(rendition, bytes)
  }

  /** Drops everything that no cell holds. */
  clear(): void {
    if (!this.store) return
    const all = [...this.store.entries()]
    this.store.clear()
    for (const [rendition, bytes] of all) this.dropped(rendition, bytes, true)
  }

  /** The contents, least recently used first. */
  entries(): { rendition: number; bytes: number }[] {
    const stored = [...(this.store?.rkeys() ?? [])].map((rendition) => ({
      rendition,
      bytes: this.store!.peek(rendition)!,
    }))
    return [...stored, ...[...this.bound].map(([rendition, { bytes }]) => ({ rendition, bytes }))]
  }
}
