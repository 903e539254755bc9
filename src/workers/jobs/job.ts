import type { Item, Project, Visit } from '../../core/project/types.ts'
import type { Raw } from '../../core/project/parse.ts'

/** How a job learns that it is cancelled, lets others in, and says how far it is. */
export interface JobHooks<Answer = never> {
  cancelled: () => boolean
  /** Gives the message queue a turn. */
  rest: () => Promise<void>
  /** 0 to 1. */
  progress: (share: number) => void
  /** Tells an answer that is not the whole one yet. */
  part: (answer: Answer) => void
  now: () => number
}

/** What a cancelled job ends with. */
export class JobCancelled extends Error {}

/** Ends a job here when it was cancelled. */
export function stopIfCancelled({ cancelled }: JobHooks): void {
  if (cancelled()) throw new JobCancelled()
}

/** What a job made, for one that answers null when it was cancelled. */
export function unlessCancelled<T>(made: T | null): T {
  if (made === null) throw new JobCancelled()
  return made
}

/** What is known of pictures by their addresses: bytes and px. */
export type SeenPictures = [string, { bytes: number; width: number; height: number }][]

/** Which drive of a project is meant. `items`: those of the screen's feed when they are not in the project. */
export interface DriveOrder {
  screen: string
  script: string
  seed: number
  items: readonly Item[] | null
}

/** A drive of a parsed project. */
export interface ProjectOrder extends DriveOrder {
  project: Project
}

/** A drive of a project as its file has it, so that changes can be applied to it. */
export interface RawOrder extends DriveOrder {
  raw: Raw
  visit: Visit
  seen: SeenPictures
}

/** The requests that a view is narrowed to, by number; null: all. */
export type Requests = readonly number[] | null
