import type { Sheet } from './sheet.ts'

/** A user's edits of a sheet: lines and parts that are left out, and comments, by the id of the line. */
export interface SheetEdits {
  left: readonly string[]
  comments: Readonly<Record<string, string>>
}

/** Parts of a sheet that can be left out as a whole, beside its lines. */
export const sheetParts = ['granted', 'steps', 'budgets', 'mended', 'notLookedAt', 'maps'] as const
export type SheetPart = (typeof sheetParts)[number]
/** The id under which a part is left out: no line has it. */
export const partId = (part: SheetPart) => `part ${part}`

export const noEdits: SheetEdits = { left: [], comments: {} }

/** A sheet as it is handed over: without the lines that were left out, with the comments. */
export function editedSheet(sheet: Sheet, { left, comments }: SheetEdits): Sheet {
  const groups = sheet.groups.flatMap(({ place, lines }) => {
    const kept = lines.filter(({ id }) => !left.includes(id))
    return kept.length === 0
      ? []
      : [{ place, lines: kept.map((line) => ({ ...line, comment: comments[line.id] ?? '' })) }]
  })
  const kept = <T>(part: SheetPart, value: T, without: T) => (left.includes(partId(part)) ? without : value)
  return {
    ...sheet,
    groups,
    granted: kept('granted', sheet.granted, []),
    steps: kept('steps', sheet.steps, []),
    budgets: kept('budgets', sheet.budgets, []),
    mended: kept('mended', sheet.mended, []),
    notLookedAt: kept('notLookedAt', sheet.notLookedAt, []),
    maps: kept('maps', sheet.maps, null),
  }
}
