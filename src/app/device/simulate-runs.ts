import { Cancelled, runWorker } from '../simulate/worker-client.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { currentProject } from '../store/project-store.ts'
import { currentRuns, keepRun, logOf } from '../store/run-store.ts'
import { currentDevice, messageOf, screenAt, update, visitsOf, type VisitChoice } from './device-state.ts'
import { seenPictures } from './seen-pictures.ts'
import { underWay } from './under-way.ts'

/** Runs the same script in the virtual world, on the chosen visits unless others are named; each run is kept. */
export async function simulateRuns(choice: VisitChoice = currentDevice().visits): Promise<void> {
  const state = currentProject()
  if (!state || currentDevice().simulating) return
  const screen = screenAt(state.project)
  update({ simulating: true, progress: 0, trouble: null })
  try {
    const items = await itemsToGive(state.id, screen)
    const script = state.project.script ?? ''
    const { seed } = state.project
    const simulation = runWorker.ask(
      'simulate',
      {
        project: state.project,
        screen: screen.id,
        script,
        seed,
        visits: visitsOf(choice),
        from: choice === 'first' || choice === 'all' ? null : await stateLeftBy(state.id, currentDevice().from),
        items,
        seen: seenPictures(),
      },
      (progress) => update({ progress }),
    )
    underWay.simulation = simulation
    const runs = await simulation.result
    for (const [i, visit] of visitsOf(choice).entries())
      await keepRun(
        { project: state.id, world: 'simulated', visit, screen: screen.id, script, seed, raw: state.effective },
        runs[i]!,
        null,
      )
  } catch (error) {
    if (!(error instanceof Cancelled)) update({ trouble: `The simulation failed: ${messageOf(error)}` })
  } finally {
    underWay.simulation = null
    update({ simulating: false })
  }
}

/** What a kept run left in the tiers; null: no run of this project was chosen. */
async function stateLeftBy(project: string, run: number | null): Promise<string | null> {
  // The state of another project's run is of no use here.
  if (run === null || !currentRuns().list.some((each) => each.id === run && each.project === project)) return null
  const kept = (await logOf(run))?.kept
  if (!kept) throw new Error('what that run left is not in this browser any more; choose another')
  return kept
}
