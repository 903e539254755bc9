import { projectWith, type Setting } from '../../core/sweep/setting.ts'
import { combinations, rowCountOf } from '../../core/sweep/vary.ts'
import { currentDevice, seenPictures } from '../device/device-store.ts'
import { Cancelled } from '../simulate/worker-client.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { currentProject, type ProjectState } from '../store/project-store.ts'
import {
  beginSweep,
  currentSweep,
  inputOf,
  isUnderWay,
  keepSweep,
  mostCombinations,
  sweepSeeds,
  updateSweep,
  type RowName,
} from './sweep-store.ts'

/** The number of simulations for an estimate: the first ones are slower than the others will be. */
const estimateSeeds = 5
/** Results are kept at least this often while a sweep runs, ms. */
const keepEveryMs = 1000
/** The page responds at least this often while combinations are checked, ms. */
const breathMs = 10

/** The error of the first combination that makes no valid project; null: all do. */
async function firstWrong(
  raw: ProjectState['effective'],
  all: readonly (readonly Setting[])[],
): Promise<string | null> {
  let since = performance.now()
  for (const settings of all) {
    const made = projectWith(raw, settings)
    if (!made.ok) return made.message
    if (performance.now() - since < breathMs) continue
    await new Promise((resolve) => setTimeout(resolve))
    since = performance.now()
  }
  return null
}

/** The order for a worker: the settings as they are, on so many seeds. */
async function orderOf({ id, project, effective }: ProjectState, screen: number, seeds: number) {
  const own = project.screens[screen]!
  const { seed } = project
  return {
    raw: effective,
    screen: own.id,
    script: project.script ?? '',
    seed,
    visit: 'first' as const,
    items: await itemsToGive(id, own),
    seen: seenPictures(),
    settings: [] as readonly Setting[],
    seeds: Array.from({ length: seeds }, (_, n) => seed + n),
  }
}

/**
 * Measures what one simulation takes from a few, so that the time of a sweep can be shown before it starts. Returns
 * what cancels it.
 */
export function estimateSweep(state: ProjectState, screen: number): () => void {
  const own = new MeasuringPool()
  const learn = async () => {
    const { msEach } = await own.measure(await orderOf(state, screen, estimateSeeds))
    if (currentSweep().msEach === null) updateSweep({ msEach })
  }
  // Without an estimate none is shown; a sweep that starts reports errors itself.
  learn().catch(() => undefined)
  return () => own.cancel()
}

/** Simulates every combination that is not done yet, and the settings as they are, on all cores. */
export async function runSweep(): Promise<void> {
  const state = currentProject()
  const { varied, isRunning } = currentSweep()
  if (!state || isRunning || varied.length === 0 || rowCountOf(varied) > mostCombinations) return
  const screen = Math.min(currentDevice().screen, state.project.screens.length - 1)
  const of = inputOf(state.effective, screen)
  const all: [RowName, readonly Setting[]][] = [['now', []], ...combinations(varied).entries()]
  const pool = new MeasuringPool()
  beginSweep(pool)
  updateSweep({ isRunning: true, trouble: null, of, ...(currentSweep().of === of ? {} : { rows: new Map() }) })
  try {
    const wrong = await firstWrong(
      state.effective,
      all.map(([, settings]) => settings),
    )
    if (!isUnderWay(pool)) return
    if (wrong !== null) return updateSweep({ trouble: wrong })
    const base = await orderOf(state, screen, sweepSeeds)
    let kept = performance.now()
    await Promise.all(
      all.map(async ([row, settings]) => {
        if (currentSweep().rows.has(row)) return
        const { row: figures, tiny, msEach } = await pool.measure({ ...base, settings })
        if (!isUnderWay(pool)) return
        updateSweep({ rows: new Map(currentSweep().rows).set(row, { ...figures, row, tiny }), msEach })
        if (performance.now() - kept < keepEveryMs) return
        kept = performance.now()
        void keepSweep()
      }),
    )
  } catch (error) {
    pool.cancel()
    if (!(error instanceof Cancelled) && isUnderWay(pool))
      updateSweep({ trouble: `The sweep stopped: ${error instanceof Error ? error.message : String(error)}` })
  } finally {
    // A sweep that is shown as ended has been kept: the page may be left the moment after.
    if (isUnderWay(pool)) await keepSweep()
    if (isUnderWay(pool)) updateSweep({ isRunning: false })
  }
}
