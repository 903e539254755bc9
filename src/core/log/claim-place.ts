/** The owner of a claim: the list that the run is about, a screen that has opened over it, or the app itself. */
export type ClaimScope = 'list' | 'opened' | 'app'

export interface ClaimPlace {
  scope: ClaimScope
  /** null: no cell made it. */
  cell: number | null
  /** null: of no slot of the list. */
  slot: number | null
}

/** How a log, which has numbers only, encodes the scope of a claim without a slot. */
const slotOf = { app: -1, opened: -2 } as const

export function placeInLog({ scope, cell, slot }: ClaimPlace): { cell: number | null; slot: number } {
  if (scope !== 'list') return { cell: null, slot: slotOf[scope] }
  return { cell, slot: slot ?? 0 }
}

export function scopeFromLog(slot: number): ClaimScope {
  if (slot === slotOf.app) return 'app'
  return slot === slotOf.opened ? 'opened' : 'list'
}
