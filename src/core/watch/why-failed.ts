import type { ListRun } from '../list/list-run.ts'
import { failWords } from '../loading/fail-words.ts'

/** The reason why a failed slot has no picture, in one sentence; null: the cell is not attached. */
export function whyFailed(run: ListRun, cell: number, slot: number): string | null {
  for (const each of run.attachedCells.values()) {
    if (each.id !== cell) continue
    const { claim, asset } = each.slots[slot]!
    if (claim?.request?.parked) return `Picture unavailable: ${failWords.offline}`
    const reason = (asset === null ? null : run.loader.failureOf(asset)) ?? 'bad-address'
    const status = reason === 'status' ? run.loader.statusOf(asset!) : null
    return `Picture unavailable: ${status ?? failWords[reason] ?? reason}`
  }
  return null
}
