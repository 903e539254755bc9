import type { Item, Project, Visit } from '../../core/project/types.ts'
import type { Raw } from '../../core/project/parse.ts'

/** How a job learns that it is cancelled, yields to others, and reports its progress. */
export interface JobHooks<Answer = never> {
  cancelled: () => boolean
  /** Gives the message queue a turn. */
  rest: () => Promise<void>
  /** 0 to 1. */
  progress: (share: number) => void
  /** Sends a partial answer. */
  part: (answer: Answer) => void
  now: () => number
}

/** The error of a cancelled job. */
export class JobCancelled extends Error {}

/** Ends a job here if it was cancelled. */
export function stopIfCancelled({ cancelled }: JobHooks): void {
  if (cancelled()) throw new JobCancelled()
}

/** The result of a function that returns null when the job was cancelled. */
export function unlessCancelled<T>(made: T | null): T {
  if (made === null) throw new JobCancelled()
  return made
}

/** Known bytes and px of pictures, by their addresses. */
export type SeenPictures = [string, { bytes: number; width: number; height: number }][]

/** Identifies a drive of a project. `items`: those of the screen's feed when they are not in the project. */
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

/** The requests that a view is limited to, by number; null: all. */
export type Requests = readonly number[] | null
