import type { MapData } from '../../core/profile/views/map-data.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { createStore } from '../store/external-store.ts'

/** The effect of the present settings, simulated while the hand moves; null before the first. */
export interface Following {
  /** Figures of the newest change that is simulated to its end. */
  metrics: Metrics
  /** Map of the newest change as far as it is simulated; beyond that, of the one that `metrics` are of. */
  map: MapData
  /** How far the newest change is simulated, ms; null: to its end. */
  untilMs: number | null
  /** The settings that the map begins with. */
  raw: unknown
}

export const followed = createStore<Following | null>(null)
export const useFollowing = followed.use
