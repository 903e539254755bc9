import type { Facts } from '../../facts/facts.ts'
import { sum } from '../../figures/numbers.ts'

/** Failed requests, by reason. */
export interface FailureGroup {
  reason: string
  requests: number[]
  hosts: string[]
  bytes: number
}

export function failuresOf(
  { requests, transfers, log }: Facts,
  only: ReadonlySet<number> | null = null,
): FailureGroup[] {
  const groups = new Map<string, FailureGroup>()
  for (const request of requests) {
    if (request.end !== 'failed' || (only && !only.has(request.id))) continue
    const group = groups.get(request.reason) ?? { reason: request.reason, requests: [], hosts: [], bytes: 0 }
    groups.set(request.reason, group)
    group.requests.push(request.id)
    const { host } = log.assets[request.asset]!
    if (host !== '' && !group.hosts.includes(host)) group.hosts.push(host)
    group.bytes += sum(request.transfers.map((id) => transfers[id]!.bytes))
  }
  return [...groups.values()].sort((one, other) => other.requests.length - one.requests.length)
}
