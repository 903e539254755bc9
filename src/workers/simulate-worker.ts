import { JobCancelled, type JobHooks } from './jobs/job.ts'
import { buffersIn, jobs, type Answer, type JobName, type Order } from './jobs/jobs.ts'
import type { FromWorker, StartMessage, ToWorker } from './messages.ts'
import { messageTurns } from './message-turns.ts'
import { ListReceiver } from './shared-lists.ts'

declare const self: DedicatedWorkerGlobalScope

/** Jobs that are not over, and whether they are cancelled. */
const running = new Map<number, { isCancelled: boolean }>()
const lists = new ListReceiver()
const rest = messageTurns()

self.onmessage = (event: MessageEvent<ToWorker>) => {
  const message = event.data
  if (message.type === 'cancel') {
    const job = running.get(message.id)
    if (job) job.isCancelled = true
  } else if (message.type === 'list') lists.take(message)
  else void start(message)
}

async function start<Name extends JobName>({ id, name, order }: StartMessage<Name>): Promise<void> {
  const post = (message: FromWorker<Name>, buffers: ArrayBuffer[] = []) => self.postMessage(message, buffers)
  const job = jobs[name] as (order: Order<Name>, hooks: JobHooks<Answer<Name>>) => Answer<Name> | Promise<Answer<Name>>
  const own = { isCancelled: false }
  running.set(id, own)
  try {
    const answer = await job(lists.attach(order), {
      cancelled: () => own.isCancelled,
      rest,
      progress: (share) => post({ id, type: 'progress', share }),
      part: (answer) => post({ id, type: 'part', answer }, buffersIn(name, answer)),
      now: () => performance.now(),
    })
    post({ id, type: 'done', answer }, buffersIn(name, answer))
  } catch (error) {
    if (error instanceof JobCancelled) post({ id, type: 'cancelled' })
    else post({ id, type: 'failed', message: error instanceof Error ? error.message : String(error) })
  } finally {
    running.delete(id)
  }
}
