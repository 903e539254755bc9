import Dexie, { type Table } from 'dexie'
import type { AssetTable } from '../core/loading/asset-table.ts'
import type { Project } from '../core/project/types.ts'
import type { Disk } from '../core/worlds/ports.ts'

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

interface Carried {
  type: string
  base64: string
}

/** The picture that a data address carries (RFC 2397, base64 alone). */
function dataOf(address: string): Carried | null {
  const match = /^data:(image\/[a-z0-9.+-]+)?;base64,([A-Za-z0-9+/]+=*)$/i.exec(address)
  return match && match[2]!.length % 4 === 0 ? { type: match[1] ?? 'image/png', base64: match[2]! } : null
}

function bodyOf({ type, base64 }: Carried): Blob {
  const binary = atob(base64)
  return new Blob([Uint8Array.from(binary, (character) => character.charCodeAt(0))], { type })
}

const store = new DiskStore()

/** The disk tier's bodies in IndexedDB. What cannot be written is told once, and is then not there to be read. */
export class LiveDisk implements Disk {
  private readonly bodies: Map<number, Blob>
  private readonly table: AssetTable
  private readonly trouble: (message: string) => void
  private readonly assets: Project['assets']
  private failed = false

  constructor(bodies: Map<number, Blob>, table: AssetTable, assets: Project['assets'], trouble: (message: string) => void) {
    this.assets = assets
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
    const address = this.table.hrefs[asset]!
    const carried = address.startsWith('packaged:') ? this.assets.find(({ name }) => `packaged:${name}` === address) : dataOf(address)
    if (carried) this.bodies.set(request, bodyOf(carried))
    // Never within the call: whoever asks hears of it as of a read.
    queueMicrotask(() => done(carried !== undefined && carried !== null))
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
