import type { RunLog } from '../log/run-log.ts'
import type { AppEvent } from './app-event.ts'
import type { EvidenceEvent } from './evidence.ts'
import { OwnExchanges } from './exchanges.ts'
import type { RecordedCells } from './recorded-cells.ts'
import type { Asset, RecordedRequests } from './recorded-requests.ts'

/** What an app reports of its own requests. */
type NetworkEvent = Extract<AppEvent, { event: 'start' | 'received' | 'cancel' | 'fail' }>

/** What the sources of a run report at all, by the names of their events. */
export type EventNames = ReadonlySet<EvidenceEvent['event']>

/** Writes the events of an app to the log of its run, one after the other, each at its instant. */
export class EvidenceWriter {
  private readonly log: RunLog
  private readonly requests: RecordedRequests
  private readonly cells: RecordedCells
  private readonly names: EventNames
  private readonly own: OwnExchanges

  constructor(
    log: RunLog,
    { requests, cells }: { requests: RecordedRequests; cells: RecordedCells },
    events: readonly EvidenceEvent[],
    names: EventNames,
  ) {
    this.log = log
    this.requests = requests
    this.cells = cells
    this.names = names
    this.own = new OwnExchanges(events)
  }

  /** A body has arrived; where no shows are reported, its cells show it now. */
  came(t: number, asset: Asset): void {
    if (!this.names.has('show')) this.cells.showReceived(t, asset)
  }

  beginDecode(t: number, asset: Asset): void {
    const request = asset.last ?? this.requests.want(t, asset).id
    this.log.events.decodeStart(t, { request, rendition: asset.rendition })
  }

  write(t: number, event: EvidenceEvent): void {
    const { log, requests } = this
    switch (event.event) {
      case 'want':
        this.writeWant(t, event)
        break
      case 'start':
      case 'received':
      case 'cancel':
      case 'fail':
        this.writeOwn(t, event)
        break
      case 'decode': {
        const asset = requests.of(event.address)
        const request = asset.last ?? requests.want(t, asset).id
        const us = Math.round(event.ms * 1000)
        log.events.decodeEnd(t, { request, rendition: asset.rendition, ms: us, ok: true })
        Object.assign(log.renditions[asset.rendition]!, { width: event.widthPx, height: event.heightPx })
        break
      }
      case 'memory':
        log.events.memory(t, { tier: 0, resident: Math.round(event.mb * 1000), bound: 0, garbage: 0 })
        break
      case 'mark':
        log.events.note(t, { text: event.text })
        break
      case 'collected':
        log.events.collect(t, { ms: 0, freed: 0, asked: true })
        log.events.memory(t, { tier: 0, resident: Math.round(event.mb * 1000), bound: 0, garbage: 0 })
        break
      case 'storage': {
        const bytes = Math.round((event.afterMb - event.beforeMb) * 1e6)
        if (bytes >= 0) log.events.diskWrite(t, { asset: 0, bytes })
        else log.events.diskEvict(t, { asset: 0, bytes: -bytes })
        break
      }
      case 'busy':
        log.events.busy(t, { thread: event.thread, ms: Math.round(event.ms * 1000) })
        break
      default:
        this.writeCell(t, event)
    }
  }

  private writeCell(t: number, event: EvidenceEvent): void {
    const { cells, requests } = this
    switch (event.event) {
      case 'create':
        cells.create(t, event.cell, event.kind ?? 'cell')
        break
      case 'bind': {
        const { cell, row, key = row, address = null } = event
        cells.bind(t, { cell, row, key: String(key), address })
        if (!this.names.has('show')) cells.showKept(t, cell)
        if (!this.names.has('frame') && this.names.has('scroll')) cells.lookAt(t)
        break
      }
      case 'recycle':
        cells.recycle(t, event.cell)
        break
      case 'deliver':
        cells.deliver(t, event.cell, event.address, event.tier)
        break
      case 'show':
        if (event.tier === 'disk' && requests.of(event.address).open?.transfer === null)
          requests.fromDisk(t, requests.of(event.address))
        cells.show(t, event.cell, event.address, event.tier ?? 'network', event.late ?? false)
    }
  }

  private writeWant(t: number, event: Extract<AppEvent, { event: 'want' }>): void {
    const { requests } = this
    const { address, priority } = event
    const asset = requests.of(address)
    if (typeof priority === 'number' && [0, 1, 2, 3].includes(priority)) {
      asset.priority = true
      requests.rank(t, asset, priority)
    }
    // What has just arrived for another cell arrives for this one too.
    if (!(asset.onNetwork && this.own.isJoining(event))) requests.want(t, asset)
    if (!asset.onNetwork && !this.names.has('start')) this.own.start(t, requests, asset)
  }

  private writeOwn(t: number, event: NetworkEvent): void {
    const { requests } = this
    const asset = requests.of(event.address)
    const { open } = asset
    // Nothing came over the network for it: a cache had it.
    if (event.event === 'received' && event.bytes === 0 && open?.transfer === null && this.names.has('start')) {
      requests.fromDisk(t, asset)
      this.came(t, asset)
      return
    }
    if (asset.onNetwork) {
      // The network has reported its bytes; bytes that never reached it are known to the app alone.
      if (open?.transfer !== null) return
      if (event.event === 'cancel') requests.cancel(t, asset, open, 0)
      if (event.event === 'fail') requests.fail(t, asset, open, { reason: event.reason, status: 0, bytes: 0 }, false)
      return
    }
    this.writeExchange(t, event, asset)
  }

  /** What only the app reports of an exchange. */
  private writeExchange(t: number, event: NetworkEvent, asset: Asset): void {
    const { requests } = this
    const { open } = asset
    // An end without a start counts all the same, unless its picture has arrived already.
    const isNew = !asset.complete
    switch (event.event) {
      case 'start':
        this.own.start(t, requests, asset)
        break
      case 'received':
        requests.received(
          t,
          asset,
          this.own.running(asset) ?? this.own.start(t, requests, asset),
          Math.round(event.bytes),
        )
        this.came(t, asset)
        break
      case 'cancel': {
        const request = open ?? (isNew ? requests.want(t, asset) : null)
        if (!request) break
        if (request.transfer === null && (event.bytes ?? 0) > 0) requests.start(t, asset, false)
        requests.cancel(t, asset, request, request.transfer === null ? 0 : Math.round(event.bytes ?? 0))
        break
      }
      case 'fail': {
        const request = open ?? (isNew ? requests.want(t, asset) : null)
        if (request)
          requests.fail(t, asset, request, { reason: event.reason, status: 0, bytes: 0 }, this.own.isTriedAgain(event))
      }
    }
  }
}
