import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import { readJson } from '../core/project/json-text.ts'
import { visitOrder } from '../core/project/visits.ts'
import { badInput } from './fault.ts'
import { readText } from './read-text.ts'

/** The figures that relative budgets are compared with, by visit, from the output of `run --json`. */
export async function readBaseline(file: string): Promise<Map<string, Metrics>> {
  const read = readJson(await readText(file))
  if (!read.ok) throw badInput(`${file}: ${read.message}`)
  const list = Array.isArray(read.value) ? read.value : [read.value]
  return new Map(
    list.map((each: unknown, index) => {
      const { visit, metrics } = (each ?? {}) as { visit?: unknown; metrics?: unknown }
      if (
        typeof visit !== 'string' ||
        !(visitOrder as readonly string[]).includes(visit) ||
        typeof metrics !== 'object' ||
        metrics === null
      )
        throw badInput(`${file}: /${index}: found no visit with metrics; allowed: what "run --json" prints`)
      return [visit, metrics as Metrics]
    }),
  )
}

/** The message for a relative budget when no baseline was given. */
export const withoutBaseline = (file: string, index: number) =>
  badInput(`${file}: /budgets/${index}: is relative to a baseline; give one with --against FILE (the --json of a run)`)
