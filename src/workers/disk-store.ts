import Dexie, { type Table } from 'dexie'
import type { DiskEntry } from '../core/loading/disk-tier.ts'

interface StoredBody {
  /** Whose it is, and its address. */
  place: string
  type: string
  bytes: ArrayBuffer
}

/** What the index keeps of a body. */
interface StoredEntry {
  place: string
  whose: string
  entry: DiskEntry
}

/** A change of what lies on disk. `disk`: the run that asks for it, and is told when it fails. */
export type DiskChange =
  | { type: 'write'; disk: number; place: string; whose: string; entry: DiskEntry; body: Blob }
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
    // What was kept before belonged to no project: it is a cache, and is let go.
    this.version(3).stores({ bodies: null, entries: null, files: 'place', index: 'place, whose' })
  }
}

/**
 * Bodies of the live disk tiers and their index, in IndexedDB. Changes are made in their order; those that come while
 * others are written are made together. What is not written yet is read all the same.
 */
export class DiskStore {
  private readonly tables = new Tables()
  private readonly failed: (disk: number, error: unknown) => void
  /** What is written now, and what comes after it. */
  private making: DiskChange[] = []
  private waiting: DiskChange[] = []
  private working: Promise<void> | null = null

  /** `failed`: a change of this run was lost. */
  constructor(failed: (disk: number, error: unknown) => void) {
    this.failed = failed
  }

  /** A body for each place; null: there is none, or it cannot be read. */
  async read(places: readonly string[]): Promise<(Blob | null)[]> {
    const found = places.map((place) => this.toCome(place))
    if (found.every((body) => body !== undefined)) return found
    const stored = await this.tables.files.bulkGet([...places]).catch(() => [])
    return found.map((body, i) => {
      if (body !== undefined) return body
      const file = stored[i]
      return file ? new Blob([file.bytes], { type: file.type }) : null
    })
  }

  /** What a place will hold once all changes are made; undefined: none of them touches it. */
  private toCome(place: string): Blob | null | undefined {
    for (const changes of [this.waiting, this.making]) {
      const last = changes.findLast(
        (change) =>
          change.type !== 'renew' &&
          (change.type === 'clear' ? place.startsWith(`${change.whose} `) : change.place === place),
      )
      if (last) return last.type === 'write' ? last.body : null
    }
    return undefined
  }

  change(change: DiskChange): void {
    this.waiting.push(change)
    this.working ??= this.work()
  }

  /** The index of what somebody has on disk, least recently written first. */
  async kept(whose: string): Promise<DiskEntry[]> {
    await this.working
    const found = await this.tables.index.where('whose').equals(whose).toArray()
    return found.map(({ entry }) => entry).sort((one, other) => one.writtenMs - other.writtenMs)
  }

  private async work(): Promise<void> {
    while (this.waiting.length > 0) {
      this.making = this.waiting.splice(0)
      await this.attempt(this.making)
    }
    this.making = []
    this.working = null
  }

  /** One that cannot be made takes none of the others with it. */
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
    // A transaction waits for nothing but the database.
    const bytes = await Promise.all(
      changes.map((change) => (change.type === 'write' ? change.body.arrayBuffer() : null)),
    )
    await this.tables.transaction('rw', files, index, async () => {
      for (const [i, change] of changes.entries()) {
        if (change.type === 'clear') {
          const places = await index.where('whose').equals(change.whose).primaryKeys()
          await files.bulkDelete(places)
          await index.bulkDelete(places)
          continue
        }
        const { place } = change
        if (change.type === 'remove') {
          await files.delete(place)
          await index.delete(place)
          continue
        }
        if (change.type === 'write') await files.put({ place, type: change.body.type, bytes: bytes[i]! })
        await index.put({ place, whose: change.whose, entry: change.entry })
      }
    })
  }
}
