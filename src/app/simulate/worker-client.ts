import { ListSender } from '../../workers/shared-lists.ts'
import type { Answer, JobName, Order } from '../../workers/jobs/jobs.ts'
import type { FromWorker, StartMessage, ToWorker } from '../../workers/messages.ts'

export interface Job<T> {
  result: Promise<T>
  cancel: () => void
}

/** A cancelled job rejects with this. */
export class Cancelled extends Error {}

/** A worker that does not answer a cancel within this is ended, ms. */
const patienceMs = 1000

interface Waiting {
  start: StartMessage
  resolve: (answer: Answer<JobName>) => void
  reject: (error: Error) => void
  progress: (share: number) => void
  part: (answer: Answer<JobName>) => void
}

/** One simulation worker and the jobs it has; made again when it had to be ended. */
export class WorkerClient {
  private worker: Worker | null = null
  private lists = new ListSender()
  private readonly jobs = new Map<number, Waiting>()
  private last = 0

  /** Starts a job; its answer is what its function returns. Rejects with `Cancelled` when it is cancelled. */
  ask<Name extends JobName>(
    name: Name,
    order: Order<Name>,
    progress: (share: number) => void = () => undefined,
    part: (answer: Answer<Name>) => void = () => undefined,
  ): Job<Answer<Name>> {
    const id = ++this.last
    const start: StartMessage<Name> = { id, type: 'start', name, order }
    const result = new Promise<Answer<Name>>((resolve, reject) =>
      this.jobs.set(id, {
        start,
        // The worker answers a job with what that job's function returned.
        resolve: resolve as Waiting['resolve'],
        reject,
        progress,
        part: part as Waiting['part'],
      }),
    )
    this.send(start)
    return { result, cancel: () => this.cancel(id) }
  }

  private cancel(id: number): void {
    if (!this.jobs.has(id)) return
    this.send({ id, type: 'cancel' })
    setTimeout(() => {
      if (this.jobs.has(id)) this.abandon(id)
    }, patienceMs)
  }

  /** Ends the worker with the job that does not answer; its other jobs start again in a new one. */
  private abandon(id: number): void {
    this.jobs.get(id)!.reject(new Cancelled('the worker was ended'))
    this.jobs.delete(id)
    this.worker?.terminate()
    this.worker = null
    for (const { start } of this.jobs.values()) this.send(start)
  }

  private send(message: ToWorker): void {
    this.worker ??= this.start()
    if (message.type !== 'start') {
      this.worker.postMessage(message)
      return
    }
    const { order, lists } = this.lists.detach(message.order)
    for (const list of lists) this.worker.postMessage(list)
    this.worker.postMessage({ ...message, order } satisfies ToWorker)
  }

  private start(): Worker {
    this.lists = new ListSender()
    const worker = new Worker(new URL('../../workers/simulate-worker.ts', import.meta.url), { type: 'module' })
    worker.onmessage = (event: MessageEvent<FromWorker>) => this.hear(event.data)
    worker.onerror = (event) =>
      this.end(new Error(event.message || 'a part of the app could not be loaded; is the server running?'))
    return worker
  }

  private hear(message: FromWorker): void {
    const job = this.jobs.get(message.id)
    if (!job) return
    if (message.type === 'progress') {
      job.progress(message.share)
      return
    }
    if (message.type === 'part') {
      job.part(message.answer)
      return
    }
    this.jobs.delete(message.id)
    if (message.type === 'done') job.resolve(message.answer)
    else job.reject(message.type === 'cancelled' ? new Cancelled('cancelled') : new Error(message.message))
  }

  private end(error: Error): void {
    this.worker?.terminate()
    this.worker = null
    for (const job of this.jobs.values()) job.reject(error)
    this.jobs.clear()
  }
}

/** Runs that are kept, stories and logs of live runs. */
export const runWorker = new WorkerClient()
/** Proofs of findings, beside everything else. */
export const proofWorker = new WorkerClient()
/** Runs that are played back. */
export const playWorker = new WorkerClient()
/** Feeds that are opened and looked at. */
export const feedWorker = new WorkerClient()
/** What follows the hand. */
export const handWorker = new WorkerClient()
