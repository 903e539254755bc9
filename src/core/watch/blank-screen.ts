import type { FailReason } from '../worlds/ports.ts'
import type { SlotState } from '../list/list-cell.ts'
import type { ListRun } from '../list/list-run.ts'

type Cause = FailReason | 'absent' | 'waiting' | 'restrained'

const sentences: Record<Cause, string> = {
  absent: 'no item has an address where the slot looks for it: bind the picture in Feed',
  waiting: 'everything is still on its way',
  restrained: 'nothing may start while the list moves this fast',
  'bad-address': 'none of the addresses can be loaded: Feed says what is wrong with each',
  cleartext: 'all addresses are cleartext http, and none of their hosts is allowed: Feed allows them',
  'not-granted': 'the app may not use the network, or the hosts are not among those that the relay was started for',
  offline: 'there is no network',
  timeout: 'the host does not answer in time',
  status: 'the host answers every request with an error',
  unauthorized: 'the host wants a header that it does not get',
  redirects: 'the host redirects in a circle',
  truncated: 'every transfer breaks off',
  'not-a-picture': 'what comes is not pictures',
  'too-large': 'the pictures are larger than the app takes',
  undecodable: 'what comes cannot be decoded',
}

/** Why no picture at all is on screen, in one sentence; null when there is one, or nothing to show. */
export function whyBlank(run: ListRun): string | null {
  const counts = new Map<Cause, number>()
  for (const cell of run.attachedCells.values())
    for (const slot of cell.slots) {
      if (!slot.onScreen) continue
      if (slot.shows !== null) return null
      const cause = causeOf(run, slot)
      counts.set(cause, (counts.get(cause) ?? 0) + 1)
    }
  const [first] = [...counts].sort((one, other) => other[1] - one[1])
  return first ? `Nothing is shown: ${sentences[first[0]]}.` : null
}

function causeOf({ loader }: ListRun, { claim }: SlotState): Cause {
  if (claim === null) return 'absent'
  if (claim.request?.parked) return 'offline'
  if (claim.state === 'failed') return loader.failureOf(claim.asset) ?? 'bad-address'
  return loader.restrained ? 'restrained' : 'waiting'
}
