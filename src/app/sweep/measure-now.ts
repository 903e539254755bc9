import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import type { Setting } from '../../core/sweep/setting.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import type { TinyMap } from '../../core/profile/views/tiny-map.ts'
import type { Visit } from '../../core/project/types.ts'
import { seenPictures } from '../device/device-store.ts'
import type { MeasuringPool } from '../simulate/worker-pool.ts'
import { itemsToGive } from '../store/feed-store.ts'
import type { ProjectState } from '../store/project-store.ts'

export interface Place {
  screen: string
  visit: Visit
}

/** The screen that a budget is checked on: its own, else the first. */
export const placeOf = (
  { screen, visit }: { screen?: string | undefined; visit: Visit },
  { project }: ProjectState,
): Place => ({ screen: screen ?? project.screens[0]!.id, visit })

/** Measures a project with some settings at other values, on so many seeds from `first` on. */
export async function measureAt(
  pool: MeasuringPool,
  state: ProjectState,
  { screen, visit }: Place,
  settings: readonly Setting[],
  first: number,
  count: number,
): Promise<{ row: SweepRow; tiny: TinyMap; runs: Metrics[] }> {
  const own = state.project.screens.find(({ id }) => id === screen)
  if (!own) throw new Error(`there is no screen “${screen}” any more`)
  const { metrics, row, tiny } = await pool.measure({
    raw: state.effective,
    screen,
    script: state.project.script ?? '',
    seed: state.project.seed,
    visit,
    items: await itemsToGive(state.id, own),
    seen: seenPictures(),
    settings,
    seeds: Array.from({ length: count }, (_, n) => first + n),
  })
  return { row, tiny, runs: metrics }
}
