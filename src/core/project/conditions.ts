import type { Parsed, ParseOutcome, Raw } from './parse.ts'
import { parseProject } from './parse.ts'
import { patchedBy } from './variants.ts'
import type { Project } from './types.ts'

type Condition = NonNullable<Project['variants'][number]['when']>

/** A device slower than this is a weak one, ×; one with no more memory than this has little, MB. */
const weakBelow = 0.6
const littleMb = 128

/** When a variant applies by itself: judged by the file as it is, before any variant. */
export const conditions: Readonly<
  Record<Condition, { name: string; explain: string; holds: (project: Project) => boolean }>
> = {
  metered: {
    name: 'on a metered network',
    explain: 'the network is marked as metered',
    holds: ({ network }) => network.metered,
  },
  'weak-device': {
    name: 'on a weak device',
    explain: `the device’s speed is below ${weakBelow} ×`,
    holds: ({ device }) => device.speed < weakBelow,
  },
  'low-memory': {
    name: 'when memory is low',
    explain: `the device has ${littleMb} MB of memory or less`,
    holds: ({ device }) => device.heapMb <= littleMb,
  },
}

export type Effective = Parsed & {
  /** Names of the variants that a condition has applied. */
  byCondition: string[]
}

/**
 * The effective project: the file, the variants whose conditions hold in the order in which they are shown, then the
 * variant that was picked by name; null: none was. Errors are those of parsing, and of a patch that cannot be applied.
 */
export function effectiveProject(raw: Raw, picked: string | null): Effective | Extract<ParseOutcome, { ok: false }> {
  const own = parseProject(raw)
  return own.ok ? effectiveOf(own, picked) : own
}

/** The same of a project that is already parsed. */
export function effectiveOf(own: Parsed, picked: string | null): Effective | Extract<ParseOutcome, { ok: false }> {
  const byCondition = own.project.variants
    .filter(({ when }) => when !== null && conditions[when].holds(own.project))
    .map(({ name }) => name)
  let now: Parsed = own
  for (const name of picked === null || byCondition.includes(picked) ? byCondition : [...byCondition, picked]) {
    const varied = patchedBy(now.raw, name, own.raw)
    if (!varied.ok) return varied
    now = { ...varied, warnings: own.warnings }
  }
  return { ...now, byCondition }
}
