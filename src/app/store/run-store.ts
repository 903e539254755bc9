import { useLiveQuery } from 'dexie-react-hooks'
import { liveQuery } from 'dexie'
import { useCallback } from 'react'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import type { Raw } from '../../core/project/parse.ts'
import type { Visit } from '../../core/project/types.ts'
import type { RunResult } from '../../workers/jobs/run-result.ts'
import { tinyOf } from '../../core/profile/views/tiny-map.ts'
import { database, type StoredLog, type StoredRun } from './database.ts'
import { createStore } from './external-store.ts'
import { addStep } from './history.ts'
import { notify } from './project-store.ts'
import { dropUnusedItems } from './shared-items.ts'
import { forgetWaiting, keep, tryAgain } from './storage.ts'
import { bytesOf, readLatestRun, readRuns, writeRun } from './stored-runs.ts'

export interface RunFacts {
  project: string
  world: 'simulated' | 'live' | 'recorded'
  visit: Visit
  screen: string
  script: string
  seed: number
  raw: Raw
}

export interface Runs {
  /** The project whose runs these are; null: none is followed yet. */
  project: string | null
  list: StoredRun[]
  /** The run that the strip shows; the latest one unless another was picked. */
  shown: number | null
  /** Map and log of runs that are on screen. */
  opened: ReadonlyMap<number, Omit<StoredLog, 'kept'>>
  /** Whether the list has been read. */
  read: boolean
}

const nothing: Runs = { project: null, list: [], shown: null, opened: new Map(), read: false }
const store = createStore<Runs>(nothing)
export const useRuns = store.use
export const currentRuns = store.get

let following: { unsubscribe: () => void } | null = null
/** Runs that wait for room, by their number; they are shown like any other. */
const unkept = new Map<number, { run: StoredRun; log: StoredLog }>()
/** The runs that storage has. */
let kept: StoredRun[] = []

/** Follows the runs of a project; a newly opened project shows its latest run. */
export function followRuns(project: string): void {
  following?.unsubscribe()
  kept = []
  store.set({ ...nothing, project })
  following = liveQuery(() => readRuns(project)).subscribe({
    next: (list) => {
      kept = list
      publish(project)
    },
    error: (error: unknown) => {
      // Storage has failed under an open page: the runs on screen stay there.
      notify(`The runs of this project cannot be read: ${error instanceof Error ? error.message : String(error)}.`)
    },
  })
}

function publish(project: string): void {
  const state = store.get()
  if (state.project !== project) return
  const waiting = [...unkept.values()].map(({ run }) => run).filter((run) => run.project === project)
  const list = [...kept.filter(({ id }) => !unkept.has(id)), ...waiting]
  const newest = list.at(-1)?.id ?? null
  const isNew = newest !== null && !state.list.some(({ id }) => id === newest)
  const shown = isNew || !list.some((run) => run.id === state.shown) ? newest : state.shown
  store.set({ ...state, list, shown, read: true })
  void openShown()
}

/**
 * Keeps a run with its log and shows it. Without room for it, it stays in this tab and waits. Returns the `id` of the
 * run.
 */
export function keepRun(facts: RunFacts, result: RunResult, gapShare: number | null): Promise<number> {
  // One after the other: each gets the number after that of the one before.
  keeping = keeping.then(
    () => keepNext(facts, result, gapShare),
    () => keepNext(facts, result, gapShare),
  )
  return keeping
}

let keeping: Promise<number> = Promise.resolve(0)

async function keepNext(facts: RunFacts, result: RunResult, gapShare: number | null): Promise<number> {
  const { metrics, checks, hash, log, map, kept: left } = result
  const { differences } = await import('../../core/project/differences.ts')
  const before = await latestRun(facts.project)
  const run: Omit<StoredRun, 'id'> = {
    ...facts,
    hash,
    checks,
    metrics: gapShare === null ? metrics : { ...metrics, 'ledger.gapShare': gapShare },
    number: (before?.number ?? 0) + 1,
    when: Date.now(),
    baseline: false,
    changed: before ? differences(before.raw, facts.raw).slice(0, mostChanges) : [],
    tiny: tinyOf(map),
    bytes: bytesOf({ run: 0, log, map, kept: left }),
  }
  let id: number | null = null
  const done = await keep(`run ${facts.project} ${run.number}`, `run ${run.number}`, async () => {
    const now = await writeRun(run, { log, map, kept: left }, id)
    if (id !== null) unkept.delete(id)
    id = now
    publish(facts.project)
  })
  if (done) return id!
  id = await nextId()
  unkept.set(id, { run: { ...run, id }, log: { run: id, log, map, kept: left } })
  publish(facts.project)
  return id
}

