import type { Sheet } from './sheet.ts'

/** What somebody has made of a sheet: lines that are left out, and comments of their own, by the id of the line. */
export interface SheetEdits {
  left: readonly string[]
  comments: Readonly<Record<string, string>>
}

export const noEdits: SheetEdits = { left: [], comments: {} }

/** A sheet as it is handed over: without the lines that were left out, with the comments. */
export function editedSheet(sheet: Sheet, { left, comments }: SheetEdits): Sheet {
  const groups = sheet.groups.flatMap(({ place, lines }) => {
    const kept = lines.filter(({ id }) => !left.includes(id))
    return kept.length === 0
      ? []
      : [{ place, lines: kept.map((line) => ({ ...line, comment: comments[line.id] ?? '' })) }]
  })
  return { ...sheet, groups }
}
