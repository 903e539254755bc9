import { sheetHtml } from '../../core/handoff/sheet-html.ts'
import { sheetMarkdown } from '../../core/handoff/sheet-markdown.ts'
import { sheetOf, type Sheet, type SheetOrder } from '../../core/handoff/sheet.ts'
import { unlessCancelled, type JobHooks } from './job.ts'

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
