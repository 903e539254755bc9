import type { Us } from '../worlds/ports.ts'
import type { LoaderState } from './loader-state.ts'
import { classOf, isBefore, liftedClass, type Rank } from './rank.ts'
import type { Request } from './request.ts'

/** The request that gets the next free fetch slot: the best rank of those that may start now; null: none may. */
export function nextInLine(state: LoaderState): Request | null {
  const { policy } = state.parts
  const { now } = state
  const held = state.suspension !== null && state.suspension.how !== 'carry-on'
  let best: Request | null = null
  let bestRank: Rank | null = null
  let waits: boolean | null = null
  for (const request of state.live) {
    if (request.state !== 'queued' || request.parked || request.awaitsRenewal || request.notBefore > now) continue
    if (held && state.isSuspended(request)) continue
    if (request.hostLoad.running >= policy.fetchSlotsPerHost) continue
    if (policy.ahead.onlyWhenIdle && onlyAhead(request)) {
      waits ??= screenWaits(state, now)
      if (waits) continue
    }
    if (bestRank !== null && liftedClass(request, now, policy) > bestRank.class) continue
    const rank = state.rank(request)
    if (bestRank === null || isBefore(rank, bestRank)) {
      best = request
      bestRank = rank
    }
  }
  return best
}

function screenWaits(state: LoaderState, now: Us): boolean {
  for (const request of state.live)
    if (
      request.state !== 'decoding' &&
      !request.parked &&
      !request.awaitsRenewal &&
      request.notBefore <= now &&
      classOf(request, now) === 0
    )
      return true
  return false
}

const onlyAhead = (request: Request) =>
  request.claims.length > 0 &&
  request.claims.every((claim) => (claim.cell === null && claim.scope === 'list') || claim.state === 'released')
