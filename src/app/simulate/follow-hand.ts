import { useEffect } from 'react'
import type { MapData } from '../../core/profile/map-data.ts'
import type { Metrics } from '../../core/profile/metrics.ts'
import { noItems } from '../../core/worlds/virtual/virtual-world.ts'
import { createStore } from '../store/external-store.ts'
import type { Item } from '../../core/project/types.ts'
import { itemsOf } from '../store/feed-store.ts'
import type { ProjectState } from '../store/project-store.ts'
import { Cancelled, handWorker, type Job } from './worker-client.ts'
import type { Answer } from '../../workers/messages.ts'

/** What the settings as they are now would do, simulated while the hand moves; null before the first. */
export interface Following {
  metrics: Metrics
  map: MapData
  /** The settings that it ran with. */
  raw: unknown
}

const store = createStore<Following | null>(null)
export const useFollowing = store.use

let running: Job<Answer> | null = null
let next: ProjectState | null = null

/** Simulates again whenever the project changes; only the newest change counts. */
export function useFollowHand(state: ProjectState | null, screen: number): void {
  useEffect(() => {
    store.set(null)
  }, [state?.id, screen])
  useEffect(() => {
    if (!state) return
    next = state
    if (!running) void run(screen)
  }, [state, screen])
}

async function run(screen: number): Promise<void> {
  while (next) {
    const state = next
    next = null
    const { project, effective: raw } = state
    const chosen = project.screens[Math.min(screen, project.screens.length - 1)]!
    let items: readonly Item[] | null = null
    try {
      if (noItems(chosen.feed) !== null) items = await itemsOf(state.id, chosen)
    } catch {
      // The device says what is missing; there is nothing to follow until it is there.
      continue
    }
    running = handWorker.ask({
      do: 'follow', project, screen: chosen.id, script: project.script ?? '', seed: project.seed, items,
    })
    try {
      const answer = await running.result
      if (answer.is === 'followed') store.set({ metrics: answer.metrics, map: answer.map, raw })
    } catch (error) {
      if (!(error instanceof Cancelled)) throw error
    } finally {
      running = null
    }
  }
}
