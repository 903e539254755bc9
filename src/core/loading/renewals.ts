import { K } from '../log/event-kinds.ts'
import { hostMatches } from './hosts.ts'
import type { LoaderState } from './loader-state.ts'
import { ended, type Request } from './request.ts'

/**
 * Credentials that a host refuses are renewed once, however many requests it has refused; those wait for it and are
 * asked again with the new ones. Who is refused with what was just renewed has failed.
 */
export class Renewals {
  private readonly state: LoaderState
  /** How often a host's credentials have been renewed. */
  private readonly times = new Map<string, number>()
  private readonly underway = new Set<string>()

  constructor(state: LoaderState) {
    this.state = state
  }

  /** What a request that starts now is sent with. */
  current(host: string): number {
    return this.times.get(host) ?? 0
  }

  /** A host has refused a request: whether it is asked again, now or after a renewal. */
  refused(request: Request): boolean {
    const { policy, world, log } = this.state.parts
    const { host } = request
    if (!policy.headers.some((header) => hostMatches(header.host, host))) return false
    if (request.credential < this.current(host)) return true
    if (request.refused) return false
    request.refused = true
    request.awaitsRenewal = true
    if (this.underway.has(host)) return true
    this.underway.add(host)
    log.write(K.renewal, this.state.now, log.text(host), log.text('asked'))
    world.network.renew(host, (ok) => this.answered(host, ok))
    return true
  }

  private answered(host: string, ok: boolean): void {
    const { log } = this.state.parts
    log.write(K.renewal, this.state.now, log.text(host), log.text(ok ? 'renewed' : 'refused'))
    this.underway.delete(host)
    if (ok) this.times.set(host, this.current(host) + 1)
    for (const request of [...this.state.live]) {
      if (!request.awaitsRenewal || request.host !== host || ended(request)) continue
      request.awaitsRenewal = false
      // One that the loss of the network has parked is asked for when it returns.
      if (!ok && !request.parked) this.state.fail(request, 'unauthorized', 0, -1)
    }
    this.state.pump()
  }
}
