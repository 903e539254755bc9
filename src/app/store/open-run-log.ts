import { Cancelled, WorkerClient, type Job } from '../simulate/worker-client.ts'
import type { ReadRun } from '../../workers/jobs/run-log-job.ts'
import { createStore } from './external-store.ts'
import { currentProject, notify } from './project-store.ts'
import { keepRun, renameRun } from './run-store.ts'

/** The log that is being read; null: none. */
interface Opening {
  name: string
  share: number
  cancel: () => void
}

const store = createStore<Opening | null>(null)
export const useOpening = store.use

/** A long log must not hold up other jobs. */
const worker = new WorkerClient()

/**
 * Keeps the runs of a saved log in the open project, each named after its file; returns how many: none when it was
 * cancelled.
 */
export async function openRunLog(file: File): Promise<number> {
  const state = currentProject()
  if (!state) return 0
  const { id: project, project: settings, effective: raw } = state
  const job: Job<ReadRun[]> = worker.ask('readRunLog', { body: file }, (share) =>
    store.set({ name: file.name, share, cancel: job.cancel }),
  )
  store.set({ name: file.name, share: 0, cancel: job.cancel })
  try {
    const read = await job.result
    for (const { head, run } of read) {
      const { world, visit, screen, script, seed } = head
      const kept = await keepRun({ project, world, visit, screen, script, seed, raw }, run, null)
      await renameRun(kept, file.name.replace(/\.[^.]*$/, '').slice(0, 60))
    }
    const other = read.find(({ head }) => head.project !== settings.name)
    if (other)
      notify(
        `${file.name} was kept as a run here, though its project is called “${other.head.project}”. A log does not hold its settings: findings take those of the open project.`,
      )
    return read.length
  } catch (error) {
    if (error instanceof Cancelled) return 0
    throw error
  } finally {
    store.set(null)
  }
}
