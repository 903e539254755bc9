import { Database, database, replaceDatabase } from './database.ts'
import { createStore } from './external-store.ts'

/** Where things are kept: in the browser, or for as long as this page is open. */
export type Storage =
  | { is: 'opening' }
  | { is: 'open' }
  | { is: 'session'; why: string }
  /** A newer version of the app has opened the database in another tab. */
  | { is: 'outdated' }

export interface StorageState {
  storage: Storage
  /** Why something waits to be kept; null: nothing waits. */
  waiting: { what: readonly string[]; full: boolean; why: string } | null
  /** Increased when another database replaces the former: what was read from that must be read again. */
  generation: number
}

/** How long storage may take to answer, ms. */
const openMs = 4000
/** How often writing what waits is tried again, ms. */
const againMs = 2000

const store = createStore<StorageState>({ storage: { is: 'opening' }, waiting: null, generation: 0 })
export const useStorage = store.use
export const currentStorage = store.get

const update = (change: Partial<StorageState>) => store.set({ ...store.get(), ...change })

/** Called before this tab gives the database up to a newer version: it saves what is not saved. */
let beforeClosing: () => Promise<void> = () => Promise.resolve()

export function savesBeforeClosing(save: () => Promise<void>): void {
  beforeClosing = save
}

/** Opens the browser's storage; where that is refused, fails or does not answer, the page goes on without it. */
export async function openStorage(): Promise<void> {
  const real = database
  const opened = await open(real)
  if (opened.ok) {
    update({ storage: { is: 'open' } })
    return
  }
  await goOnInMemory(opened.why)
  // It may answer later: another tab has closed an older version meanwhile.
  opened.late?.then((ok) => {
    if (ok && store.get().storage.is === 'session') void adopt(real)
  })
}

/** Tries the browser's storage once more; what was made meanwhile is copied into it. */
export async function retryStorage(): Promise<void> {
  const real = new Database()
  const opened = await open(real)
  if (opened.ok) await adopt(real)
  else {
    real.close()
    update({ storage: { is: 'session', why: opened.why } })
  }
}

type Opened = { ok: true } | { ok: false; why: string; late: Promise<boolean> | null }

async function open(real: Database): Promise<Opened> {
  let blocked = false
  real.on('blocked', () => {
    blocked = true
  })
  real.on('versionchange', () => {
    void giveUp(real)
    // Replaces the default handler, which writes to the console, by nothing.
    return false
  })
  const opening = real.open().then(
    () => ({ ok: true as const }),
    (error: unknown) => ({ ok: false as const, why: wordsOf(error), late: null }),
  )
  const patience = new Promise<'late'>((resolve) => setTimeout(() => resolve('late'), openMs))
  const first = await Promise.race([opening, patience])
  if (first !== 'late') return first
  return {
    ok: false,
    why: blocked
      ? 'another tab has an older version of Tile Tug open, and does not let go of it: close or reload that tab'
      : 'it does not answer',
    late: opening.then(({ ok }) => ok),
  }
}

/** Another tab needs the database for a newer version: unsaved changes are saved, and it is closed. */
async function giveUp(real: Database): Promise<void> {
  await beforeClosing()
  real.close()
  if (real === database) update({ storage: { is: 'outdated' } })
}

async function goOnInMemory(why: string): Promise<void> {
  const { indexedDB, IDBKeyRange } = await import('fake-indexeddb')
  const memory = new Database({ indexedDB, IDBKeyRange })
  await memory.open()
  replaceDatabase(memory)
  update({ storage: { is: 'session', why }, generation: store.get().generation + 1 })
}

/** Takes everything of this session into the browser's storage. Runs get numbers there that no other has. */
async function adopt(real: Database): Promise<void> {
  const memory = database
  const [projects, runs, feeds, pictures, presets, secrets, shared, kept] = await Promise.all([
    memory.projects.toArray(),
    memory.runs.toArray(),
    memory.feeds.toArray(),
    memory.pictures.toArray(),
    memory.presets.toArray(),
    memory.secrets.toArray(),
    memory.shared.toArray(),
    memory.memory.toArray(),
  ])
  const logs = new Map((await memory.runLogs.toArray()).map((log) => [log.run, log]))
  await real.transaction('rw', real.tables, async () => {
    await real.projects.bulkPut(projects)
    await real.feeds.bulkPut(feeds)
    await real.pictures.bulkPut(pictures)
    await real.presets.bulkPut(presets)
    await real.secrets.bulkPut(secrets)
    await real.shared.bulkPut(shared)
    await real.memory.bulkPut(kept)
    for (const { id, ...run } of runs) {
      const now = await real.runs.add(run)
      const log = logs.get(id)
      if (log) await real.runLogs.put({ ...log, run: now })
    }
  })
  replaceDatabase(real)
  update({ storage: { is: 'open' }, generation: store.get().generation + 1 })
}

/** What could not be kept yet, by its key: it stays in memory, and is tried again. */
const waiting = new Map<string, { what: string; write: () => Promise<void> }>()
let timer: ReturnType<typeof setTimeout> | undefined

/**
 * Writes something to storage. When that fails it waits in memory, a notice says what can be freed, and it is written
 * as soon as possible. A later write under the same key replaces one that waits.
 */
export async function keep(key: string, what: string, write: () => Promise<void>): Promise<boolean> {
  try {
    await write()
    waiting.delete(key)
    reportWaiting(null)
    return true
  } catch (error) {
    waiting.set(key, { what, write })
    reportWaiting(error)
    timer ??= setTimeout(() => void tryAgain(), againMs)
    return false
  }
}

/** The write that waits under a key is not wanted any more. */
export function forgetWaiting(key: string): void {
  waiting.delete(key)
  reportWaiting(null)
}

/** Whether anything would be lost if the page were closed now. */
export const isWaiting = (): boolean => waiting.size > 0

/** Tries what waits to be kept; when something was deleted there may be room at once. */
export async function tryAgain(): Promise<void> {
  clearTimeout(timer)
  timer = undefined
  for (const [key, { what, write }] of [...waiting]) if (!(await keep(key, what, write))) return
}

let lastError: unknown = null

function reportWaiting(error: unknown): void {
  if (error !== null) lastError = error
  if (waiting.size === 0) {
    if (store.get().waiting !== null) update({ waiting: null })
    return
  }
  const what = [...waiting.values()].map((each) => each.what)
  update({ waiting: { what, full: isQuota(lastError), why: wordsOf(lastError) } })
}

/** Whether an error says that there is no room; a transaction wraps it in one of its own. */
function isQuota(error: unknown): boolean {
  for (let at = error, depth = 0; at && depth < 5; depth++) {
    const { name, message, inner } = at as { name?: string; message?: string; inner?: unknown }
    if (name === 'QuotaExceededError' || message?.includes('QuotaExceeded')) return true
    at = inner
  }
  return false
}

function wordsOf(error: unknown): string {
  const inner = (error as { inner?: unknown } | null)?.inner ?? error
  return inner instanceof Error || inner instanceof DOMException ? `${inner.name}: ${inner.message}` : String(inner)
}
