import { useEffect } from 'react'
import type { MapData } from '../../core/profile/views/map-data.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { createStore } from '../store/external-store.ts'
import type { Item } from '../../core/project/types.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { tell, type ProjectState } from '../store/project-store.ts'
import { Cancelled, handWorker } from './worker-client.ts'
import type { Answer } from '../../workers/jobs/jobs.ts'

/** What the settings as they are now would do, simulated while the hand moves; null before the first. */
export interface Following {
  metrics: Metrics
  map: MapData
  /** The settings that it ran with. */
  raw: unknown
}

const store = createStore<Following | null>(null)
export const useFollowing = store.use

interface Wish {
  state: ProjectState
  screen: number
}

/** One simulation at a time; the newest wish counts. */
let busy = false
let next: Wish | null = null
/** What was followed last. */
let followed: Wish | null = null
/** How many simulations it takes until the browser has compiled the engine well; each is made once a page at most. */
const warmRuns = 40
let warmed = 0

/** Simulates again whenever the project changes; only the newest change counts. */
export function useFollowHand(state: ProjectState | null, screen: number): void {
  useEffect(() => {
    store.set(null)
  }, [state?.id, screen])
  useEffect(() => {
    if (!state) return
    next = { state, screen }
    void work(false)
  }, [state, screen])
}

/**
 * A hand comes near the settings: the browser compiles code that runs often, so the engine runs now, and the first
 * drag is followed as closely as the hundredth. A change that is made meanwhile comes next.
 */
export const warmUp = () => work(true)

async function work(warming: boolean): Promise<void> {
  if (busy) return
  busy = true
  try {
    while (next || (warming && followed && warmed < warmRuns)) {
      const wish = next
      next = null
      if (!wish) warmed++
      const answer = await simulate(wish ?? followed!)
      if (!wish || !answer) continue
      followed = wish
      store.set({ metrics: answer.metrics, map: answer.map, raw: wish.state.effective })
    }
  } finally {
    busy = false
  }
}

/** The first visit as the settings are, in the worker that follows the hand; null: there are no items, or it was cancelled. */
async function simulate({ state: { id, project }, screen }: Wish): Promise<Answer<'follow'> | null> {
  const chosen = project.screens[Math.min(screen, project.screens.length - 1)]!
  let items: readonly Item[] | null
  try {
    items = await itemsToGive(id, chosen)
  } catch {
    // The device says what is missing; there is nothing to follow until it is there.
    return null
  }
  const job = handWorker.ask('follow', {
    project,
    screen: chosen.id,
    script: project.script ?? '',
    seed: project.seed,
    items,
  })
  try {
    return await job.result
  } catch (error) {
    if (!(error instanceof Cancelled))
      tell(`The strip cannot follow: ${error instanceof Error ? error.message : String(error)}.`)
    return null
  }
}
