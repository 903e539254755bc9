import { sum } from './numbers.ts'
import type { Profile } from './profile.ts'
import { ledgerClasses, type RequestClass } from './ledger.ts'

/** One class of the ledger in full. */
export interface LedgerRow {
  class: RequestClass
  requests: number
  bytes: number
  /** Decoding that its requests have caused. */
  decodeMs: number
  /** Of all bytes received; null when none were. */
  share: number | null
  /** Its dearest requests, by bytes and then decoding. */
  dearest: { request: number; address: string; bytes: number; decodeMs: number }[]
}

export interface LedgerTable {
  rows: LedgerRow[]
  received: number
  /** Across the classes: bytes that carry px which no slot shows. */
  oversize: number
  /** Outside the sum: sent for cancelled transfers and never received. */
  inFlight: number
}

const mostDear = 8
const order: readonly RequestClass[] = [...ledgerClasses, 'cancelledFree', 'fromDisk']

/** The ledger as a table; its bytes sum to what was received, to the byte. */
export function ledgerTable({ facts, ledger, metrics }: Profile): LedgerTable {
  const decodes = new Map<number, number>()
  for (const { request, us } of facts.decodes) decodes.set(request, (decodes.get(request) ?? 0) + us)
  const bytesOf = (request: number) => sum(facts.requests[request]!.transfers.map((id) => facts.transfers[id]!.bytes))
  const rows = order.map((name): LedgerRow => {
    const ids = facts.requests.flatMap(({ id }) => (ledger.requestClass[id] === name ? [id] : []))
    const bytes = (ledgerClasses as readonly string[]).includes(name) ? ledger.bytes[name as keyof typeof ledger.bytes] : 0
    const dearest = ids
      .map((request) => ({ request, address: facts.log.assets[facts.requests[request]!.asset]!.address, bytes: bytesOf(request), decodeMs: (decodes.get(request) ?? 0) / 1000 }))
      .sort((one, other) => other.bytes - one.bytes || other.decodeMs - one.decodeMs || one.request - other.request)
      .slice(0, mostDear)
    return { class: name, requests: ids.length, bytes, decodeMs: sum(ids.map((id) => decodes.get(id) ?? 0)) / 1000, share: ledger.received === 0 ? null : bytes / ledger.received, dearest }
  })
  return { rows: rows.filter(({ requests, bytes }) => requests > 0 || bytes > 0), received: ledger.received, oversize: metrics['bytes.oversize'] ?? 0, inFlight: ledger.inFlight }
}
