import { createStore } from './external-store.ts'

/** An action that can be undone. */
export interface Step {
  /** Its name in a menu: "delete run 3". */
  name: string
  /** The text of its notice, if something was deleted: "Run 3 was deleted". */
  notice?: string
  /** The project whose file it changed; null: it stays when another project is opened. */
  project: string | null
  undo: () => Promise<void> | void
  redo: () => Promise<void> | void
}

/** How many steps are remembered, and how many of those that hold deleted things. */
const mostSteps = 100
const mostDeleted = 20

let past: Step[] = []
let future: Step[] = []

/**
 * What Undo and Redo would undo and redo; null: nothing. `deleted`: the last thing that was deleted, for its notice.
 */
const store = createStore<{ undo: string | null; redo: string | null; deleted: string | null }>({
  undo: null,
  redo: null,
  deleted: null,
})
export const useHistory = store.use

function publish(deleted = store.get().deleted): void {
  store.set({ undo: past.at(-1)?.name ?? null, redo: future.at(-1)?.name ?? null, deleted })
}

export function addStep(step: Step): void {
  past.push(step)
  future = []
  const deletes = past.filter(({ project }) => project === null)
  const oldest = deletes.length > mostDeleted ? deletes[0] : undefined
  past = past.filter((each) => each !== oldest).slice(-mostSteps)
  publish(step.notice ?? null)
}

/** The last step, if nothing has been undone since. */
export const lastStep = (): Step | null => (future.length === 0 ? (past.at(-1) ?? null) : null)

export async function undoLast(): Promise<void> {
  const step = past.pop()
  if (!step) return
  future.push(step)
  publish(null)
  await step.undo()
}

export async function redoLast(): Promise<void> {
  const step = future.pop()
  if (!step) return
  past.push(step)
  publish(null)
  await step.redo()
}

/**
 * Another project was opened: changes of the former's file are not steps of it; what was deleted can still be brought
 * back.
 */
export function forgetEditsOf(others: (project: string) => boolean): void {
  const stays = ({ project }: Step) => project === null || !others(project)
  past = past.filter(stays)
  future = future.filter(stays)
  publish()
}

/** A project continues under another id: its steps go with it. */
export function renameProjectOfEdits(from: string, to: string): void {
  for (const step of [...past, ...future]) if (step.project === from) step.project = to
}

/** The notice of a deletion is dismissed; it can still be undone. */
export function putDeletedAway(): void {
  publish(null)
}
