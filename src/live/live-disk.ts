import type { AssetTable } from '../core/loading/asset-table.ts'
import type { DiskEntry } from '../core/loading/disk-tier.ts'
import type { Project } from '../core/project/types.ts'
import type { Disk } from '../core/worlds/ports.ts'
import type { Body } from '../workers/body.ts'
import { changeDisk, closeDisk, openDisk, readDisk } from './disk-client.ts'
import { localBody, type PickedFiles } from './local-body.ts'

/**
 * The owner under which the hand's list keeps its entries while it lasts; drives keep theirs under their project's id.
 */
export const byHand = 'hand'

/**
 * The disk tier's bodies and their index, which a worker keeps. A failed write is reported once, and its body is then
 * not there to be read.
 */
export class LiveDisk implements Disk {
  private readonly bodies: Map<number, Body>
  private readonly table: AssetTable
  private readonly trouble: (message: string) => void
  private readonly whose: string
  /** The loader's index entry of an asset; available once the loader is made. */
  entryOf: (asset: number) => DiskEntry | undefined = () => undefined
  private readonly assets: Project['assets']
  private readonly picked: PickedFiles
  private readonly disk = openDisk((error) => this.giveUp(error))
  private failed = false

  constructor(
    whose: string,
    bodies: Map<number, Body>,
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
    readDisk(this.place(asset), (body) => {
      if (body) this.bodies.set(request, body)
      done(body !== null)
    })
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
    changeDisk({ type: 'write', disk: this.disk, place: this.place(asset), whose: this.whose, entry, body })
  }

  renew(asset: number): void {
    const entry = this.entryOf(asset)
    if (!entry || this.failed) return
    changeDisk({ type: 'renew', disk: this.disk, place: this.place(asset), whose: this.whose, entry })
  }

  remove(asset: number): void {
    changeDisk({ type: 'remove', disk: this.disk, place: this.place(asset) })
  }

  /** Empties the tier: a visit begins as first installed. */
  clear(): void {
    changeDisk({ type: 'clear', disk: this.disk, whose: this.whose })
  }

  /** Failed writes are not reported any more. */
  stop(): void {
    closeDisk(this.disk)
  }

  private place(asset: number): string {
    return `${this.whose} ${this.table.assets[asset]!.address}`
  }

  private giveUp(error: string): void {
    if (!this.failed) this.trouble(`The disk tier cannot be used (${error}); pictures are loaded again instead.`)
    this.failed = true
  }
}

const nameOf = (error: unknown) => (error instanceof Error ? error.name : 'unknown error')
