import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Cancelled, handWorker, runWorker } from '../../src/app/simulate/worker-client.ts'
import type { Answer, Order } from '../../src/workers/jobs/jobs.ts'
import type { ToWorker } from '../../src/workers/messages.ts'

/** Workers that do what the test says, in the order in which they were made. */
const made: FakeWorker[] = []
class FakeWorker {
  readonly heard: ToWorker[] = []
  ended = false
  onmessage: ((event: { data: unknown }) => void) | null = null
  onerror: ((event: { message: string }) => void) | null = null

  constructor() {
    made.push(this)
  }

  postMessage(message: ToWorker): void {
    this.heard.push(message)
  }

  terminate(): void {
    this.ended = true
  }

  post(data: unknown): void {
    this.onmessage?.({ data })
  }

  get started(): number[] {
    return this.heard.filter(({ type }) => type === 'start').map(({ id }) => id)
  }
}

const order = { seed: 1 } as Order<'follow'>
const answer = { metrics: {} } as Answer<'follow'>

beforeEach(() => {
  made.length = 0
  vi.useFakeTimers()
  vi.stubGlobal('Worker', FakeWorker)
})
afterEach(() => {
  // Each test leaves its client without a worker, so that the next one makes its own.
  for (const worker of made) worker.onerror?.({ message: 'the test is over' })
  vi.useRealTimers()
})

it('makes one worker for all jobs, reports their progress and gives each its own answer', async () => {
  const shares: number[] = []
  const [one, other] = [runWorker.ask('follow', order, (share) => shares.push(share)), runWorker.ask('follow', order)]
  expect(made.length).toBe(1)
  const [first, second] = made[0]!.started as [number, number]
  made[0]!.post({ id: first, type: 'progress', share: 0.5 })
  made[0]!.post({ id: second, type: 'done', answer })
  made[0]!.post({ id: first, type: 'failed', message: 'no such screen' })
  await expect(other.result).resolves.toBe(answer)
  await expect(one.result).rejects.toThrow('no such screen')
  expect(shares).toEqual([0.5])
})

it('ends a worker that does not hear a cancel within a second, and gives its other jobs to the next', async () => {
  const [deaf, other] = [runWorker.ask('follow', order), runWorker.ask('follow', order)]
  const ended = expect(deaf.result).rejects.toBeInstanceOf(Cancelled)
  deaf.cancel()
  expect(made[0]!.heard.at(-1)).toMatchObject({ type: 'cancel' })
  vi.advanceTimersByTime(999)
  expect(made[0]!.ended).toBe(false)
  vi.advanceTimersByTime(1)
  await ended
  expect(made[0]!.ended).toBe(true)
  expect(made.length).toBe(2)
  expect(made[1]!.started).toEqual([made[0]!.started[1]])
  made[1]!.post({ id: made[1]!.started[0]!, type: 'done', answer })
  await expect(other.result).resolves.toBe(answer)
})

it('leaves a worker alone that hears in time, and hears nothing of a job that is over', async () => {
  const cancelled = runWorker.ask('follow', order)
  cancelled.cancel()
  made[0]!.post({ id: made[0]!.started[0]!, type: 'cancelled' })
  await expect(cancelled.result).rejects.toBeInstanceOf(Cancelled)
  vi.advanceTimersByTime(5000)
  expect(made[0]!.ended).toBe(false)
  cancelled.cancel()
  expect(made[0]!.heard.filter(({ type }) => type === 'cancel').length).toBe(1)
  made[0]!.post({ id: made[0]!.started[0]!, type: 'done', answer })
})

it('a worker that breaks fails all its jobs, and the next job has a new one', async () => {
  const jobs = [handWorker.ask('follow', order), handWorker.ask('follow', order)]
  const failed = jobs.map(({ result }) => expect(result).rejects.toThrow('out of memory'))
  made[0]!.onerror?.({ message: 'out of memory' })
  await Promise.all(failed)
  const again = handWorker.ask('follow', order)
  expect(made.length).toBe(2)
  made[1]!.post({ id: made[1]!.started[0]!, type: 'done', answer })
  await expect(again.result).resolves.toBe(answer)
})
