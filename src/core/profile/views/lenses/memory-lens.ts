import type { Facts } from '../../facts/facts.ts'
import { curveWithin, isWithin, thinned, type While } from './while.ts'

export interface MemoryLens {
  /** MB at instants in ms. */
  points: { ms: number; tier: number; bound: number; garbage: number; rest: number }[]
  /** The end of the app, MB. */
  collections: { ms: number; pauseMs: number; asked: boolean }[]
  reliefs: number[]
}

export function memoryLens({ memory, collections, reliefs }: Facts, within: While | null = null): MemoryLens {
  const mb = (bytes: number) => bytes / 1e6
  return {
    points: thinned(
      curveWithin(
        memory.map((each) => ({
          ms: each.t / 1000,
          tier: mb(each.tier),
          bound: mb(each.bound),
          garbage: mb(each.garbage),
          rest: Math.max(0, mb(each.resident - each.tier - each.bound - each.garbage)),
        })),
        within,
      ),
    ),
    collections: collections
      .map(({ t, us, asked }) => ({ ms: t / 1000, pauseMs: us / 1000, asked }))
      .filter(({ ms }) => isWithin(ms, within)),
    reliefs: reliefs.map((t) => t / 1000).filter((ms) => isWithin(ms, within)),
  }
}