async function latestRun(project: string): Promise<StoredRun | undefined> {
  const waiting = [...unkept.values()].map(({ run }) => run).filter((run) => run.project === project)
  return waiting.at(-1) ?? (await readLatestRun(project))
}

/** A number that no run has, for one that waits. */
async function nextId(): Promise<number> {
  const last = await database.runs
    .orderBy('id')
    .last()
    .catch(() => undefined)
  return Math.max(last?.id ?? 0, ...unkept.keys()) + 1
}

/** A run's log and map: of one that waits, or from this browser. */
export async function logOf(id: number): Promise<StoredLog | undefined> {
  return unkept.get(id)?.log ?? (await database.runLogs.get(id))
}

/** A run's log and map, from this browser; undefined while it is read. */
export function useRunLog(id: number | undefined): StoredLog | undefined {
  return useLiveQuery(() => (id === undefined ? undefined : logOf(id)), [id])
}

export function showRun(id: number): void {
  store.set({ ...store.get(), shown: id })
  void openShown()
}

/** The baseline that others are compared with: one run at a time. */
export async function pinBaseline(run: StoredRun): Promise<void> {
  await database.transaction('rw', database.runs, async () => {
    await database.runs.where('project').equals(run.project).modify({ baseline: false })
    await database.runs.update(run.id, { baseline: !run.baseline })
  })
}

/** Saves the notes of a run. */
export async function keepNotes(run: number, notes: NonNullable<StoredRun['notes']>): Promise<void> {
  await change(run, { notes })
}

/** Gives a run a name of its own; an empty one removes it. */
export async function renameRun(run: number, name: string): Promise<void> {
  await change(run, { name: name.trim() })
}

async function change(id: number, values: Partial<StoredRun>): Promise<void> {
  const waiting = unkept.get(id)
  if (waiting) {
    Object.assign(waiting.run, values)
    publish(waiting.run.project)
  } else
    await keep(`change of run ${id}`, 'a change of a run', async () => void (await database.runs.update(id, values)))
}

/** Deletes a run, as a step that can be undone. */
export async function deleteRun(run: StoredRun): Promise<void> {
  const log = await logOf(run.id)
  const remove = async () => {
    if (unkept.delete(run.id)) forgetWaiting(`run ${run.project} ${run.number}`)
    await database.transaction('rw', database.runs, database.runLogs, async () => {
      await database.runs.delete(run.id)
      await database.runLogs.delete(run.id)
    })
    publish(run.project)
    await dropUnusedItems()
    // Its size may be the room that something else waits for.
    await tryAgain()
  }
  const bringBack = async () => {
    await keep(`run ${run.project} ${run.number}`, `run ${run.number}`, async () => {
      const { id, ...rest } = run
      if (log) await writeRun(rest, log, id)
    })
  }
  await remove()
  addStep({
    name: `delete run ${run.number}`,
    notice: `Run ${run.number} was deleted`,
    project: null,
    undo: bringBack,
    redo: remove,
  })
}

/** The run that others are compared with: the pinned one, else the one before the one shown. */
export function baselineOf({ list, shown }: Runs): StoredRun | null {
  const at = list.findIndex((run) => run.id === shown)
  const pinned = list.find((run) => run.baseline)
  if (pinned) return pinned.id === shown ? null : pinned
  const present = list[at]
  return (
    list
      .slice(0, Math.max(0, at))
      .findLast((run) => run.script === present?.script && run.screen === present?.screen) ?? null
  )
}

/** The figures of the pinned run for a budget of its screen and visit; null: none is pinned, or it is of others. */
export function useBaselineFigures(): (at: { screen: string; visit: Visit }) => Metrics | null {
  const pinned = useRuns(({ list }) => list.find((run) => run.baseline))
  return useCallback(
    ({ screen, visit }) => (pinned?.screen === screen && pinned.visit === visit ? pinned.metrics : null),
    [pinned],
  )
}

async function openShown(): Promise<void> {
  const { shown, opened } = store.get()
  const wanted = [shown, baselineOf(store.get())?.id ?? null].filter((id) => id !== null)
  const entries = await Promise.all(wanted.map(async (id) => opened.get(id) ?? (await logOf(id))))
  const next = new Map(
    // What it left in the tiers is read when a simulation begins from it: nothing on screen shows it.
    entries.filter((entry) => entry !== undefined).map(({ run, log, map }) => [run, { run, log, map }]),
  )
  store.set({ ...store.get(), opened: next })
}

/** The number of changes since the run before that are kept with a run. */
const mostChanges = 20
