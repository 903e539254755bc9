import { useMemo, useState } from 'react'
import { z } from 'zod'
import { remember, remembered } from '../store/remember.ts'
import { noEdits, type SheetEdits } from '../../core/handoff/edit-sheet.ts'

const kept = z.object({ left: z.array(z.string()).default([]), comments: z.record(z.string(), z.string()).default({}) })
const keyOf = (project: string) => `tile-tug sheet ${project}`

/** Lines of a project's sheet that were left out or commented; kept from one day to the next. */
export function useSheetEdits(project: string): [SheetEdits, (edits: SheetEdits) => void] {
  const [changed, setChanged] = useState<{ of: string; edits: SheetEdits } | null>(null)
  const before = useMemo(() => readEdits(project), [project])
  return [
    changed?.of === project ? changed.edits : before,
    (edits) => {
      remember(keyOf(project), JSON.stringify(edits))
      setChanged({ of: project, edits })
    },
  ]
}

function readEdits(project: string): SheetEdits {
  try {
    return kept.parse(JSON.parse(remembered(keyOf(project)) ?? '{}'))
  } catch {
    // What is stored there is not ours: nothing was edited yet.
    return noEdits
  }
}
