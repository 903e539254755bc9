import { sheetHtml } from '../../core/handoff/sheet-html.ts'
import { sheetMarkdown } from '../../core/handoff/sheet-markdown.ts'
import { sheetOf, type Sheet, type SheetOrder } from '../../core/handoff/sheet.ts'
import { harOf } from '../../core/profile/views/har.ts'
import { version } from '../../core/version.ts'
import { unlessCancelled, type JobHooks } from './job.ts'
import { openedRun, type StoredRun } from './opened-run.ts'

export interface MadeSheet {
  sheet: Sheet
  markdown: string
  html: string
}

/** The sheet for the app's code, and the two forms in which it is saved. */
export async function sheetJob(order: SheetOrder, hooks: JobHooks): Promise<MadeSheet> {
  const sheet = unlessCancelled(
    await sheetOf(order, async (share) => {
      hooks.progress(share)
      await hooks.rest()
      return !hooks.cancelled()
    }),
  )
  return { sheet, markdown: sheetMarkdown(sheet), html: sheetHtml(sheet) }
}

/** The requests of a kept run as HTTP Archive 1.2. */
export const harJob = (run: StoredRun): string =>
  `${JSON.stringify(harOf(openedRun(run).facts, { name: 'Tile Tug', version }), null, 1)}\n`
