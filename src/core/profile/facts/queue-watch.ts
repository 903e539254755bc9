import type { RunHead } from '../../log/run-log.ts'
import type { Facts } from './facts.ts'

interface Watched {
  host: string
  class: number
  queuedT: number
  /** waiting: queued; running: has a slot; gone: neither (disk, decoding, ended). */
  state: 'waiting' | 'running' | 'gone'
  notBefore: number
  /** The network is gone. */
  parked: boolean
  /** Its host has refused it: it waits for new credentials. */
  refused: boolean
}

/**
 * Follows which requests wait and which have a fetch slot while a log is read: peaks, the time of priority inversion,
 * and breaches of the order in which slots are given.
 */
export class QueueWatch {
  private readonly policy: RunHead['policy']
  private readonly facts: Facts
  private readonly known: Watched[] = []
  private readonly waiting = new Set<number>()
  private readonly running = new Set<number>()
  private readonly perHost = new Map<string, number>()
  private lastT = 0
  private isRestrained = false

  constructor(policy: RunHead['policy'], facts: Facts) {
    this.policy = policy
    this.facts = facts
  }

  queued(t: number, request: number, host: string): void {
    this.pass(t)
    this.known[request] = { host, class: 3, queuedT: t, state: 'waiting', notBefore: 0, parked: false, refused: false }
    this.waiting.add(request)
  }

  ranked(t: number, request: number, rank: number): void {
    this.pass(t)
    this.known[request]!.class = rank
  }

  /** A slot is given; returns the class that the request has at that instant. */
  started(t: number, request: number): number {
    this.pass(t)
    const given = this.known[request]!
    if (this.lifted(given, t) > 0)
      for (const other of this.waiting)
        if (other !== request && this.isEligible(this.known[other]!, t)) {
          this.facts.rankBreaches.push({ t, request: other })
          break
        }
    this.waiting.delete(request)
    given.state = 'running'
    given.parked = false
    given.refused = false
    this.running.add(request)
    const atHost = (this.perHost.get(given.host) ?? 0) + 1
    this.perHost.set(given.host, atHost)
    this.facts.peakActive = Math.max(this.facts.peakActive, this.running.size)
    this.facts.peakPerHost = Math.max(this.facts.peakPerHost, atHost)
    return given.class
  }

  /** A transfer has ended and its slot is free. */
  freed(t: number, request: number): void {
    this.pass(t)
    const one = this.known[request]!
    if (!this.running.delete(request)) return
    one.state = 'gone'
    this.perHost.set(one.host, this.perHost.get(one.host)! - 1)
  }

  /** A request is queued again after a failed try. */
  back(t: number, request: number): void {
    this.pass(t)
    const one = this.known[request]!
    one.state = 'waiting'
    one.queuedT = t
    this.waiting.add(request)
  }

  waitsUntil(t: number, request: number, until: number): void {
    this.pass(t)
    this.known[request]!.notBefore = until
  }

  park(t: number, request: number): void {
    this.back(t, request)
    this.known[request]!.parked = true
  }

  /** Its host's credentials are being renewed: until then it waits for no slot. */
  refused(t: number, request: number): void {
    this.back(t, request)
    this.known[request]!.refused = true
  }

  /** The list moves too fast for requests to start, or no longer does. */
  restrained(t: number, on: boolean): void {
    this.pass(t)
    this.isRestrained = on
  }

  unpark(t: number, request: number): void {
    this.pass(t)
    this.known[request]!.parked = false
  }

  isParked(request: number): boolean {
    return this.known[request]?.parked ?? false
  }

  /** A request needs no slot any more. */
  left(t: number, request: number): void {
    this.pass(t)
    this.waiting.delete(request)
  }

  /** A frame is presented: its starts have been made, so no request on screen may wait beside a free slot. */
  presented(t: number): void {
    this.pass(t)
    if (this.policy.restraint || this.running.size >= this.policy.fetchSlots) return
    for (const request of this.waiting)
      if (this.isEligible(this.known[request]!, t) && this.known[request]!.queuedT < t) {
        this.facts.rankBreaches.push({ t, request })
        return
      }
  }

  finish(t: number): void {
    this.pass(t)
  }

  private isEligible(one: Watched, t: number): boolean {
    return (
      one.class === 0 &&
      !one.parked &&
      !one.refused &&
      one.notBefore <= t &&
      (this.perHost.get(one.host) ?? 0) < this.policy.fetchSlotsPerHost
    )
  }

  private lifted(one: Watched, t: number): number {
    return Math.max(0, one.class - Math.floor((t - one.queuedT) / (this.policy.agingMs * 1000)))
  }

  /** Time has passed without a change: was there an inversion? For requests that backed off, from when on. */
  private pass(t: number): void {
    const from = this.lastT
    this.lastT = t
    if (t <= from || this.waiting.size === 0 || this.isRestrained) return
    let since = Infinity
    // Most of those that wait are of one host.
    let host: string | null = null
    let isHeld = false
    for (const request of this.waiting) {
      const one = this.known[request]!
      if (one.class !== 0 || one.parked || one.refused || one.notBefore >= t) continue
      if (one.host !== host) {
        host = one.host
        isHeld = this.isHeldByLower(host)
      }
      if (isHeld) since = Math.min(since, Math.max(from, one.notBefore))
    }
    if (since === Infinity) return
    this.facts.inversionUs += t - since
    const last = this.facts.inversions.at(-1)
    if (last?.to === since) last.to = t
    else this.facts.inversions.push({ from: since, to: t })
  }

  /**
   * Whether a slot that a request to a host could use is held by one of a lower class: at its own host where that is
   * full, anywhere else.
   */
  private isHeldByLower(host: string): boolean {
    const hostIsFull = (this.perHost.get(host) ?? 0) >= this.policy.fetchSlotsPerHost
    if (!hostIsFull && this.running.size < this.policy.fetchSlots) return false
    for (const holder of this.running) {
      const { class: rank, host: at } = this.known[holder]!
      if (rank > 0 && (!hostIsFull || at === host)) return true
    }
    return false
  }
}
