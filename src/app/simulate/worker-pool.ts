import type { Answer, Order } from '../../workers/jobs/jobs.ts'
import { Cancelled, WorkerClient, type Job } from './worker-client.ts'

/** How often a task whose worker has died is given to another. */
const mostTries = 3
/** A worker that is silent for this long, ms, has died: the browser does not report it. */
const silentMs = 60_000

/** What the pool needs of a worker. */
type Client = Pick<WorkerClient, 'ask'>

const clients: WorkerClient[] = []

/** One worker a core, made when they are first needed and kept. */
function workers(): WorkerClient[] {
  while (clients.length < Math.max(1, navigator.hardwareConcurrency)) clients.push(new WorkerClient())
  return clients
}

interface Task {
  order: Order<'measure'>
  done: (answer: Answer<'measure'>) => void
  failed: (error: Error) => void
  tries: number
}

/**
 * Measures settings on all cores: whichever worker is free takes the next task. When cancelled, everything unfinished
 * rejects.
 */
export class MeasuringPool {
  private readonly clients: readonly Client[]
  private readonly waiting: Task[] = []
  private readonly running = new Map<Client, Job<Answer<'measure'>>>()
  private isCancelled = false

  /** `clients`: the workers; by default one a core, which all pools share. */
  constructor(clients: readonly Client[] = workers()) {
    this.clients = clients
  }

  measure(order: Order<'measure'>): Promise<Answer<'measure'>> {
    return new Promise((done, failed) => {
      if (this.isCancelled) return failed(new Cancelled('cancelled'))
      this.waiting.push({ order, done, failed, tries: 1 })
      this.startNext()
    })
  }

  cancel(): void {
    this.isCancelled = true
    for (const { failed } of this.waiting.splice(0)) failed(new Cancelled('cancelled'))
    for (const job of this.running.values()) job.cancel()
  }

  private startNext(): void {
    for (const client of this.clients) {
      if (this.running.has(client)) continue
      const task = this.waiting.shift()
      if (!task) return
      void this.run(client, task)
    }
  }

  private async run(client: Client, task: Task): Promise<void> {
    let isSilent = false
    let timer: ReturnType<typeof setTimeout> | undefined
    const listen = () => {
      clearTimeout(timer)
      timer = setTimeout(() => {
        isSilent = true
        job.cancel()
      }, silentMs)
    }
    const job = client.ask('measure', task.order, listen)
    listen()
    this.running.set(client, job)
    try {
      const answer = await job.result
      // A task that finished just before its worker was ended is too late all the same.
      if (this.isCancelled) task.failed(new Cancelled('cancelled'))
      else task.done(answer)
    } catch (error) {
      const why = error instanceof Error ? error : new Error(String(error))
      // A worker that ended is not the task's fault: another one, or a new one, does it once more.
      const isOver = (why instanceof Cancelled && !isSilent) || this.isCancelled || task.tries === mostTries
      if (isOver) task.failed(why)
      else this.waiting.unshift({ ...task, tries: task.tries + 1 })
    } finally {
      clearTimeout(timer)
      this.running.delete(client)
      this.startNext()
    }
  }
}
