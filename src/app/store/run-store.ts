import { useLiveQuery } from 'dexie-react-hooks'
import { liveQuery } from 'dexie'
import { differences } from '../../core/project/differences.ts'
import type { Raw } from '../../core/project/parse.ts'
import type { Visit } from '../../core/project/types.ts'
import type { RunResult } from '../../workers/messages.ts'
import type { MapData } from '../../core/profile/map-data.ts'
import { database, type StoredLog, type StoredRun, type TinyMap } from './database.ts'
import { createStore } from './external-store.ts'

export interface RunFacts {
  project: string
  world: 'simulated' | 'live'
  visit: Visit
  screen: string
  script: string
  seed: number
  raw: Raw
}

export interface Runs {
  list: StoredRun[]
  /** The run that the strip and Profile show; the latest one unless another was picked. */
  shown: number | null
  /** Map and log of runs that are on screen. */
  opened: ReadonlyMap<number, StoredLog>
}

const store = createStore<Runs>({ list: [], shown: null, opened: new Map() })
export const useRuns = store.use

let following: { unsubscribe: () => void } | null = null

/** Follows the runs of a project; a newly opened project shows its latest run. */
export function followRuns(project: string): void {
  following?.unsubscribe()
  store.set({ list: [], shown: null, opened: new Map() })
  following = liveQuery(() => database.runs.where('project').equals(project).sortBy('id')).subscribe({
    next: (list) => {
      const state = store.get()
      const newest = list.at(-1)?.id ?? null
      const isNew = newest !== (state.list.at(-1)?.id ?? null)
      const shown = isNew || !list.some((run) => run.id === state.shown) ? newest : state.shown
      store.set({ ...state, list, shown })
      void openShown()
    },
    error: (error: unknown) => {
      throw error
    },
  })
}

/** Keeps a run with its log; it becomes the one that is shown. */
export async function keepRun(facts: RunFacts, result: RunResult, gapShare: number | null): Promise<number> {
  const { metrics, checks, hash, log, map, kept } = result
  return database.transaction('rw', database.runs, database.runLogs, async () => {
    const before = await database.runs.where('project').equals(facts.project).last()
    const id = await database.runs.add({
      ...facts,
      hash,
      checks,
      metrics: gapShare === null ? metrics : { ...metrics, 'ledger.gapShare': gapShare },
      number: (before?.number ?? 0) + 1,
      when: Date.now(),
      baseline: false,
      changed: before ? differences(before.raw, facts.raw).slice(0, mostChanges) : [],
      tiny: tinyOf(map),
    })
    await database.runLogs.put({ run: id, log, map, kept })
    return id
  })
}

/** A run's log and map, from this browser; undefined while it is read. */
export function useRunLog(id: number | undefined): StoredLog | undefined {
  return useLiveQuery(() => (id === undefined ? undefined : database.runLogs.get(id)), [id])
}

export function showRun(id: number): void {
  store.set({ ...store.get(), shown: id })
  void openShown()
}

/** One run at a time is the baseline that others are held against. */
export async function pinBaseline(run: StoredRun): Promise<void> {
  await database.transaction('rw', database.runs, async () => {
    await database.runs.where('project').equals(run.project).modify({ baseline: false })
    await database.runs.update(run.id, { baseline: !run.baseline })
  })
}

/** Keeps what is noted of a run. */
export async function keepNotes(run: number, notes: NonNullable<StoredRun['notes']>): Promise<void> {
  await database.runs.update(run, { notes })
}

/** Gives a run a name of its own; an empty one takes it away. */
export async function renameRun(run: number, name: string): Promise<void> {
  await database.runs.update(run, { name: name.trim() })
}

/** Deletes a run; returns what brings it back. */
export async function deleteRun(run: StoredRun): Promise<() => Promise<void>> {
  const log = await database.runLogs.get(run.id)
  await database.transaction('rw', database.runs, database.runLogs, async () => {
    await database.runs.delete(run.id)
    await database.runLogs.delete(run.id)
  })
  return async () => {
    await database.runs.put(run)
    if (log) await database.runLogs.put(log)
  }
}

/** The run that others are held against: the pinned one, else the one before the one shown. */
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

async function openShown(): Promise<void> {
  const { shown, opened } = store.get()
  const wanted = [shown, baselineOf(store.get())?.id ?? null].filter((id) => id !== null)
  const entries = await Promise.all(wanted.map(async (id) => opened.get(id) ?? (await database.runLogs.get(id))))
  const next = new Map(entries.filter((entry) => entry !== undefined).map((entry) => [entry.run, entry]))
  store.set({ ...store.get(), opened: next })
}

/** So many changes since the run before are kept with a run. */
const mostChanges = 20

/** So many points of the gesture, and of ends of requests, are told of a tiny map. */
const mostTiny = 60

function tinyOf(map: MapData): TinyMap {
  let deepest = map.heightDp
  for (const top of map.channel.top) deepest = Math.max(deepest, top + map.heightDp)
  // What was looked ahead for lies beneath the farthest screen.
  for (const y of map.lines.y) deepest = Math.max(deepest, y)
  const share = (value: number, of: number) => Math.round((1000 * value) / Math.max(1, of)) / 1000
  const some = (count: number) =>
    Array.from({ length: Math.min(mostTiny, count) }, (_, i) => Math.floor((i * count) / Math.min(mostTiny, count)))
  return {
    line: some(map.channel.t.length).map((i) => [
      share(map.channel.t[i]!, map.endMs),
      share(map.channel.top[i]!, deepest),
    ]),
    ends: some(map.lines.to.length).map((i) => [
      share(map.lines.to[i]!, map.endMs),
      share(map.lines.y[i]!, deepest),
      map.lines.kind[i]!,
    ]),
  }
}
