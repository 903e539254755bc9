import { parseProject } from '../../core/project/parse.ts'
import { withSettings, type Setting } from '../../core/sweep/setting.ts'
import { seenPictures } from '../device/device-store.ts'
import { runWorker } from '../simulate/worker-client.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { currentProject } from '../store/project-store.ts'
import { keepRun } from '../store/run-store.ts'

/** Simulates the project with some settings at other values, on its own seed, and keeps the run; returns its number. */
export async function openRow(settings: readonly Setting[], screenNumber: number): Promise<number> {
  const state = currentProject()!
  const varied = withSettings(state.effective, settings)
  const parsed = varied.ok ? parseProject(varied.raw) : varied
  if (!parsed.ok) throw new Error(parsed.message)
  const { project } = parsed
  const screen = project.screens[Math.min(screenNumber, project.screens.length - 1)]!
  const script = project.script ?? ''
  const { seed } = project
  const [run] = await runWorker.ask('simulate', {
    project,
    screen: screen.id,
    script,
    seed,
    visits: ['first'],
    from: null,
    items: await itemsToGive(state.id, screen),
    seen: seenPictures(),
  }).result
  return keepRun(
    { project: state.id, world: 'simulated', visit: 'first', screen: screen.id, script, seed, raw: parsed.raw },
    run!,
    null,
  )
}
