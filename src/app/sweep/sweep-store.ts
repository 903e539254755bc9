import { hashText } from '../../core/numbers/draw.ts'
import type { TinyMap } from '../../core/profile/views/tiny-map.ts'
import { defaultValues, labelOf } from '../../core/sweep/default-values.ts'
import { isWhole } from '../../core/sweep/setting.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import type { Varied } from '../../core/sweep/vary.ts'
import { database, sweepName } from '../store/database.ts'
import { createStore } from '../store/external-store.ts'
import { readOwnPresets } from '../store/own-presets.ts'
import { keep } from '../store/storage.ts'
import { currentProject, type ProjectState } from '../store/project-store.ts'

const mostVaried = 3
export const mostCombinations = 400
export const sweepSeeds = 10

/** The number of a combination, or the settings as they are. */
export type RowName = number | 'now'

/** A row with its map as small as a word. */
export interface DrawnRow extends SweepRow<RowName> {
  tiny: TinyMap
}

/** The row of a combination. */
export type TriedRow = DrawnRow & { row: number }
export const isTried = (row: DrawnRow): row is TriedRow => row.row !== 'now'

export interface SweepState {
  project: string | null
  varied: readonly Varied[]
  /** Finished rows. */
  rows: ReadonlyMap<RowName, DrawnRow>
  /** The settings that the rows were made with have not changed since. */
  of: number | null
  isRunning: boolean
  trouble: string | null
  /** What one simulation takes, ms; null: none was made yet. */
  msEach: number | null
}

const none: SweepState = {
  project: null,
  varied: [],
  rows: new Map(),
  of: null,
  isRunning: false,
  trouble: null,
  msEach: null,
}
const store = createStore<SweepState>(none)
export const useSweep = store.use
export const currentSweep = store.get
export const updateSweep = (change: Partial<SweepState>) => store.set({ ...store.get(), ...change })

/** The sweep under way; once the project or the settings to vary change, it belongs to nobody any more. */
let underWay: { cancel: () => void } | null = null

/** A sweep begins: whatever stops sweeps stops it. */
export function beginSweep(sweep: { cancel: () => void }): void {
  underWay = sweep
}

/** Whether a sweep that began is still the one that is under way. */
export const isUnderWay = (sweep: { cancel: () => void }) => underWay === sweep

/** Ends the sweep; finished rows stay, and it can be resumed. */
export function cancelSweep(): void {
  underWay?.cancel()
}

/** What a sweep of a project depends on, as one number. */
export function inputOf(effective: ProjectState['effective'], screen: number): number {
  return hashText(`${screen} ${JSON.stringify({ ...effective, name: null, variants: null, budgets: null })}`)
}

/** Ends the sweep that is under way, whose rows no longer fit the settings to vary, or whose project is another. */
function stop(): void {
  underWay?.cancel()
  underWay = null
  updateSweep({ isRunning: false })
}

/** Shows what this browser keeps of the project's sweep. */
export async function followSweep(project: string): Promise<void> {
  if (store.get().project === project) return
  stop()
  store.set({ ...none, project })
  // A failing storage keeps no sweep: the next one is made again.
  const kept = (await database.memory.get(sweepName(project)).catch(() => undefined))?.value as
    (Pick<SweepState, 'varied' | 'of' | 'msEach'> & { rows: (DrawnRow | string)[] }) | undefined
  if (!kept || store.get().project !== project || store.get().varied.length > 0) return
  const rows = kept.rows.map((row) => withName(typeof row === 'string' ? (JSON.parse(row) as DrawnRow) : row))
  updateSweep({ ...kept, rows: new Map(rows.map((row) => [row.row, row])) })
}

/** A row as an earlier version kept it: the settings as they are had a number. */
const withName = (row: DrawnRow): DrawnRow => (row.row === -1 ? { ...row, row: 'now' } : row)

/**
 * Rows as they are kept: each is serialised once, since some hundred figures a row are slow to copy again and again.
 */
const written = new WeakMap<DrawnRow, string>()

function serialised(row: DrawnRow): string {
  const text = written.get(row) ?? JSON.stringify(row)
  written.set(row, text)
  return text
}

export async function keepSweep(): Promise<void> {
  const { project, varied, rows, of, msEach } = store.get()
  if (project === null) return
  const name = sweepName(project)
  await keep(name, 'the sweep', async () => {
    await database.memory.put({ name, value: { varied, of, msEach, rows: [...rows.values()].map(serialised) } })
  })
}

/** Puts a setting on the sweep with some values, or removes it with none. */
export function vary(path: string, values: readonly unknown[] | null): void {
  const { varied } = store.get()
  const others = varied.filter((each) => each.path !== path)
  const at = varied.findIndex((each) => each.path === path)
  const next = values === null || values.length === 0 ? others : varied.with(at, { path, values })
  if (values !== null && at < 0) return
  stop()
  updateSweep({ varied: next, rows: new Map(), of: null, trouble: null })
  void keepSweep()
}

/**
 * Puts a setting on the sweep with values around its present one; one that is on it is removed. Returns what prevents
 * it.
 */
export async function toggleVary(path: string): Promise<string | null> {
  const state = currentProject()
  // Storage that fails has no presets to offer.
  const own = isWhole(path) ? await readOwnPresets(path).catch(() => []) : []
  const { varied } = store.get()
  if (!state || currentProject()?.id !== state.id) return null
  if (varied.some((each) => each.path === path)) {
    vary(path, null)
    return null
  }
  if (varied.length === mostVaried)
    return `${mostVaried} settings vary in the sweep already (${varied.map((each) => labelOf(each.path)).join(', ')}): take one off first.`
  stop()
  const ready = defaultValues(path, state.project, state.raw)
  const values = [
    ...ready,
    ...own.filter(({ name }) => !ready.includes(name)).map(({ name, values }) => ({ name, values })),
  ]
  updateSweep({ varied: [...varied, { path, values }], rows: new Map(), of: null, trouble: null })
  void keepSweep()
  return null
}
