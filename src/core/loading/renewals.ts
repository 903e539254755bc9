import { hostMatches } from './hosts.ts'
import type { LoaderActions, LoaderState } from './loader-state.ts'
import type { Us } from '../worlds/ports.ts'
import { ended, type Request } from './request.ts'

/** How often credentials are renewed for one request: a host that is slower than they last refuses it in the end. */
const mostRenewals = 5

/**
 * Credentials that a host refuses are renewed once, however many requests it has refused; those wait and are sent again
 * with the new ones. A request that is refused with new credentials has failed, unless they have aged before it could
 * use them: then they are renewed again.
 */
export class Renewals {
  private readonly state: LoaderState
  private readonly actions: LoaderActions
  /** How often a host's credentials have been renewed. */
  private readonly times = new Map<string, number>()
  private readonly underway = new Set<string>()
  /** When a host was last asked for new ones: they are no younger than that. */
  private readonly askedAt = new Map<string, Us>()

  constructor(state: LoaderState, actions: LoaderActions) {
    this.state = state
    this.actions = actions
  }

  /** The credentials of a request that starts now. */
  current(host: string): number {
    return this.times.get(host) ?? 0
  }

  /** A host has refused a request: whether it is sent again, now or after a renewal. */
  refused(request: Request): boolean {
    const { policy, world, log } = this.state.parts
    const { host } = request
    const header = policy.headers.find((each) => hostMatches(each.host, host))
    if (!header) return false
    if (request.credential < this.current(host)) return true
    // A request that is refused with new credentials is refused for good, unless they have aged while it waited for a
    // slot.
    if (request.renewals > 0 && !this.hasAged(host, header.lastsS)) return false
    if (request.renewals === mostRenewals) return false
    request.renewals++
    request.awaitsRenewal = true
    if (this.underway.has(host)) return true
    this.underway.add(host)
    this.askedAt.set(host, this.state.now)
    log.events.renewal(this.state.now, { host, outcome: 'asked' })
    world.network.renew(host, (ok) => this.answered(host, ok))
    return true
  }

  private hasAged(host: string, lastsS: number | null): boolean {
    return lastsS !== null && this.state.now - (this.askedAt.get(host) ?? 0) >= lastsS * 1e6
  }

  private answered(host: string, ok: boolean): void {
    const { log } = this.state.parts
    log.events.renewal(this.state.now, { host, outcome: ok ? 'renewed' : 'refused' })
    this.underway.delete(host)
    if (ok) this.times.set(host, this.current(host) + 1)
    for (const request of [...this.state.live]) {
      if (!request.awaitsRenewal || request.host !== host || ended(request)) continue
      request.awaitsRenewal = false
      // A request that the loss of the network has parked starts when it returns.
      if (!ok && !request.parked) this.actions.fail(request, 'unauthorized', 0, null)
    }
    this.actions.pump()
  }
}
