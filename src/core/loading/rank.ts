import type { Us } from '../worlds/ports.ts'
import type { Loading } from '../project/types.ts'
import type { Claim, Request } from './request.ts'

/** The fields of a claim, and of a request, that its rank depends on. */
export type RankedClaim = Pick<Claim, 'row' | 'priority' | 'state' | 'onScreen' | 'leftAt' | 'held'> &
  Partial<Pick<Claim, 'later'>>
export type RankedRequest = Pick<Request, 'id' | 'queuedAt'> & { claims: readonly RankedClaim[] }

/** A request that left the screen less than this ago ranks with the held ones. */
const justLeftUs = 1_000_000
const unclaimed = 3

/** The class of a request as last logged, that of an unclaimed one before. */
export const loggedClass = (request: Pick<Request, 'class'>): number => request.class ?? unclaimed

/** What the list shows now, as far as ranks depend on it. Lengths in 1/1024 dp. */
export interface Viewpoint {
  centre: number
  /** 1 down, −1 up; starts downward. */
  direction: 1 | -1
  centreOfRow(row: number): number
}

/** 0 on screen, 1 coming up, 2 held or just left, 3 all else. */
function classOfClaim(claim: RankedClaim, now: Us): number {
  if (claim.state === 'released') return unclaimed
  if (claim.onScreen) return 0
  if (claim.later) return unclaimed
  if (claim.held) return 2
  if (claim.leftAt === null) return 1
  return now - claim.leftAt < justLeftUs ? 2 : 3
}

export function classOf(request: RankedRequest, now: Us): number {
  let best = unclaimed
  for (const claim of request.claims) {
    const own = classOfClaim(claim, now)
    if (own < best) best = own
    if (best === 0) break
  }
  return best
}

export interface Rank {
  class: number
  priority: number
  order: number
  id: number
}

/** The rank of a request: the best of its claims, lifted one class for each `agingMs` in the queue. */
export function rankOf(
  request: RankedRequest,
  now: Us,
  view: Viewpoint,
  policy: Pick<Loading, 'order' | 'agingMs'>,
): Rank {
  const lifted = Math.floor((now - request.queuedAt) / (policy.agingMs * 1000))
  const best: Rank = {
    class: Math.max(0, unclaimed - lifted),
    priority: 2,
    order: orderOf(request, null, view, policy.order),
    id: request.id,
  }
  for (const claim of request.claims) {
    const own = Math.max(0, classOfClaim(claim, now) - lifted)
    if (own > best.class || (own === best.class && claim.priority > best.priority)) continue
    const order = orderOf(request, claim, view, policy.order)
    if (own === best.class && claim.priority === best.priority && order >= best.order) continue
    best.class = own
    best.priority = claim.priority
    best.order = order
  }
  return best
}

/** The class of a request's rank: ranks are compared by it first. */
export function liftedClass(request: RankedRequest, now: Us, policy: Pick<Loading, 'agingMs'>): number {
  return Math.max(0, classOf(request, now) - Math.floor((now - request.queuedAt) / (policy.agingMs * 1000)))
}

export function isBefore(one: Rank, other: Rank): boolean {
  if (one.class !== other.class) return one.class < other.class
  if (one.priority !== other.priority) return one.priority < other.priority
  if (one.order !== other.order) return one.order < other.order
  return one.id < other.id
}

function orderOf(request: RankedRequest, claim: RankedClaim | null, view: Viewpoint, order: Loading['order']): number {
  if (order === 'first-come') return request.queuedAt
  if (order === 'last-come') return -request.queuedAt
  if (claim === null) return Number.MAX_SAFE_INTEGER
  const offset = view.centreOfRow(claim.row) - view.centre
  const distance = Math.abs(offset)
  return offset * view.direction < 0 ? 2 * distance : distance
}
