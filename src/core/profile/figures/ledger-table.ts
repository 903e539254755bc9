import { sum } from './numbers.ts'
import { oversizeBytes } from './metrics.ts'
import type { Profile } from '../profile.ts'
import { ledgerClasses, type RequestClass } from './ledger.ts'

/** One class of the ledger in full. */
export interface LedgerRow {
  class: RequestClass
  requests: number
  bytes: number
  /** Decoding for its requests. */
  decodeMs: number
  /** Share of the bytes received for these requests; null when none were. */
  share: number | null
  /** Its largest requests, by bytes and then decoding. */
  largest: { request: number; address: string; bytes: number; decodeMs: number }[]
}

export interface LedgerTable {
  rows: LedgerRow[]
  received: number
  /** Across the classes: bytes of px that no slot shows. */
  oversize: number
  /** Outside the sum: sent for cancelled transfers and never received. */
  inFlight: number
}

const mostDear = 8
const order: readonly RequestClass[] = [...ledgerClasses, 'cancelledFree', 'fromDisk']

/** The ledger as a table, of all requests or of some; its bytes add up exactly to those received for them. */
export function ledgerTable({ facts, ledger }: Profile, only: ReadonlySet<number> | null = null): LedgerTable {
  const ofThem = (request: number) => only === null || only.has(request)
  const transfers = facts.transfers.filter(({ request }) => ofThem(request))
  const received = sum(transfers.map(({ bytes }) => bytes))
  const decodes = new Map<number, number>()
  for (const { request, us } of facts.decodes) decodes.set(request, (decodes.get(request) ?? 0) + us)
  const bytesOf = (request: number) => sum(facts.requests[request]!.transfers.map((id) => facts.transfers[id]!.bytes))
  const rows = order.map((name): LedgerRow => {
    const ids = facts.requests.flatMap(({ id }) => (ledger.requestClass[id] === name && ofThem(id) ? [id] : []))
    const bytes = sum(transfers.map((transfer) => (ledger.transferClass[transfer.id] === name ? transfer.bytes : 0)))
    const largest = ids
      .map((request) => ({
        request,
        address: facts.log.assets[facts.requests[request]!.asset]!.address,
        bytes: bytesOf(request),
        decodeMs: (decodes.get(request) ?? 0) / 1000,
      }))
      .sort((one, other) => other.bytes - one.bytes || other.decodeMs - one.decodeMs || one.request - other.request)
      .slice(0, mostDear)
    return {
      class: name,
      requests: ids.length,
      bytes,
      decodeMs: sum(ids.map((id) => decodes.get(id) ?? 0)) / 1000,
      share: received === 0 ? null : bytes / received,
      largest,
    }
  })
  return {
    rows: rows.filter(({ requests, bytes }) => requests > 0 || bytes > 0),
    received,
    oversize: oversizeBytes(facts, only && new Set(transfers.map(({ asset }) => asset))),
    inFlight: sum(transfers.map(({ inFlight }) => inFlight)),
  }
}
