import type { SheetLine } from '../../core/handoff/sheet.ts'
import { openRow } from '../sweep/open-row.ts'

/**
 * Simulates the project with a line's setting at the plain value and as it is, keeps both runs, and gives their
 * numbers.
 */
export async function seeProof({ without }: SheetLine, screen: number): Promise<[number, number]> {
  return [await openRow([without], screen), await openRow([], screen)]
}
