import type { AppEvent } from './app-event.ts'
import type { EvidenceEvent, Exchange } from './evidence.ts'
import type { RecordedRequests, Asset, Running } from './recorded-requests.ts'

/** Whether the next exchange of an address continues the request of one that failed. */
export function isTriedAgain(one: Exchange, next: Exchange | undefined, asked: readonly number[] | undefined): boolean {
  if (one.end !== 'failed' || !next || one.endMs === null) return false
  if (one.request !== null && next.request !== null) return one.request === next.request
  if (!asked) return false
  return !asked.some((ms) => ms > one.endMs! && ms <= next.startMs)
}

/** A response that a recording has written, as an exchange. */
export function exchangeOf(event: Extract<AppEvent, { event: 'response' }>): Exchange {
  const { address, t, status, bytes, aborted, firstByteMs, endMs } = event
  const answered: Pick<Exchange, 'end' | 'reason'> =
    status >= 400 || status === 0
      ? { end: 'failed', reason: status === 0 ? 'offline' : 'status' }
      : { end: 'complete', reason: '' }
  const ended: Pick<Exchange, 'end' | 'reason'> = aborted ? { end: 'cut', reason: '' } : answered
  return {
    address,
    wantedMs: t,
    startMs: t,
    firstByteMs,
    endMs,
    status,
    bytes,
    conditional: status === 304,
    fromCache: false,
    ...(endMs === null ? { end: 'open' as const, reason: '' } : ended),
    request: null,
    connectMs: null,
  }
}

/** Exchanges that only the app reports. */
export class OwnExchanges {
  /** Failures that are followed by another try, without another want in between. */
  private readonly triedAgain = new Set<AppEvent>()
  /** Wants for what the app is loading already. */
  private readonly joining = new Set<AppEvent>()

  constructor(events: readonly EvidenceEvent[]) {
    this.findTriedAgain(events)
    this.findJoining(events)
  }

  private findTriedAgain(events: readonly EvidenceEvent[]): void {
    const failed = new Map<string, AppEvent>()
    for (const event of events) {
      if (event.event === 'fail') failed.set(event.address, event)
      if ((event.event === 'want' || event.event === 'bind') && event.address !== undefined)
        failed.delete(event.address)
      if (event.event !== 'start') continue
      const former = failed.get(event.address)
      if (former) this.triedAgain.add(former)
      failed.delete(event.address)
    }
  }

  /** The app reads a body later than the other side has written it: until then the app's own request continues. */
  private findJoining(events: readonly EvidenceEvent[]): void {
    const names = new Set(events.map(({ event }) => event))
    if (!names.has('received')) return
    const loading = new Set<string>()
    for (const event of events)
      switch (event.event) {
        case 'start':
          loading.add(event.address)
          break
        case 'want':
          if (loading.has(event.address)) this.joining.add(event)
          else if (!names.has('start')) loading.add(event.address)
          break
        case 'received':
        case 'cancel':
        case 'fail':
          loading.delete(event.address)
      }
  }

  /** One whose start is reported twice has started once. */
  start(t: number, requests: RecordedRequests, asset: Asset): Running {
    return this.running(asset) ?? requests.start(t, asset, false)
  }

  running({ open }: Asset): Running | null {
    return open && open.transfer !== null ? { transfer: open.transfer, request: open } : null
  }

  isTriedAgain(event: AppEvent): boolean {
    return this.triedAgain.has(event)
  }
  /** Whether a want is for a request that has not ended for the app, though it may have ended on the network. */
  isJoining(event: AppEvent): boolean {
    return this.joining.has(event)
  }
}
