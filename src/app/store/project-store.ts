import jsonPatch, { type Operation } from 'fast-json-patch'
import { parseProject, parseProjectText, type Parsed, type Raw } from '../../core/project/parse.ts'
import type { Project } from '../../core/project/types.ts'
import { effectiveProject } from '../../core/project/conditions.ts'
import { applyPatch } from '../../core/project/variants.ts'
import { database, type StoredProject } from './database.ts'
import { createStore } from './external-store.ts'

export type Saved = 'saved' | 'saving' | 'failed'

export interface ProjectState {
  id: string
  raw: Raw
  /** What everything shows and runs: the file, or the file with a variant applied. */
  project: Project
  /** The file as `project` has it. */
  effective: Raw
  /** The variant that was picked; null: the file as it is. */
  variant: string | null
  /** Variants that apply by themselves, because their condition holds. */
  byCondition: readonly string[]
  saved: Saved
  /** What went wrong, or what should be known; told until it is put away. */
  notice: string | null
  canUndo: boolean
}

const { compare } = jsonPatch
const saveAfterMs = 300
const undoDepth = 100
/** Edits of the same name within this time are one step of undo: a drag is one change. */
const mergeMs = 800

const store = createStore<ProjectState | null>(null)
let rev = 0
let timer: ReturnType<typeof setTimeout> | undefined
let undo: { raw: Raw; name: string; at: number }[] = []
let releaseLock: (() => void) | null = null

export const useProject = store.use
export const currentProject = store.get

/** Opens what was open last, or the demo. */
export async function openLast(demo: Raw): Promise<void> {
  const last = await database.memory.get('open')
  const stored = typeof last?.value === 'string' ? await database.projects.get(last.value) : undefined
  const parsed = stored && parseProject(stored.raw)
  if (stored && parsed?.ok) await adopt(stored, parsed)
  else
    await addProject(
      demo,
      stored && !parsed?.ok ? `"${stored.name}" could not be read; the demo was opened instead.` : null,
    )
}

/** Opens a stored project by its id. */
export async function openStored(id: string): Promise<void> {
  await flush()
  const stored = await database.projects.get(id)
  const parsed = stored && parseProject(stored.raw)
  if (!stored) tell('That project is not in this browser any more.')
  else if (!parsed?.ok) tell(`"${stored.name}" cannot be opened: ${parsed?.message}`)
  else await adopt(stored, parsed)
}

/** Parses the text of a project file and opens it; a damaged one leaves the open project as it is. */
export async function openText(name: string, text: string): Promise<void> {
  const parsed = parseProjectText(text)
  if (!parsed.ok) {
    tell(`${name} was not opened. ${parsed.message}`)
    return
  }
  await flush()
  await addProject(parsed.raw, parsed.warnings.length > 0 ? `${name}: ${parsed.warnings.slice(0, 3).join('; ')}` : null)
}

