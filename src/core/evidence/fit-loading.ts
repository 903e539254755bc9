import { isObserved } from '../log/observed.ts'
import type { Facts } from '../profile/facts/facts.ts'
import type { Loading } from '../project/types.ts'
import { fitted, type Fitted, type Kept } from './fit-network.ts'

const fewest = 5
/**
 * When more ran at once than the app has slots for less than this in all, µs, it is because two sides of the wire
 * report.
 */
const briefUs = 30_000
/** A request that ends within this of its cell's recycling was let go because of it, µs. */
const atOnceUs = 300_000

/** The rules of an app's loader as far as its requests show them; what they do not show stays as it is in `base`. */
export function fitLoading(facts: Facts, base: Loading): { loading: Loading; fitted: Fitted[]; kept: Kept[] } {
  const loading: Loading = { ...base, cancel: { ...base.cancel }, ahead: { ...base.ahead }, retry: { ...base.retry } }
  const found: Fitted[] = []
  const kept: Kept[] = []
  const keep = (path: string, why: string) => kept.push({ path: `/loading/${path}`, why })
  if (facts.transfers.length < fewest) {
    keep('fetchSlots', `${facts.transfers.length} transfers were recorded; ${fewest} are needed`)
    return { loading, fitted: found, kept }
  }
  const atOnce = Math.min(64, Math.max(1, mostAtOnce(facts)))
  loading.fetchSlots = atOnce
  loading.fetchSlotsPerHost = Math.min(atOnce, Math.max(1, facts.peakPerHost))
  found.push({
    path: '/loading/fetchSlots',
    value: atOnce,
    low: null,
    high: null,
    samples: facts.transfers.length,
    confidence: 'fair',
  })
  fitOrder(facts, loading, found, keep)
  fitCancel(facts, loading, found, keep)
  fitAhead(facts, loading, found, keep)
  if (facts.requests.every(({ retries }) => retries === 0) && facts.requests.some(({ end }) => end === 'failed')) {
    loading.retry.attempts = 0
    found.push(fitted('/loading/retry/attempts', [0], 0))
  } else keep('retry/attempts', 'no request failed')
  return { loading, fitted: found, kept }
}

/**
 * The most transfers that ran at once for longer than the reports of one's end and the next one's start may be apart.
 */
function mostAtOnce({ transfers }: Facts): number {
  const edges = transfers
    .flatMap(({ startT, endT }) => [
      { t: startT, by: 1 },
      { t: endT, by: -1 },
    ])
    .sort((one, other) => one.t - other.t || one.by - other.by)
  const held: number[] = []
  let running = 0
  for (const [i, { t, by }] of edges.entries()) {
    running += by
    held[running] = (held[running] ?? 0) + ((edges[i + 1]?.t ?? t) - t)
  }
  let longer = 0
  for (let count = held.length - 1; count > 0; count--) if ((longer += held[count] ?? 0) > briefUs) return count
  return 1
}

type Keep = (path: string, why: string) => void

/** Whether requests start in the order in which they were wanted. */
function fitOrder(facts: Facts, loading: Loading, found: Fitted[], keep: Keep): void {
  const started = facts.requests.filter(({ transfers }) => transfers.length > 0)
  const waited = started.filter(({ transfers, queueT }) => facts.transfers[transfers[0]!]!.startT > queueT + 5000)
  if (waited.length < fewest || !isObserved(facts.log.head, 'wants')) {
    keep('order', `${waited.length} requests waited in line; ${fewest} are needed`)
    return
  }
  let inOrder = 0
  let latestFirst = 0
  const byStart = started.toSorted(
    (one, other) => facts.transfers[one.transfers[0]!]!.startT - facts.transfers[other.transfers[0]!]!.startT,
  )
  for (const [i, next] of byStart.slice(1).entries()) {
    const before = byStart[i]!
    if (next.queueT >= before.queueT) inOrder++
    else latestFirst++
  }
  const share = inOrder / Math.max(1, inOrder + latestFirst)
  if (share > 0.9) loading.order = 'first-come'
  else if (share < 0.4) loading.order = 'last-come'
  else {
    keep('order', 'requests start in no order that is known here')
    return
  }
  found.push({
    path: '/loading/order',
    value: loading.order,
    low: null,
    high: null,
    samples: byStart.length,
    confidence: 'fair',
  })
}

/** What happens to a request whose cell is recycled before its picture has arrived. */
function fitCancel(facts: Facts, loading: Loading, found: Fitted[], keep: Keep): void {
  const open = facts.claims.flatMap(({ releaseT, why, request: number, deliverT }) => {
    if (releaseT === null || why === 'fallback' || number === null || deliverT !== null) return []
    const request = facts.requests[number]!
    return request.end !== 'open' && request.endT > releaseT ? [{ request, releaseT }] : []
  })
  if (open.length < 3) {
    keep('cancel/when', `${open.length} requests were still under way when their cells left; 3 are needed`)
    return
  }
  const cancelled = open.filter(({ request }) => request.end === 'cancelled')
  const atOnce = cancelled.filter(({ request, releaseT }) => request.endT - releaseT < atOnceUs)
  if (cancelled.length < 0.2 * open.length) loading.cancel.when = 'never'
  else loading.cancel.when = atOnce.length >= 0.5 * cancelled.length ? 'recycle' : 'zone'
  found.push({
    path: '/loading/cancel/when',
    value: loading.cancel.when,
    low: null,
    high: null,
    samples: open.length,
    confidence: open.length >= 10 ? 'good' : 'fair',
  })
}

/** Whether anything is requested that no cell is bound to. */
function fitAhead(facts: Facts, loading: Loading, found: Fitted[], keep: Keep): void {
  if (!isObserved(facts.log.head, 'binds')) {
    keep('ahead/amount', 'no binds were recorded: what was requested ahead is not known')
    return
  }
  const ahead = facts.requests.filter(({ claims }) => claims.length === 0).length
  if (ahead > 0.05 * facts.requests.length) {
    keep('ahead/amount', `${ahead} requests were for no cell that was bound`)
    return
  }
  loading.ahead.amount = 0
  found.push(fitted('/loading/ahead/amount', [0], 0))
}
