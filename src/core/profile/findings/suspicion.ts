import type { Operation } from 'fast-json-patch'
import type { Project, Screen, Slot, Visit } from '../../project/types.ts'
import type { ComparedId, MetricId } from '../figures/metric-definitions.ts'
import type { TransferFact } from '../facts/facts.ts'
import type { Profile } from '../profile.ts'

/** A suspicion about a run: evidence from this run, and the change that should fix it. */
export interface Suspicion {
  id: string
  what: string
  /** In numbers from this run. */
  evidence: string
  /** The metric that the change is about. */
  metric: ComparedId
  change: string
  patch: Operation[]
  /** Where it shows on the map, ms; null: everywhere. */
  pinMs: number | null
  /**
   * No setting fixes it: another visit of the same project, on which the metric is below a bound, shows what it is
   * about.
   */
  other?: { visit: Visit; below: number }
}

export interface Subject extends Profile {
  project: Project
  screen: Screen
  /** Where the screen is in the project. */
  at: string
}

export type Rule = (subject: Subject) => Suspicion | null

export const replace = (path: string, value: unknown): Operation => ({ op: 'replace', path, value })
export const kB = (bytes: number) => `${Math.round(bytes / 1000)} kB`
export const percent = (share: number) => `${Math.round(100 * share)} %`
export const metric = ({ metrics }: Subject, id: MetricId) => metrics[id] ?? 0

/** Every slot of the screen with its path. */
export const slotsOf = ({ screen, at }: Subject): { slot: Slot; path: string }[] =>
  screen.cells.flatMap((cell, c) => cell.slots.map((slot, s) => ({ slot, path: `${at}/cells/${c}/slots/${s}` })))

/** µs of main-thread work of a cause in late frames, and when the first of them was. */
export function lateBy({ facts }: Subject, cause: string): { ms: number; frames: number; first: number | null } {
  const late = facts.frames.filter(
    (frame) => frame.presented > frame.due && (frame.causes.get(cause) ?? 0) > 0.25 * frame.work,
  )
  return {
    ms: late.reduce((sum, frame) => sum + (frame.causes.get(cause) ?? 0), 0) / 1000,
    frames: late.length,
    first: late[0] ? late[0].presented / 1000 : null,
  }
}

/** Slots whose transition runs even when memory had the picture. */
export const fadedFromMemory = (subject: Subject) =>
  slotsOf(subject).filter(
    ({ slot: { transition } }) =>
      transition.type !== 'none' && transition.ms > 0 && !transition.skip.includes('memory'),
  )

/** A visit is slow from this share of empty screen; below the other it is not. */
export const slowShare = 0.3
export const quickShare = 0.15

export const firstMs = (transfers: readonly TransferFact[]) => (transfers[0] ? transfers[0].startT / 1000 : null)
