import type { Raw } from '../../core/project/parse.ts'
import type { Project } from '../../core/project/types.ts'
import { createStore } from './external-store.ts'

export type Saved = 'saved' | 'saving' | 'failed'

export interface ProjectState {
  id: string
  raw: Raw
  /** What everything shows and runs: the file, or the file with a variant applied. */
  project: Project
  /** The file that `project` was made from. */
  effective: Raw
  /** The variant that was picked; null: the file as it is. */
  variant: string | null
  /** Variants that apply by themselves, because their condition holds. */
  byCondition: readonly string[]
  saved: Saved
  /** What went wrong, or what should be known; shown until it is dismissed. */
  notice: string | null
  /** The project that this one is a copy of, because another tab had changed it. */
  copyOf: string | null
}

const store = createStore<ProjectState | null>(null)
/** The state that views show: the newest, or while a hand moves the one before, until `drawWhen` lets it through. */
const drawn = createStore<ProjectState | null>(null)
let waitsFor: Promise<void> | null = null

export const useProject = drawn.use
/** Read without a view. @public */
export const drawnProject = drawn.get
export const currentProject = store.get
/** Whether views show the newest state: false while they wait for what a hand's change has to show first. */
export const isDrawn = (): boolean => drawn.get() === store.get()
/** Calls the listener with each new state before any view is drawn of it. */
export const followProject = store.follow

/** Makes a state the present one. */
export function put(next: ProjectState): void {
  waitsFor = null
  store.set(next)
  if (waitsFor === null) drawn.set(next)
}

/** Holds views back from the latest change, for code that has something to show first. */
export function drawWhen(answered: Promise<void>): void {
  waitsFor = answered
  void answered.finally(() => {
    // A later change waits for its own answer.
    if (waitsFor === answered) drawn.set(store.get())
  })
}

/** Shows a message about the project until it is dismissed; null dismisses it. */
export function notify(notice: string | null): void {
  const state = store.get()
  if (state) put({ ...state, notice })
}
