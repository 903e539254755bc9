import type { Raw } from '../../core/project/parse.ts'
import { database, type StoredProject } from './database.ts'
import { keepItems, packItems, unpackItems } from './shared-items.ts'
import { currentProject, put } from './project-state.ts'
import { noteUnsaved, takeUnsaved } from './unsaved.ts'
import { forgetWaiting, keep, savesBeforeClosing } from './storage.ts'
import { copyRuns } from './stored-runs.ts'

/** A change is saved after a rest of this long, and while changes keep coming at least this often, ms. */
const saveAfterMs = 300
const saveEveryMs = 800

/** The file of a project as it is to be kept, and the revision of it that storage has. */
export interface Kept {
  id: string
  rev: number
  name: string
  raw: Raw
  copyOf: string | null
}

let open: Kept | null = null
/** Projects that were left before there was room for their changes. */
const unkept = new Map<string, Kept>()
let timer: ReturnType<typeof setTimeout> | undefined
let unsavedSince: number | null = null
/** Saves one after the other: each must know the revision that the one before it has written. */
let saving: Promise<void> = Promise.resolve()
let showCopy: (former: string, kept: Kept) => Promise<void> = () => Promise.resolve()

/** The file whose changes are saved from now on. */
export function saveFrom(kept: Kept): void {
  open = kept
}

/** Names what shows a project that continues as a copy, when it is the open one. */
export function showsCopies(show: typeof showCopy): void {
  showCopy = show
}

/** The file of a project in this browser, with changes that could not be kept yet; null: it is gone. */
export async function keptOf(id: string): Promise<Kept | null> {
  const waiting = unkept.get(id)
  if (waiting) return waiting
  const stored = await database.projects.get(id)
  if (!stored) return null
  const noted = takeUnsaved(id, stored.rev)
  const raw = await unpackItems(noted ?? stored.raw)
  const kept = { id, rev: stored.rev, name: String(raw.name), raw, copyOf: stored.copyOf ?? null }
  if (noted) unkept.set(id, kept)
  return kept
}

/** Whether a project has changes that storage had no room for. */
export const waitsForRoom = (id: string): boolean => unkept.has(id)

/** Keeps a new project; without room for it, it waits. */
export async function keepNew(kept: Kept): Promise<void> {
  unkept.set(kept.id, kept)
  await keepOne(kept)
}

/** A project is deleted: nothing of it waits to be kept any more. */
export function forgetProject(id: string): void {
  unkept.delete(id)
  forgetWaiting(keyOf(id))
  if (open?.id !== id) return
  clearTimeout(timer)
  timer = undefined
  open = null
}

/** The open file has changed: it is saved soon. */
export function saveSoon(raw: Raw, name: string): void {
  open!.raw = raw
  open!.name = name
  const now = performance.now()
  unsavedSince ??= now
  clearTimeout(timer)
  timer = setTimeout(
    () => {
      timer = undefined
      void save()
    },
    Math.max(0, Math.min(saveAfterMs, unsavedSince + saveEveryMs - now)),
  )
}

/** Saves what is not saved, now. */
export async function flush(): Promise<void> {
  if (timer === undefined) return saving
  clearTimeout(timer)
  timer = undefined
  await save()
}

savesBeforeClosing(flush)

/** The latest change is saved when the page is left or hidden. */
export function saveWhenLeft(): void {
  const leave = () => {
    if (open && (timer !== undefined || unkept.has(open.id))) noteUnsaved(open)
    void flush()
  }
  addEventListener('pagehide', leave)
  document.addEventListener('visibilitychange', () => document.hidden && leave())
}

/** Saves the open file after what is being saved. */
export function save(): Promise<void> {
  unsavedSince = null
  saving = saving.then(async () => {
    const kept = open
    if (!kept) return
    unkept.set(kept.id, kept)
    const done = await keepOne(kept)
    const now = currentProject()
    if (!done && now?.id === kept.id) put({ ...now, saved: 'failed' })
  })
  return saving
}

const keyOf = (project: string) => `project ${project}`
const keepOne = (kept: Kept) => keep(keyOf(kept.id), `the project “${kept.name}”`, () => saveNow(kept))

/** Writes a project as it is at this moment; throws what storage throws. */
async function saveNow(kept: Kept): Promise<void> {
  const { id, raw, rev, copyOf } = kept
  const packed = packItems(raw)
  const entry: StoredProject = {
    id,
    rev: rev + 1,
    name: kept.name,
    raw: packed.raw,
    changed: Date.now(),
    ...(copyOf !== null && { copyOf }),
  }
  const saved = await database.transaction('rw', database.projects, database.shared, async () => {
    const there = await database.projects.get(id)
    if (there && there.rev !== rev) return false
    await keepItems(packed.lists)
    await database.projects.put(entry)
    return true
  })
  if (!saved) {
    await goOnAsCopy(kept)
    return
  }
  kept.rev = entry.rev
  if (kept.raw === raw) unkept.delete(id)
  const now = currentProject()
  if (now?.id === id) put({ ...now, saved: now.raw === raw ? 'saved' : 'saving' })
}

/**
 * Another tab has saved this project: the present one continues as a project of its own, with its runs and all changes
 * until it is kept. The object stays the same under another name, so that no change in between is lost.
 */
async function goOnAsCopy(kept: Kept): Promise<void> {
  const former = kept.id
  unkept.delete(former)
  kept.id = crypto.randomUUID()
  kept.rev = 0
  kept.copyOf = former
  kept.name = `${kept.name} (copy of this tab)`
  kept.raw = { ...kept.raw, name: kept.name }
  unkept.set(kept.id, kept)
  if (open === kept) await showCopy(former, kept)
  await saveNow(kept)
  await copyRuns(former, kept.id)
}
