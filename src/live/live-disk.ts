import Dexie, { type Table } from 'dexie'
import type { AssetTable } from '../core/loading/asset-table.ts'
import type { Project } from '../core/project/types.ts'
import type { Disk } from '../core/worlds/ports.ts'
import { localBody, type PickedFiles } from './local-body.ts'

interface StoredBody {
  address: string
  type: string
  bytes: ArrayBuffer
}

class DiskStore extends Dexie {
  bodies!: Table<StoredBody, string>

  constructor() {
    super('tile-tug-disk')
    this.version(1).stores({ bodies: 'address' })
  }
}

const store = new DiskStore()

/** The disk tier's bodies in IndexedDB. What cannot be written is told once, and is then not there to be read. */
export class LiveDisk implements Disk {
  private readonly bodies: Map<number, Blob>
  private readonly table: AssetTable
  private readonly trouble: (message: string) => void
  private readonly assets: Project['assets']
  private readonly picked: PickedFiles
  private failed = false

  constructor(bodies: Map<number, Blob>, table: AssetTable, assets: Project['assets'], picked: PickedFiles, trouble: (message: string) => void) {
    this.assets = assets
    this.picked = picked
    this.bodies = bodies
    this.table = table
    this.trouble = trouble
  }

  read(asset: number, request: number, _bytes: number, done: (ok: boolean) => void): void {
    store.bodies.get(this.address(asset)).then(
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
      () => done(false),
    )
  }

  write(asset: number, request: number): void {
    const body = this.bodies.get(request)
    if (!body || this.failed) return
    const address = this.address(asset)
    body
      .arrayBuffer()
      .then((bytes) => store.bodies.put({ address, type: body.type, bytes }))
      .catch((error: unknown) => this.giveUp(error))
  }

  remove(asset: number): void {
    store.bodies.delete(this.address(asset)).catch((error: unknown) => this.giveUp(error))
  }

  /** Empties the tier: a visit begins as first installed. */
  async clear(): Promise<void> {
    await store.bodies.clear().catch((error: unknown) => this.giveUp(error))
  }

  private address(asset: number): string {
    return this.table.assets[asset]!.address
  }

  private giveUp(error: unknown): void {
    if (!this.failed) this.trouble(`The disk tier cannot be used (${error instanceof Error ? error.name : 'unknown error'}); pictures are loaded again instead.`)
    this.failed = true
  }
}
