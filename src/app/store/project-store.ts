import type { Operation } from 'fast-json-patch'
import { parseProject, type Parsed, type Raw } from '../../core/project/parse.ts'
import { effectiveOf } from '../../core/project/conditions.ts'
import { applyPatch } from '../../core/project/patch.ts'
import { database } from './database.ts'
import { currentPress } from './hand.ts'
import { addStep, forgetEditsOf, lastStep, renameProjectOfEdits, type Step } from './history.ts'
import { currentProject, put, notify, type ProjectState } from './project-state.ts'
import { flush, keepNew, keptOf, save, saveFrom, saveSoon, showsCopies, waitsForRoom, type Kept } from './saving.ts'

export {
  currentProject,
  drawWhen,
  followProject,
  notify,
  useProject,
  type ProjectState,
  type Saved,
} from './project-state.ts'

let releaseLock: (() => void) | null = null

/**
 * Edits of the same name within this time are one step of undo, as are all of one press of the pointer: a drag is one
 * change.
 */
const mergeMs = 800

/** A change of the open file, as a step that can be undone. */
interface Edit extends Step {
  project: string
  before: Raw
  after: Raw
  at: number
  press: number | null
}

/** The project that was open last in this browser; null: none, or it is gone. */
async function lastOpened(): Promise<string | null> {
  const last = await database.memory.get('open')
  if (typeof last?.value !== 'string') return null
  return (await database.projects.get(last.value)) ? last.value : null
}

/** Opens what was open last, or the demo. */
export async function openLast(demo: () => Promise<Raw>): Promise<void> {
  const last = await lastOpened()
  const why = last === null ? null : await openStored(last)
  if (last === null || why !== null) await addProject(await demo(), why && `${why} The demo was opened instead.`)
}

/** Opens a stored project by its id; null when it is open, else why it cannot be. */
export async function openStored(id: string): Promise<string | null> {
  if (currentProject()?.id === id) return null
  await flush()
  const kept = await keptOf(id)
  if (!kept) return 'That project is not in this browser any more.'
  const parsed = parseProject(kept.raw)
  if (!parsed.ok) return `“${kept.name}” cannot be opened: ${parsed.message}.`
  await adopt(kept, parsed)
  if (waitsForRoom(id)) await save()
  return null
}

/** Parses the text of a project file and opens it; a damaged one leaves the open project as it is. */
export async function openText(name: string, text: string): Promise<void> {
  const { parseProjectText } = await import('../../core/project/parse-text.ts')
  const parsed = parseProjectText(text)
  if (!parsed.ok) {
    notify(`${name} was not opened. ${parsed.message}`)
    return
  }
  await addProject(parsed.raw, parsed.warnings.length > 0 ? `${name}: ${parsed.warnings.slice(0, 3).join('; ')}` : null)
}

/** Adds a project to this browser and opens it. Without room for it, it is open all the same and waits to be kept. */
export async function addProject(raw: Raw, notice: string | null): Promise<void> {
  const parsed = parseProject(raw)
  if (!parsed.ok) throw new Error(parsed.message)
  await flush()
  const kept = { id: crypto.randomUUID(), rev: 0, name: parsed.project.name, raw: parsed.raw, copyOf: null }
  // What was shown open is there after a reload.
  await keepNew(kept)
  await adopt(kept, parsed, notice)
}

/**
 * Changes the project by a JSON Patch; what does not parse is reported and not applied. `isWhole`: undone by itself,
 * however soon it comes after another of its name.
 */
export function edit(name: string, patch: Operation[], isWhole = false): void {
  const state = currentProject()
  if (!state) return
  const patched = applyPatch(state.raw, patch)
  const parsed = patched.ok ? parseProject(patched.raw) : patched
  if (!parsed.ok) {
    notify(parsed.message)
    return
  }
  remember(state, parsed.raw, name, isWhole)
  change(parsed, state)
}

/** Sets one value; the most common edit. */
export function set(path: string, value: unknown): void {
  edit(path, [{ op: 'replace', path, value }])
}

function remember({ id, raw }: ProjectState, after: Raw, name: string, isWhole: boolean): void {
  const last = lastStep() as Edit | null
  const now = performance.now()
  const press = currentPress()
  const isOngoing = !isWhole && last !== null && ((press !== null && last.press === press) || now - last.at < mergeMs)
  if (isOngoing && last.project === id && last.name === name) {
    last.at = now
    last.press = press
    last.after = after
    return
  }
  const step: Edit = {
    name,
    project: id,
    before: raw,
    after,
    at: now,
    press,
    undo: () => goTo(step.project, step.before),
    redo: () => goTo(step.project, step.after),
  }
  addStep(step)
}

/** Makes an earlier or later state of the open file the present one. */
function goTo(project: string, raw: Raw): void {
  const state = currentProject()
  const parsed = parseProject(raw)
  if (state?.id === project && parsed.ok) change(parsed, state)
}

/** Shows a variant, or the file as it is; the file itself stays. */
export function showVariant(variant: string | null): void {
  const state = currentProject()
  const parsed = state && parseProject(state.raw)
  if (!state || !parsed?.ok) return
  put({ ...state, ...seen(parsed, variant) })
  const applied = effectiveOf(parsed, variant)
  if (!applied.ok) notify(`The variant was not applied. ${applied.message}`)
}

function seen(
  parsed: Parsed,
  picked: string | null,
): Pick<ProjectState, 'project' | 'effective' | 'variant' | 'byCondition'> {
  const variant = parsed.project.variants.some(({ name }) => name === picked) ? picked : null
  const applied = effectiveOf(parsed, variant)
  if (applied.ok) return { project: applied.project, effective: applied.raw, variant, byCondition: applied.byCondition }
  return { project: parsed.project, effective: parsed.raw, variant: null, byCondition: [] }
}

export function fileOf(state: ProjectState): string {
  return `${JSON.stringify(state.raw, null, 2)}\n`
}

/** Makes a stored project the open one; its contents are requested when they are shown. */
async function adopt(kept: Kept, parsed: Parsed, notice: string | null = null): Promise<void> {
  // The project that was shown open is the one that a visit without an address opens. Without room for that, the latest
  // is opened.
  await database.memory.put({ name: 'open', value: kept.id }).catch(() => undefined)
  saveFrom(kept)
  put({
    id: kept.id,
    raw: parsed.raw,
    ...seen(parsed, null),
    saved: waitsForRoom(kept.id) ? 'failed' : 'saved',
    notice,
    copyOf: kept.copyOf,
  })
  forgetEditsOf((project) => project !== kept.id)
  if (!(await takeLock(kept.id)))
    notify('This project is open in another tab too. What you change here is saved as a copy if both change it.')
}

/** One tab holds a project's lock; the others are warned. */
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

/** The open project continues as a copy: another tab has changed the one that it was. */
showsCopies(async (former, kept) => {
  renameProjectOfEdits(former, kept.id)
  const parsed = parseProject(kept.raw)
  // It has been parsed under its own name before.
  if (!parsed.ok) throw new Error(parsed.message)
  await adopt(
    kept,
    parsed,
    'Another tab has changed this project meanwhile. What you changed here continues as a copy, with the runs made so far; Compare holds its runs against those of the original.',
  )
})

function change(parsed: Parsed, state: ProjectState): void {
  put({ ...state, raw: parsed.raw, ...seen(parsed, state.variant), saved: 'saving' })
  saveSoon(parsed.raw, parsed.project.name)
}
