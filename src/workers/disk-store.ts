import Dexie, { type Table } from 'dexie'
import type { DiskEntry } from '../core/loading/disk-tier.ts'
import { bytesOf, sharedBody, type Body } from './body.ts'

interface StoredBody {
  /** Owner and address. */
  place: string
  type: string
  bytes: ArrayBuffer
}

/** The index entry of a body. */
interface StoredEntry {
  place: string
  whose: string
  entry: DiskEntry
}

/** A change on disk. `disk`: the run that makes it, and is notified when it fails. */
export type DiskChange =
  | { type: 'write'; disk: number; place: string; whose: string; entry: DiskEntry; body: Body }
  | { type: 'renew'; disk: number; place: string; whose: string; entry: DiskEntry }
  | { type: 'remove'; disk: number; place: string }
  | { type: 'clear'; disk: number; whose: string }

class Tables extends Dexie {
  files!: Table<StoredBody, string>
  index!: Table<StoredEntry, string>

  constructor() {
    super('tile-tug-disk')
    this.version(1).stores({ bodies: 'address' })
    this.version(2).stores({ entries: 'identity, at' })
    // Earlier entries had no owner: it is a cache, and they are dropped.
    this.version(3).stores({ bodies: null, entries: null, files: 'place', index: 'place, whose' })
  }
}

/** Changes are made when none has come for this long, ms: while pictures pour in, the list needs the processor more. */
const restMs = 250
/** They are put off no longer than this, ms. */
const mostMs = 1000

/**
 * Bodies of the live disk tiers and their index, in IndexedDB. Changes are made in their order, those of one burst
 * together, a moment after they are requested. Reads include what is not written yet.
 */
export class DiskStore {
  private readonly tables = new Tables()
  private readonly failed: (disk: number, error: unknown) => void
  /** What is being written now, and what comes after it. */
  private making: readonly DiskChange[] = []
  private waiting: DiskChange[] = []
  private working: Promise<void> | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  /** When the first of them began to wait, ms. */
  private since: number | null = null

  /** `failed`: a change of this run was lost. */
  constructor(failed: (disk: number, error: unknown) => void) {
    this.failed = failed
  }

  /** A body for each place; null: there is none, or it cannot be read. */
  async read(places: readonly string[]): Promise<(Body | null)[]> {
    const found = places.map((place) => this.toCome(place))
    if (found.every((body) => body !== undefined)) return found
    const stored = await this.tables.files.bulkGet([...places]).catch(() => [])
    return found.map((body, i) => {
      if (body !== undefined) return body
      const file = stored[i]
      return file ? sharedBody(file.type, [new Uint8Array(file.bytes)]) : null
    })
  }

  /** The content of a place once all changes are made; undefined: no change affects it. */
  private toCome(place: string): Body | null | undefined {
    for (const changes of [this.waiting, this.making]) {
      const last = changes.findLast(
        (change) =>
          change.type !== 'renew' && (change.type === 'clear' ? isOf(place, change.whose) : change.place === place),
      )
      if (last) return last.type === 'write' ? last.body : null
    }
    return undefined
  }

  change(change: DiskChange): void {
    this.waiting.push(change)
    if (!this.working) this.plan()
  }

  /** Makes what waits now. */
  async flush(): Promise<void> {
    await this.working
    if (this.waiting.length > 0) await this.work()
  }

  /** The index of an owner's entries, least recently written first. */
  async kept(whose: string): Promise<DiskEntry[]> {
    await this.flush()
    const found = await this.tables.index.where('whose').equals(whose).toArray()
    return found.map(({ entry }) => entry).sort((one, other) => one.writtenMs - other.writtenMs)
  }

  private plan(): void {
    const now = performance.now()
    this.since ??= now
    clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.work(), Math.max(0, Math.min(restMs, this.since + mostMs - now)))
  }

  private work(): Promise<void> {
    clearTimeout(this.timer)
    this.since = null
    this.working ??= this.makeAll()
    return this.working
  }

  private async makeAll(): Promise<void> {
    this.making = this.waiting.splice(0)
    await this.attempt(this.making)
    this.making = []
    this.working = null
    if (this.waiting.length > 0) this.plan()
  }

  /** A change that cannot be made does not take the others with it. */
  private async attempt(changes: readonly DiskChange[]): Promise<void> {
    try {
      await this.make(changes)
    } catch (error) {
      if (changes.length === 1) this.failed(changes[0]!.disk, error)
      else for (const change of changes) await this.attempt([change])
    }
  }

  private async make(changes: readonly DiskChange[]): Promise<void> {
    const { files, index } = this.tables
    const { cleared, bodies, entries } = outcomeOf(changes)
    // A transaction waits for nothing but the database.
    const written = await Promise.all(
      [...bodies].flatMap(([place, body]) =>
        body ? bytesOf(body).then(({ buffer }): StoredBody => ({ place, type: body.type, bytes: buffer })) : [],
      ),
    )
    const deleted = [...bodies.keys()].filter((place) => bodies.get(place) === null)
    await this.tables.transaction('rw', files, index, async () => {
      for (const whose of cleared) deleted.push(...(await index.where('whose').equals(whose).primaryKeys()))
      if (deleted.length > 0) await Promise.all([files.bulkDelete(deleted), index.bulkDelete(deleted)])
      await Promise.all([files.bulkPut(written), index.bulkPut([...entries.values()])])
    })
  }
}

/**
 * The net result of a series of changes: the owners to empty first, then a body, or none, and an entry for each place.
 */
function outcomeOf(changes: readonly DiskChange[]) {
  const cleared = new Set<string>()
  const bodies = new Map<string, Body | null>()
  const entries = new Map<string, StoredEntry>()
  for (const change of changes) {
    if (change.type === 'clear') {
      cleared.add(change.whose)
      for (const place of [...bodies.keys(), ...entries.keys()])
        if (isOf(place, change.whose)) {
          bodies.delete(place)
          entries.delete(place)
        }
      continue
    }
    const { place } = change
    if (change.type === 'remove') {
      bodies.set(place, null)
      entries.delete(place)
      continue
    }
    if (change.type === 'write') bodies.set(place, change.body)
    entries.set(place, { place, whose: change.whose, entry: change.entry })
  }
  return { cleared, bodies, entries }
}

/** Whether a place is an owner's. */
const isOf = (place: string, whose: string) => place.startsWith(`${whose} `)
