import { visitOrder } from '../../core/project/visits.ts'
import type { Project, Visit } from '../../core/project/types.ts'
import type { Standstill } from '../../core/watch/standstill.ts'
import type { HoldingStage } from '../../live/cell-view.ts'
import type { FeedState } from '../../live/live-pages.ts'
import { createStore } from '../store/external-store.ts'
import { currentProject, followProject } from '../store/project-state.ts'

export interface DeviceState {
  /** The screen of the project that the device shows. */
  screen: number
  /** hand: the list is the user's; driving: a script moves it; still: as a drive left it. */
  mode: 'starting' | 'hand' | 'driving' | 'still' | 'failed'
  simulating: boolean
  /** 0–1 of what is under way. */
  progress: number
  /** The stage that every cell of the live device is forced to show. */
  forced: HoldingStage | null
  /** Slow motion of arrivals. */
  pace: number
  /** The list as a whole on the live device. */
  feed: FeedState
  trouble: string | null
  /** Patterns of the real hosts that the server may contact; null: not known yet. */
  relay: readonly string[] | null
  /** The kept run from whose state simulations of later visits begin; null: from what the visits before leave. */
  from: number | null
  /** The event at which a stepped drive is paused; null: it is running, or none is stepped. */
  standstill: Standstill | null
  /** Which visits a drive or a simulation makes. */
  visits: VisitChoice
}

export type VisitChoice = Visit | 'all'
/** The visits of a choice, in their order. */
export const visitsOf = (choice: VisitChoice): Visit[] => (choice === 'all' ? [...visitOrder] : [choice])

const store = createStore<DeviceState>({
  screen: 0,
  mode: 'starting',
  simulating: false,
  progress: 0,
  pace: 1,
  forced: null,
  feed: { is: 'waiting' },
  trouble: null,
  relay: null,
  standstill: null,
  from: null,
  visits: 'first',
})
export const useDevice = store.use
export const currentDevice = store.get

export const update = (change: Partial<DeviceState>) => store.set({ ...store.get(), ...change })

/** The screen of a project that the device shows. */
export const screenAt = (project: Project) => project.screens[Math.min(store.get().screen, project.screens.length - 1)]!

export function showScreen(screen: number): void {
  update({ screen })
}

/** The screen that each project last showed. */
const screens = new Map<string, number>()
let shown = currentProject()?.id ?? null

// Another project shows its own last screen, or its first: not the one that happens to have the same number.
followProject((state) => {
  if (!state || state.id === shown) return
  const { screen } = store.get()
  if (shown !== null) screens.set(shown, screen)
  // A copy continues on the screen of its original.
  const isCopy = state.copyOf === shown && !screens.has(state.id)
  shown = state.id
  showScreen(isCopy ? screen : (screens.get(state.id) ?? 0))
})

/** Which visits the next drive or simulation makes. */
export function chooseVisits(visits: VisitChoice): void {
  update({ visits })
}

/** From which kept run's state simulations of later visits begin. */
export function beginFrom(from: number | null): void {
  update({ from })
}

export const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error))
