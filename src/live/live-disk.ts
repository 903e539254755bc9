import Dexie, { type Table } from 'dexie'
import type { AssetTable } from '../core/loading/asset-table.ts'
import type { DiskEntry } from '../core/loading/disk-tier.ts'
import type { Project } from '../core/project/types.ts'
import type { Disk } from '../core/worlds/ports.ts'
import { localBody, type PickedFiles } from './local-body.ts'

interface StoredBody {
  address: string
  type: string
  bytes: ArrayBuffer
}

/** What the index keeps of a body, and when it was written last. */
interface StoredEntry extends DiskEntry {
  at: number
}

class DiskStore extends Dexie {
  bodies!: Table<StoredBody, string>
  entries!: Table<StoredEntry, string>

  constructor(name: string) {
    super(name)
    this.version(1).stores({ bodies: 'address' })
    this.version(2).stores({ entries: 'identity, at' })
  }
}

/** What drives leave behind for later visits, and what the hand's list keeps while it lasts. */
const stores = { drives: new DiskStore('tile-tug-disk'), hand: new DiskStore('tile-tug-disk-hand') }

/** The index of what drives have left on disk, least recently written first; it outlives the page. */
export async function keptOnDisk(): Promise<DiskEntry[]> {
  return stores.drives.entries.orderBy('at').toArray()
}

/** Empties what drives have left on disk. */
export async function clearDisk(): Promise<void> {
  await Promise.all([stores.drives.bodies.clear(), stores.drives.entries.clear()])
}

/** The disk tier's bodies and their index in IndexedDB. What cannot be written is told once, and is then not there to be read. */
export class LiveDisk implements Disk {
  private readonly bodies: Map<number, Blob>
  private readonly table: AssetTable
  private readonly trouble: (message: string) => void
  private readonly store: DiskStore
  /** What the loader's index says of an asset; known once the loader is made. */
  entryOf: (asset: number) => DiskEntry | undefined = () => undefined
  private readonly assets: Project['assets']
  private readonly picked: PickedFiles
  private failed = false

  constructor(whose: keyof typeof stores, bodies: Map<number, Blob>, table: AssetTable, assets: Project['assets'], picked: PickedFiles, trouble: (message: string) => void) {
    this.store = stores[whose]
    this.assets = assets
    this.picked = picked
    this.bodies = bodies
    this.table = table
    this.trouble = trouble
  }

  read(asset: number, request: number, _bytes: number, done: (ok: boolean) => void): void {
    this.store.bodies.get(this.address(asset)).then(
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
    if (!body || this.failed) return
    const address = this.address(asset)
    const entry = this.entryOf(asset)
    body
      .arrayBuffer()
      .then((bytes) => this.store.transaction('rw', this.store.bodies, this.store.entries, async () => {
        await this.store.bodies.put({ address, type: body.type, bytes })
        if (entry) await this.store.entries.put({ ...entry, at: entry.writtenMs })
      }))
      .catch((error: unknown) => this.giveUp(error))
  }

  remove(asset: number): void {
    const address = this.address(asset)
    Promise.all([this.store.bodies.delete(address), this.store.entries.delete(address)]).catch((error: unknown) => this.giveUp(error))
  }

  /** Empties the tier: a visit begins as first installed. */
  async clear(): Promise<void> {
    await Promise.all([this.store.bodies.clear(), this.store.entries.clear()]).catch((error: unknown) => this.giveUp(error))
  }

  private address(asset: number): string {
    return this.table.assets[asset]!.address
  }

  private giveUp(error: unknown): void {
    if (!this.failed) this.trouble(`The disk tier cannot be used (${nameOf(error)}); pictures are loaded again instead.`)
    this.failed = true
  }
}

const nameOf = (error: unknown) => (error instanceof Error ? error.name : 'unknown error')
