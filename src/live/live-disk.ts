import Dexie, { type Table } from 'dexie'
import type { AssetTable } from '../core/loading/asset-table.ts'
import type { DiskEntry } from '../core/loading/disk-tier.ts'
import type { Project } from '../core/project/types.ts'
import type { Disk } from '../core/worlds/ports.ts'
import { localBody, type PickedFiles } from './local-body.ts'

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

class DiskStore extends Dexie {
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

const store = new DiskStore()

/** A store that has not answered within this is not waited for, ms. */
const answerMs = 3000

/** What the list under the hand keeps while it lasts; drives keep theirs under their project's id. */
export const byHand = 'hand'

/** The index of what a project's drives have left on disk, least recently written first; it outlives the page. */
export async function keptOnDisk(project: string): Promise<DiskEntry[]> {
  // A store that cannot be opened, or does not answer, keeps nothing; the runs themselves tell that they cannot use it.
  const found = await Promise.race([
    store.index
      .where('whose')
      .equals(project)
      .toArray()
      .catch(() => []),
    new Promise<StoredEntry[]>((resolve) => setTimeout(() => resolve([]), answerMs)),
  ])
  return found.map(({ entry }) => entry).sort((one, other) => one.writtenMs - other.writtenMs)
}

/** Empties what somebody has left on disk. */
export async function clearDisk(whose: string): Promise<void> {
  await store.transaction('rw', store.files, store.index, async () => {
    const places = await store.index.where('whose').equals(whose).primaryKeys()
    await store.files.bulkDelete(places)
    await store.index.bulkDelete(places)
  })
}

/** The disk tier's bodies and their index in IndexedDB. What cannot be written is told once, and is then not there to be read. */
export class LiveDisk implements Disk {
  private readonly bodies: Map<number, Blob>
  private readonly table: AssetTable
  private readonly trouble: (message: string) => void
  private readonly whose: string
  /** What the loader's index says of an asset; known once the loader is made. */
  entryOf: (asset: number) => DiskEntry | undefined = () => undefined
  private readonly assets: Project['assets']
  private readonly picked: PickedFiles
  private failed = false

  constructor(
    whose: string,
    bodies: Map<number, Blob>,
    table: AssetTable,
    assets: Project['assets'],
    picked: PickedFiles,
    trouble: (message: string) => void,
  ) {
    this.whose = whose
    this.assets = assets
    this.picked = picked
    this.bodies = bodies
    this.table = table
    this.trouble = trouble
  }

  read(asset: number, request: number, _bytes: number, done: (ok: boolean) => void): void {
    store.files.get(this.place(asset)).then(
      (entry) => {
        if (entry) this.bodies.set(request, new Blob([entry.bytes], { type: entry.type }))
        done(entry !== undefined)
      },
      () => done(false),
    )
  }

  local(asset: number, request: number, _bytes: number, done: (ok: boolean) => void): void {
    localBody(this.table.hrefs[asset]!, this.assets, this.picked).then(
      (body) => {
        if (body) this.bodies.set(request, body)
        done(body !== null)
      },
      (error: unknown) => {
        this.trouble(`A picture of this machine could not be read (${nameOf(error)}).`)
        done(false)
      },
    )
  }

  write(asset: number, request: number): void {
    const body = this.bodies.get(request)
    const entry = this.entryOf(asset)
    if (!body || !entry || this.failed) return
    const place = this.place(asset)
    body
      .arrayBuffer()
      .then((bytes) =>
        store.transaction('rw', store.files, store.index, async () => {
          await store.files.put({ place, type: body.type, bytes })
          await store.index.put({ place, whose: this.whose, entry })
        }),
      )
      .catch((error: unknown) => this.giveUp(error))
  }

  renew(asset: number): void {
    const entry = this.entryOf(asset)
    if (!entry || this.failed) return
    store.index
      .put({ place: this.place(asset), whose: this.whose, entry })
      .catch((error: unknown) => this.giveUp(error))
  }

  remove(asset: number): void {
    const place = this.place(asset)
    Promise.all([store.files.delete(place), store.index.delete(place)]).catch((error: unknown) => this.giveUp(error))
  }

  /** Empties the tier: a visit begins as first installed. */
  clear(): void {
    clearDisk(this.whose).catch((error: unknown) => this.giveUp(error))
  }

  private place(asset: number): string {
    return `${this.whose} ${this.table.assets[asset]!.address}`
  }

  private giveUp(error: unknown): void {
    if (!this.failed)
      this.trouble(`The disk tier cannot be used (${nameOf(error)}); pictures are loaded again instead.`)
    this.failed = true
  }
}

const nameOf = (error: unknown) => (error instanceof Error ? error.name : 'unknown error')
