import type { Browser, Page } from '@playwright/test'

interface TraceEvent {
  name: string
  ph: string
  pid: number
  tid: number
  /** µs */
  ts: number
  dur: number
  /** µs of the thread's own processor time; absent for what had begun before the trace. */
  tdur?: number
  args?: { name?: string; src_func?: string; chrome_mojo_event_info?: { mojo_interface_tag?: string } }
}

/** A task of the page's main thread: ms of its own processor time, ms by the clock, and what had asked for it. */
export interface MainTask {
  ms: number
  wallMs: number
  from: string
}

/**
 * The page's longest tasks while something is done, longest first, by their own processor time: what others who use
 * this machine take from it is not the page's. Tasks that answer this test's own questions are not the page's either.
 */
export async function mainTasks(browser: Browser, page: Page, act: () => Promise<void>): Promise<MainTask[]> {
  await browser.startTracing(page, { categories: ['toplevel'] })
  await act()
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString()) as { traceEvents: TraceEvent[] }
  const mains = new Set(
    traceEvents.flatMap(({ name, pid, tid, args }) =>
      name === 'thread_name' && args?.name === 'CrRendererMain' ? [`${pid} ${tid}`] : [],
    ),
  )
  const ours = traceEvents.filter(({ ph, pid, tid }) => ph === 'X' && mains.has(`${pid} ${tid}`))
  const asked = ours.filter(
    ({ args }) => args?.chrome_mojo_event_info?.mojo_interface_tag === 'blink.mojom.DevToolsSession',
  )
  const tasks = ours.flatMap(({ name, ts, dur, tdur, args }) => {
    const own =
      name === 'ThreadControllerImpl::RunTask' && !asked.some((question) => question.ts >= ts && question.ts < ts + dur)
    return own && tdur !== undefined ? [{ ms: tdur / 1000, wallMs: dur / 1000, from: args?.src_func ?? '' }] : []
  })
  if (tasks.length === 0) throw new Error('the trace tells no task of the main thread')
  return tasks.sort((a, b) => b.ms - a.ms)
}
