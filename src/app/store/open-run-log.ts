import { runWorker } from '../simulate/worker-client.ts'
import { currentProject, tell } from './project-store.ts'
import { keepRun, renameRun } from './run-store.ts'

/** Keeps the runs of a saved log in the open project, each named after its file. */
export async function openRunLog(file: File): Promise<void> {
  const state = currentProject()
  if (!state) return
  const { id: project, project: settings, effective: raw } = state
  const read = await runWorker.ask('readRunLog', { body: file }).result
  for (const { head, run } of read) {
    const { world, visit, screen, script, seed } = head
    const kept = await keepRun({ project, world, visit, screen, script, seed, raw }, run, null)
    await renameRun(kept, file.name.replace(/\.[^.]*$/, '').slice(0, 60))
  }
  const other = read.find(({ head }) => head.project !== settings.name)
  tell(
    other
      ? `${file.name} was kept as a run here, though its project is called “${other.head.project}”. A log does not hold its settings: findings take those of the open project.`
      : null,
  )
}
