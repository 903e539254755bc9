import type { Decoding } from './decoding.ts'
import type { LoaderActions, LoaderState } from './loader-state.ts'
import { ended, type Request } from './request.ts'

/** What is read from the disk tier, and from the app's package, instead of the network; and what is written to disk. */
export class DiskReads {
  private readonly state: LoaderState
  private readonly actions: LoaderActions
  private readonly decoding: Decoding

  constructor(state: LoaderState, actions: LoaderActions, decoding: Decoding) {
    this.state = state
    this.actions = actions
    this.decoding = decoding
  }

  tryDisk(request: Request): void {
    const hit = this.state.diskTier.look(request.asset)
    if (!hit) return
    if (hit.fresh) this.readDisk(request, hit.bytes)
    else if (hit.mayServeStale) {
      this.readDisk(request, hit.bytes)
      this.actions.revalidate(request.asset, hit.etag)
    } else request.etag = hit.etag
  }

  readDisk(request: Request, bytes: number): void {
    request.state = 'disk'
    request.fromDisk = true
    this.state.parts.log.events.diskAsk(this.state.now, { request: request.id })
    const { disk } = this.state.parts.world
    disk.read(request.asset, request.id, bytes, (ok) => {
      if (ended(request)) return
      if (ok) {
        this.state.parts.log.events.diskRead(this.state.now, { asset: request.asset, bytes, request: request.id })
        this.decoding.beginDecoding(request)
      } else {
        this.state.diskTier.drop(request.asset)
        this.state.parts.log.events.diskEvict(this.state.now, { asset: request.asset, bytes })
        this.state.parts.log.events.diskMiss(this.state.now, { request: request.id })
        request.fromDisk = false
        request.etag = null
        request.state = 'queued'
        this.actions.pump()
      }
    })
  }

  readLocal(request: Request): void {
    const { world, log, table } = this.state.parts
    request.state = 'disk'
    request.local = true
    log.events.diskAsk(this.state.now, { request: request.id })
    world.disk.local(request.asset, request.id, table.hints[request.asset]!.bytes ?? 0, (ok) => {
      if (ended(request)) return
      if (ok) this.decoding.beginDecoding(request)
      else this.actions.fail(request, 'bad-address', 0, null)
    })
  }

  writeDisk(request: Request, bytes: number): void {
    const { table, world, log, epochMs } = this.state.parts
    const identity = table.assets[request.asset]!.address
    if (!this.state.diskTier.storable(identity, request.status, request.headers)) return
    const { headers } = request
    if (bytes > this.state.diskTier.budget) return
    this.state.diskTier.put(request.asset, {
      identity,
      host: request.host,
      bytes,
      etag: headers.etag ?? null,
      writtenMs: epochMs + this.state.now / 1000,
      headers,
    })
    log.events.diskWrite(this.state.now, { asset: request.asset, bytes })
    world.disk.write(request.asset, request.id, bytes)
  }
}