/** Adds a project to this browser and opens it. */
export async function addProject(raw: Raw, notice: string | null): Promise<void> {
  const parsed = parseProject(raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const stored: StoredProject = {
    id: crypto.randomUUID(),
    rev: 1,
    name: parsed.project.name,
    raw: parsed.raw,
    changed: Date.now(),
  }
  await database.projects.put(stored)
  await adopt(stored, parsed, notice)
}

/** Changes the project by a JSON Patch; what does not parse is told and not applied. */
export function edit(name: string, patch: Operation[]): void {
  const state = store.get()
  if (!state) return
  const patched = applyPatch(state.raw, patch)
  const parsed = patched.ok ? parseProject(patched.raw) : patched
  if (!parsed.ok) {
    tell(parsed.message)
    return
  }
  remember(state.raw, name)
  change(parsed, state)
}

/** Sets one value; the most common edit. */
export function set(path: string, value: unknown): void {
  edit(path, [{ op: 'replace', path, value }])
}

export function undoLast(): void {
  const state = store.get()
  const before = undo.pop()
  const parsed = before && parseProject(before.raw)
  if (state && parsed?.ok) change(parsed, state)
}

/** Shows a variant, or the file as it is; the file itself stays. */
export function showVariant(variant: string | null): void {
  const state = store.get()
  const parsed = state && parseProject(state.raw)
  if (!state || !parsed?.ok) return
  store.set({ ...state, ...seen(parsed, variant) })
  const applied = effectiveProject(state.raw, variant)
  if (!applied.ok) tell(`The variant was not applied. ${applied.message}`)
}

let flippedTo: string | null = null

/** Flips between the file as it is and the variant that was shown last, or the first. */
export function flipVariant(): void {
  const state = store.get()
  if (!state) return
  if (state.variant !== null) {
    flippedTo = state.variant
    showVariant(null)
    return
  }
  const names = state.project.variants.map(({ name }) => name)
  const next = flippedTo !== null && names.includes(flippedTo) ? flippedTo : names[0]
  if (next === undefined)
    tell('This project has no variant yet. Keep what you change as one: the variant chip on the device does that.')
  else showVariant(next)
}

/** Makes what differs from an earlier state of the file a variant, and takes the file back to that state. */
export function keepAsVariant(before: Raw, name: string): void {
  const state = store.get()
  if (!state) return
  const patch = compare(before, state.raw).filter(({ path }) => !path.startsWith('/variants'))
  if (patch.length === 0) {
    tell('Nothing has changed since that run: there is nothing to keep as a variant.')
    return
  }
  const variants = [...((state.raw.variants as unknown[] | undefined) ?? []), { name, when: null, patch }]
  edit('keep as a variant', [
    ...compare(state.raw, before).filter(({ path }) => !path.startsWith('/variants')),
    { op: 'replace', path: '/variants', value: variants },
  ])
  showVariant(name)
}

function seen(
  parsed: Parsed,
  picked: string | null,
): Pick<ProjectState, 'project' | 'effective' | 'variant' | 'byCondition'> {
  const variant = parsed.project.variants.some(({ name }) => name === picked) ? picked : null
  const applied = effectiveProject(parsed.raw, variant)
  if (applied.ok) return { project: applied.project, effective: applied.raw, variant, byCondition: applied.byCondition }
  return { project: parsed.project, effective: parsed.raw, variant: null, byCondition: [] }
}

export function tell(notice: string | null): void {
  const state = store.get()
  if (state) store.set({ ...state, notice })
}

/** Saves what waits to be saved, now. */
async function flush(): Promise<void> {
  if (timer === undefined) return
  clearTimeout(timer)
  timer = undefined
  await save()
}

export function fileOf(state: ProjectState): string {
  return `${JSON.stringify(state.raw, null, 2)}\n`
}

/** Makes a stored project the open one; what of it is shown is asked for at the moment when it is. */
async function adopt(
  stored: StoredProject,
  opened: Parsed | (() => Parsed),
  notice: string | null = null,
): Promise<void> {
  // What is seen open is what a reload opens again: it is remembered before it is shown.
  const remembered = await database.memory.put({ name: 'open', value: stored.id }).then(
    () => true,
    () => false,
  )
  const parsed = typeof opened === 'function' ? opened() : opened
  rev = stored.rev
  undo = []
  const forgetful = remembered
    ? null
    : 'This browser has no room to remember which project is open; a reload opens the one before.'
  store.set({
    id: stored.id,
    raw: parsed.raw,
    ...seen(parsed, null),
    saved: 'saved',
    notice: notice ?? forgetful,
    canUndo: false,
  })
  if (!(await takeLock(stored.id)))
    tell('This project is open in another tab too. What you change here is saved as a copy if both change it.')
}

/** One tab holds a project's lock; the others are told. */
function takeLock(id: string): Promise<boolean> {
  releaseLock?.()
  releaseLock = null
  return new Promise((resolve) => {
    void navigator.locks.request(`tile-tug project ${id}`, { ifAvailable: true }, (lock) => {
      resolve(lock !== null)
      return lock === null ? undefined : new Promise<void>((release) => (releaseLock = release))
    })
  })
}

function remember(raw: Raw, name: string): void {
  const last = undo.at(-1)
  const now = performance.now()
  if (last && last.name === name && now - last.at < mergeMs) {
    last.at = now
    return
  }
  undo.push({ raw, name, at: now })
  if (undo.length > undoDepth) undo.shift()
}

function change(parsed: Parsed, state: ProjectState): void {
  store.set({ ...state, raw: parsed.raw, ...seen(parsed, state.variant), saved: 'saving', canUndo: undo.length > 0 })
  clearTimeout(timer)
  timer = setTimeout(() => {
    timer = undefined
    void save()
  }, saveAfterMs)
}

/** Saves one after the other: each must know the revision that the one before it has written. */
let saving: Promise<void> = Promise.resolve()

function save(): Promise<void> {
  saving = saving.then(saveNow)
  return saving
}

async function saveNow(): Promise<void> {
  const state = store.get()
  if (!state) return
  const { id, raw, project } = state
  const entry: StoredProject = { id, rev: rev + 1, name: project.name, raw, changed: Date.now() }
  try {
    const ours = await database.transaction('rw', database.projects, async () => {
      const there = await database.projects.get(id)
      if (there && there.rev !== rev) return false
      await database.projects.put(entry)
      return true
    })
    if (!ours) {
      await goOnAsCopy()
      return
    }
    rev = entry.rev
    const now = store.get()
    if (now?.id === id) store.set({ ...now, saved: now.raw === raw ? 'saved' : 'saving' })
  } catch (error) {
    const now = store.get()
    const why =
      error instanceof Error && error.name === 'QuotaExceededError'
        ? 'this browser has no room left; delete runs that you need no more'
        : String(error)
    if (now)
      store.set({ ...now, saved: 'failed', notice: `The project could not be saved: ${why}. It is tried again.` })
    timer = setTimeout(() => {
      timer = undefined
      void save()
    }, 2000)
  }
}

/** Another tab has saved this project: what is here goes on under another name, with all that is changed until the copy is there. */
async function goOnAsCopy(): Promise<void> {
  const first = store.get()!
  const named = ({ raw, project }: ProjectState): Raw => ({ ...raw, name: `${project.name} (this tab)` })
  const copy: StoredProject = {
    id: crypto.randomUUID(),
    rev: 1,
    name: named(first).name as string,
    raw: named(first),
    changed: Date.now(),
  }
  await database.projects.put(copy)
  const kept = undo
  await adopt(
    copy,
    () => {
      const newest = parseProject(named(store.get()!))
      // It has been parsed under its own name before.
      if (!newest.ok) throw new Error(newest.message)
      return newest
    },
    'Another tab has changed this project meanwhile; your changes were saved as a copy.',
  )
  undo = kept
  const now = store.get()!
  const parsed = parseProject(now.raw)
  if (parsed.ok) change(parsed, now)
}
