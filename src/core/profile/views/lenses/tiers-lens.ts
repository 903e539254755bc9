import { isDelivered, type Facts } from '../../facts/facts.ts'
import { isWithin, thinned, type While } from './while.ts'

export interface TiersLens {
  /** Deliveries by then, by tier, since the start of the part. */
  points: { ms: number; memory: number; disk: number; network: number; local: number }[]
  evictions: number[]
}

export function tiersLens({ claims, evictions }: Facts, within: While | null = null): TiersLens {
  const counts = { memory: 0, disk: 0, network: 0, local: 0 }
  const points = claims
    .filter(isDelivered)
    .filter(({ deliverT }) => isWithin(deliverT / 1000, within))
    .sort((one, other) => one.deliverT - other.deliverT)
    .map((claim) => {
      counts[claim.tier as keyof typeof counts]++
      return { ms: claim.deliverT / 1000, ...counts }
    })
  return { points: thinned(points), evictions: evictions.map(({ t }) => t / 1000).filter((ms) => isWithin(ms, within)) }
}
