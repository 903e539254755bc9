import type { Device, Loading } from '../project/types.ts'
import type { FailReason } from '../worlds/ports.ts'
import { hostMatches, isLocal } from './hosts.ts'

/** Why an app may not request an address at all; null: it may. */
export function refusalOf(
  address: string,
  host: string,
  { cleartextHosts }: Pick<Loading, 'cleartextHosts'>,
  granted: Pick<Device['granted'], 'network'>,
): FailReason | null {
  if (/^http:/i.test(address) && !cleartextHosts.some((pattern) => hostMatches(pattern, host))) return 'cleartext'
  return granted.network || isLocal(address) ? null : 'not-granted'
}
