import { isObserved } from '../../log/observed.ts'
import { isDelivered, isShown, type Facts, type RequestFact, type TransferFact } from '../facts/facts.ts'

/** The use of a byte: the first class that fits, in the order of the bar. */
export const ledgerClasses = [
  'shown',
  'shownEarly',
  'cutOff',
  'neverSeen',
  'again',
  'failed',
  'revalidated',
  'open',
  'unknown',
] as const
export type LedgerClass = (typeof ledgerClasses)[number]
export type RequestClass = LedgerClass | 'cancelledFree' | 'fromDisk'

export interface Ledger {
  received: number
  inFlight: number
  bytes: Record<LedgerClass, number>
  requests: Record<RequestClass, number>
  /** By transfer and by request number. */
  transferClass: LedgerClass[]
  requestClass: RequestClass[]
  cancelledFreeUs: number
  startedRequests: number
  freeStarted: number
  openStarted: number
  /** Requests that started and are of a class of waste. */
  wastedStarted: number
}

/** Puts every byte received into one class of use or waste (metrics.md, The ledger). */
export function keepLedger(facts: Facts): Ledger {
  const shownAt = lastShown(facts)
  const completed = new Set<number>()
  const seenIsKnown = isObserved(facts.log.head, 'binds')
  const transferClass: LedgerClass[] = []
  const bytes = zeros(ledgerClasses)
  let received = 0
  let inFlight = 0
  for (const transfer of byEnd(facts.transfers)) {
    const kind = classify(transfer, completed, seenIsKnown ? shownAt : null)
    if (transfer.end === 'complete' && transfer.status !== 304) completed.add(transfer.asset)
    transferClass[transfer.id] = kind
    bytes[kind] += transfer.bytes
    received += transfer.bytes
    inFlight += transfer.inFlight
  }
  return { received, inFlight, bytes, transferClass, ...countRequests(facts, transferClass) }
}

function classify(
  transfer: TransferFact,
  completed: ReadonlySet<number>,
  /** null: what was on screen is not known. */
  shownAt: ReadonlyMap<number, number> | null,
): LedgerClass {
  if (transfer.end === 'open') return 'open'
  if (transfer.end === 'failed') return 'failed'
  if (transfer.end === 'cut') return 'cutOff'
  if (transfer.conditional && transfer.status === 200) return 'revalidated'
  if (completed.has(transfer.asset) && transfer.status !== 304) return 'again'
  if (!shownAt) return 'unknown'
  const shown = shownAt.get(transfer.asset)
  if (shown === undefined || shown < transfer.endT) return 'neverSeen'
  return transfer.startClass > 0 ? 'shownEarly' : 'shown'
}

/** When a picture of each asset was last seen in an exposure, µs. */
function lastShown(facts: Facts): Map<number, number> {
  const last = new Map<number, number>()
  for (const exposure of facts.exposures) {
    if (!isShown(exposure)) continue
    const { asset } = facts.log.renditions[exposure.rendition]!
    last.set(asset, Math.max(last.get(asset) ?? 0, exposure.leaveT))
  }
  for (const { t, rendition } of facts.uses) {
    const { asset } = facts.log.renditions[rendition]!
    last.set(asset, Math.max(last.get(asset) ?? 0, t))
  }
  return last
}

/** Classes of bytes that were of no use. */
const wasted: ReadonlySet<RequestClass> = new Set(['failed', 'cutOff', 'again', 'neverSeen'])

function countRequests(facts: Facts, transferClass: readonly LedgerClass[]) {
  const requests = zeros([...ledgerClasses, 'cancelledFree', 'fromDisk'] as const)
  const requestClass: RequestClass[] = []
  let cancelledFreeUs = 0
  let startedRequests = 0
  let freeStarted = 0
  let openStarted = 0
  let wastedStarted = 0
  for (const request of facts.requests) {
    const last = request.transfers.at(-1)
    const kind = classOfRequest(request, facts, transferClass)
    requests[kind]++
    requestClass[request.id] = kind
    if (last === undefined) continue
    startedRequests++
    if (kind === 'open') openStarted++
    if (wasted.has(kind)) wastedStarted++
    if (kind !== 'cancelledFree') continue
    freeStarted++
    const transfer = facts.transfers[last]!
    cancelledFreeUs += transfer.endT - transfer.startT
  }
  return { requests, requestClass, cancelledFreeUs, startedRequests, freeStarted, openStarted, wastedStarted }
}

function classOfRequest(request: RequestFact, facts: Facts, classes: readonly LedgerClass[]): RequestClass {
  const { transfers } = facts
  const last = request.transfers.at(-1)
  if (last === undefined) {
    if (request.fromDisk) return 'fromDisk'
    // Read from the app's package: no transfer carried it.
    if (request.end === 'ready')
      return request.claims.some((claim) => isDelivered(facts.claims[claim]!)) ? 'shown' : 'neverSeen'
    if (request.end === 'failed') return 'failed'
    return request.end === 'open' ? 'open' : 'cancelledFree'
  }
  if (request.end === 'failed') return 'failed'
  if (request.end === 'cancelled' && sumBytes(request, transfers) === 0) return 'cancelledFree'
  if (request.end === 'open' && transfers[last]!.end !== 'complete') return 'open'
  return request.end === 'cancelled' && classes[last] === 'failed' ? 'failed' : classes[last]!
}

const sumBytes = (request: RequestFact, transfers: readonly TransferFact[]) =>
  request.transfers.reduce((sum, id) => sum + transfers[id]!.bytes, 0)

const byEnd = (transfers: readonly TransferFact[]) => [...transfers].sort((a, b) => a.endT - b.endT || a.id - b.id)

function zeros<const T extends readonly string[]>(names: T): Record<T[number], number> {
  return Object.fromEntries(names.map((name) => [name, 0])) as Record<T[number], number>
}
