import { z } from 'zod'
import type { Raw } from '../../core/project/parse.ts'
import { packItems } from './shared-items.ts'

const place = 'tile-tug unsaved'
const noted = z.object({ id: z.string(), rev: z.number(), raw: z.record(z.string(), z.unknown()) })

/**
 * Writes the latest change as the page is left: the browser does not wait for its database then, but it does for this.
 * Long lists of items are in the database already, and are only referred to.
 */
export function noteUnsaved({ id, rev, raw }: { id: string; rev: number; raw: Raw }): void {
  try {
    localStorage.setItem(place, JSON.stringify({ id, rev, raw: packItems(raw).raw }))
  } catch {
    // No room, or refused: then only what was saved up to the last second is there, as after a crash.
  }
}

/** The change that was written for a project, if it was not saved after all; it is returned once. */
export function takeUnsaved(id: string, rev: number): Raw | null {
  let text: string | null
  try {
    text = localStorage.getItem(place)
  } catch {
    return null
  }
  if (text === null) return null
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return null
  }
  const read = noted.safeParse(value)
  if (!read.success || read.data.id !== id) return null
  localStorage.removeItem(place)
  return read.data.rev === rev ? read.data.raw : null
}
