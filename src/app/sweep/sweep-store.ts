import { hashText } from '../../core/numbers/draw.ts'
import type { TinyMap } from '../../core/profile/views/tiny-map.ts'
import { defaultValues, labelOf } from '../../core/sweep/default-values.ts'
import { projectWith, type Setting } from '../../core/sweep/setting.ts'
import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import { combinations, rowCountOf, type Varied } from '../../core/sweep/vary.ts'
import { currentDevice, seenPictures } from '../device/device-store.ts'
import { MeasuringPool } from '../simulate/worker-pool.ts'
import { Cancelled } from '../simulate/worker-client.ts'
import { database, sweepName } from '../store/database.ts'
import { createStore } from '../store/external-store.ts'
import { itemsToGive } from '../store/feed-store.ts'
import { keep } from '../store/storage.ts'
import { currentProject, type ProjectState } from '../store/project-store.ts'

const mostVaried = 3
export const mostCombinations = 400
export const sweepSeeds = 10
/** Results are kept at least so often while a sweep runs, ms. */
const keepEveryMs = 1000

/** A row with its map as small as a word. */
export interface DrawnRow extends SweepRow {
  tiny: TinyMap
}

export interface SweepState {
  project: string | null
  varied: readonly Varied[]
  /** What is done, by row; −1: the settings as they are. */
  rows: ReadonlyMap<number, DrawnRow>
  /** The settings that the rows were made with have not changed since. */
  of: number | null
  isRunning: boolean
  trouble: string | null
  /** What one simulation takes, ms; null: none was made yet. */
  msEach: number | null
}

/** The row of the settings as they are. */
export const nowRow = -1

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
const update = (change: Partial<SweepState>) => store.set({ ...store.get(), ...change })

let pool: MeasuringPool | null = null

/** What a sweep of a project depends on, as one number. */
export function inputOf(effective: ProjectState['effective'], screen: number): number {
  return hashText(`${screen} ${JSON.stringify({ ...effective, name: null, variants: null, budgets: null })}`)
}

/** Ends the sweep that is under way, whose rows do not fit what is varied now, or whose project is another. */
function stop(): void {
  pool?.cancel()
  pool = null
  update({ isRunning: false })
}

/** Shows what this browser keeps of the project's sweep. */
export async function followSweep(project: string): Promise<void> {
  if (store.get().project === project) return
  stop()
  store.set({ ...none, project })
  // Storage that fails keeps no sweep: the next one is made anew.
  const kept = (await database.memory.get(sweepName(project)).catch(() => undefined))?.value as
    (Pick<SweepState, 'varied' | 'of' | 'msEach'> & { rows: (DrawnRow | string)[] }) | undefined
  if (!kept || store.get().project !== project || store.get().varied.length > 0) return
  const rows = kept.rows.map((row) => (typeof row === 'string' ? (JSON.parse(row) as DrawnRow) : row))
  update({ ...kept, rows: new Map(rows.map((row) => [row.row, row])) })
}

/** Rows as they are kept: each is written out once, since some hundred figures a row are slow to copy again and again. */
const written = new WeakMap<DrawnRow, string>()

function writtenOf(row: DrawnRow): string {
  const text = written.get(row) ?? JSON.stringify(row)
  written.set(row, text)
  return text
}

async function keepSweep(): Promise<void> {
  const { project, varied, rows, of, msEach } = store.get()
  if (project === null) return
  const name = sweepName(project)
  await keep(name, 'the sweep', async () => {
    await database.memory.put({ name, value: { varied, of, msEach, rows: [...rows.values()].map(writtenOf) } })
  })
}

/** Puts a setting on the sweep with some values, or takes it off with none. */
export function vary(path: string, values: readonly unknown[] | null): void {
  const { varied } = store.get()
  const others = varied.filter((each) => each.path !== path)
  const at = varied.findIndex((each) => each.path === path)
  const next = values === null || values.length === 0 ? others : varied.with(at, { path, values })
  if (values !== null && at < 0) return
  stop()
  update({ varied: next, rows: new Map(), of: null, trouble: null })
  void keepSweep()
}

/** Puts a setting on the sweep with values around what it is now; one that is on it is taken off. Gives what hinders it. */
export function toggleVary(path: string): string | null {
  const state = currentProject()
  const { varied } = store.get()
  if (!state) return null
  if (varied.some((each) => each.path === path)) {
    vary(path, null)
    return null
  }
  if (varied.length === mostVaried)
    return `${mostVaried} settings vary in the sweep already (${varied.map((each) => labelOf(each.path)).join(', ')}): take one off first.`
  stop()
  const values = defaultValues(path, state.project, state.raw)
  update({ varied: [...varied, { path, values }], rows: new Map(), of: null, trouble: null })
  void keepSweep()
  return null
}

/** The page answers at least so often while combinations are looked at, ms. */
const breathMs = 10

/** What is wrong with the first combination that makes no project; null: all do. */
async function firstWrong(
  raw: ProjectState['effective'],
  all: readonly (readonly Setting[])[],
): Promise<string | null> {
  let since = performance.now()
  for (const settings of all) {
    const made = projectWith(raw, settings)
    if (!made.ok) return made.message
    if (performance.now() - since < breathMs) continue
    await new Promise((resolve) => setTimeout(resolve))
    since = performance.now()
  }
  return null
}

/** Simulates every combination that is not done yet, and the settings as they are, on all cores. */
export async function runSweep(): Promise<void> {
  const state = currentProject()
  const { varied, isRunning } = store.get()
  if (!state || isRunning || varied.length === 0 || rowCountOf(varied) > mostCombinations) return
  const screen = Math.min(currentDevice().screen, state.project.screens.length - 1)
  const of = inputOf(state.effective, screen)
  const all: [number, readonly Setting[]][] = [[nowRow, []], ...combinations(varied).entries()]
  const mine = (pool = new MeasuringPool())
  update({ isRunning: true, trouble: null, of, ...(store.get().of === of ? {} : { rows: new Map() }) })
  try {
    const wrong = await firstWrong(
      state.effective,
      all.map(([, settings]) => settings),
    )
    if (pool !== mine) return
    if (wrong !== null) return update({ trouble: wrong })
    const own = state.project.screens[screen]!
    const { seed } = state.project
    const base = {
      raw: state.effective,
      screen: own.id,
      script: state.project.script ?? '',
      seed,
      visit: 'first' as const,
      items: await itemsToGive(state.id, own),
      seen: seenPictures(),
      seeds: Array.from({ length: sweepSeeds }, (_, n) => seed + n),
    }
    let kept = performance.now()
    await Promise.all(
      all.map(async ([row, settings]) => {
        if (store.get().rows.has(row)) return
        const { row: figures, tiny, msEach } = await mine.measure({ ...base, settings })
        if (pool !== mine) return
        update({ rows: new Map(store.get().rows).set(row, { ...figures, row, tiny }), msEach })
        if (performance.now() - kept < keepEveryMs) return
        kept = performance.now()
        void keepSweep()
      }),
    )
  } catch (error) {
    mine.cancel()
    if (!(error instanceof Cancelled) && pool === mine)
      update({ trouble: `The sweep stopped: ${error instanceof Error ? error.message : String(error)}` })
  } finally {
    // What is shown as ended is kept: the page may be left the moment after.
    if (pool === mine) await keepSweep()
    if (pool === mine) update({ isRunning: false })
  }
}

/** Ends the sweep; what is done stays, and it can go on from there. */
export function cancelSweep(): void {
  pool?.cancel()
}
