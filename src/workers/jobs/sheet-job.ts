import { sheetOf, type Sheet, type SheetOrder } from '../../core/handoff/sheet.ts'
import { unlessCancelled, type JobHooks } from './job.ts'

/** The sheet for the app's code. */
export async function sheetJob(order: SheetOrder, hooks: JobHooks): Promise<Sheet> {
  return unlessCancelled(
    await sheetOf(order, async (share) => {
      hooks.progress(share)
      await hooks.rest()
      return !hooks.cancelled()
    }),
  )
}
