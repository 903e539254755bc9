import type { Overlap } from '../../core/compare/overlap.ts'

/** Which requests of two maps that lie over each other are drawn. */
export type Overlaid = 'all' | 'onlyA' | 'onlyB' | 'both'

/** Which requests of B, and of A behind it, are drawn; null: all of both. */
export function masksOf({ both, only }: Overlap, overlaid: Overlaid): { only: Uint8Array; ghost: Uint8Array } | null {
  switch (overlaid) {
    case 'all':
      return null
    case 'both':
      return { only: both.b, ghost: both.a }
    case 'onlyB':
      return { only: only.b, ghost: only.a.map(() => 0) }
    case 'onlyA':
      return { only: only.b.map(() => 0), ghost: only.a }
  }
}

/** How many requests a choice of the overlay draws. */
export function countOf({ both, only }: Overlap, which: Exclude<Overlaid, 'all'>): number {
  const drawn = { onlyA: only.a, onlyB: only.b, both: both.b }[which]
  return drawn.reduce((sum, one) => sum + one, 0)
}
