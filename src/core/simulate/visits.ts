import type { Project, Visit } from '../project/types.ts'
import { visitOrder } from '../project/visits.ts'
import { simulate, type Simulated, type SimulateOptions } from './simulate.ts'

/**
 * Simulates visits one after the other, each from what the one before left behind. A later visit that is requested
 * without the earlier ones is preceded by them, unreported.
 */
export function simulateVisits(project: Project, visits: readonly Visit[], options: SimulateOptions = {}): Simulated[] {
  const last = Math.max(...visits.map((visit) => visitOrder.indexOf(visit)))
  const results: Simulated[] = []
  let before: Simulated | null = null
  for (const visit of visitOrder.slice(0, last + 1)) {
    before = simulate(project, { ...options, visit, kept: before?.kept ?? null, epochMs: before?.endMs ?? 0 })
    if (visits.includes(visit)) results.push(before)
  }
  return results
}
