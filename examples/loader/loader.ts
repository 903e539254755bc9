/**
 * A loader that speaks the protocol of the vectors (docs/vectors.md): a skeleton to begin from, in one file, with no
 * dependency. Run it with: npm run -s tug -- vectors run V.json -- npx tsx examples/loader/run.ts
 */
export interface Policy {
  fetchSlots: number
  order: 'nearest' | 'first-come' | 'last-come'
  agingMs: number
  cancel: 'recycle' | 'never'
  keepAbove: number
  share: boolean
  guard: boolean
  whenLeft: 'carry-on' | 'finish-running' | 'let-go'
  retry: { attempts: number; firstMs: number; factor: number }
}

export interface Step {
  at: number
  do: string
  cell?: number
  address?: string
  class?: number
  distance?: number
  bytes?: number
  total?: number
  reason?: string
  status?: number
  retryAfterS?: number
}

/** A cell that wants a picture. */
export interface Claim {
  cell: number
  class: number
  distance: number
  released: boolean
  served: boolean
}

export interface Request {
  address: string
  claims: Claim[]
  state: 'waiting' | 'running' | 'decoding' | 'over'
  queuedAt: number
  notBefore: number
  attempt: number
  bytes: number
  total: number
  retryAfterS: number
}

const worthRetrying = [408, 425, 429, 500, 502, 503, 504]

export class ExampleLoader {
  protected readonly policy: Policy
  protected requests: Request[] = []
  protected readonly cells = new Map<number, { claim: Claim; address: string }>()
  protected readonly decoded = new Set<string>()
  protected now = 0
  protected isLeft = false
  private output: object[] = []

  constructor(policy: Policy) {
    this.policy = policy
  }

  /** Does a step; what it makes the loader do comes back, in order. */
  step(step: Step): object[] {
    this.output = []
    this.now = step.at
    this.act(step)
    this.letGoOfUnwanted()
    this.startWhatMay()
    return this.output
  }

  private act(step: Step): void {
    const { cell = 0, address = '' } = step
    switch (step.do) {
      case 'bind':
        this.bind(cell, address, step.class ?? 0, step.distance ?? 0)
        break
      case 'recycle':
        this.release(cell)
        break
      case 'place':
        Object.assign(this.cells.get(cell)?.claim ?? {}, { class: step.class, distance: step.distance })
        break
      case 'leave':
        this.isLeft = true
        if (this.policy.whenLeft === 'let-go') for (const request of this.alive()) this.cancel(request)
        break
      case 'return':
        this.comeBack()
        break
      case 'close':
        this.close()
        break
      case 'responded':
        this.each(address, 'running', (request) => (request.total = step.total ?? 0))
        break
      case 'progress':
        this.each(address, 'running', (request) => (request.bytes = step.bytes ?? 0))
        break
      case 'received':
        this.each(address, 'running', (request) => this.received(request))
        break
      case 'failed':
        this.each(address, 'running', (request) => this.failed(request, step))
        break
      case 'decoded':
        this.each(address, 'decoding', (request) => this.show(request))
    }
  }

  protected bind(cell: number, address: string, rank: number, distance: number): void {
    this.release(cell)
    const claim: Claim = { cell, class: rank, distance, released: false, served: false }
    this.cells.set(cell, { claim, address })
    if (this.decoded.has(address)) {
      this.say({ show: address, cell })
      claim.served = true
      return
    }
    this.requestFor(address).claims.push(claim)
  }

  /** The request that a new claim joins, or one of its own. */
  protected requestFor(address: string): Request {
    const running = this.policy.share ? this.alive().find((each) => each.address === address) : undefined
    return running ?? this.newRequest(address)
  }

  protected newRequest(address: string): Request {
    const request: Request = {
      address,
      claims: [],
      state: 'waiting',
      queuedAt: this.now,
      notBefore: 0,
      attempt: 0,
      bytes: 0,
      total: 0,
      retryAfterS: 0,
    }
    this.requests.push(request)
    return request
  }

  protected release(cell: number): void {
    const bound = this.cells.get(cell)
    if (!bound) return
    bound.claim.released = true
    this.cells.delete(cell)
  }

  private letGoOfUnwanted(): void {
    for (const request of this.alive())
      if (!request.claims.some((claim) => !claim.released) && this.mayLetGo(request)) this.cancel(request)
  }

  /** Whether a request that nobody wants any more is cut: the rule, and how much of it has come. */
  protected mayLetGo(request: Request): boolean {
    if (this.policy.cancel === 'never' || request.state === 'decoding') return false
    return !(request.total > 0 && request.bytes / request.total >= this.policy.keepAbove)
  }

  protected cancel(request: Request): void {
    if (request.state === 'decoding') return
    if (request.state === 'running') this.say({ cancel: request.address })
    request.state = 'over'
  }

  private received(request: Request): void {
    const wanted = request.claims.some((claim) => !claim.released || !this.policy.guard)
    request.state = wanted ? 'decoding' : 'over'
    if (wanted) this.say({ decode: request.address })
  }

  protected show(request: Request): void {
    request.state = 'over'
    this.decoded.add(request.address)
    for (const claim of request.claims) if (this.maySee(claim)) this.say({ show: request.address, cell: claim.cell })
  }

  /** A claim that was released is another item's cell now. */
  protected maySee(claim: Claim): boolean {
    return !claim.released || !this.policy.guard
  }

  private failed(request: Request, { reason = '', status = 0, retryAfterS = 0 }: Step): void {
    const wanted = request.claims.some((claim) => !claim.released)
    if (wanted && this.canHelp(reason, status) && request.attempt < this.policy.retry.attempts) {
      const { firstMs, factor } = this.policy.retry
      const wait = firstMs * factor ** request.attempt++
      Object.assign(request, {
        state: 'waiting',
        queuedAt: this.now,
        notBefore: this.now + Math.max(wait, this.askedToWait(retryAfterS)),
        bytes: 0,
        total: 0,
      })
      return
    }
    request.state = 'over'
    this.afterFailure(request)
    for (const claim of request.claims) if (!claim.released) this.say({ fail: claim.cell, reason })
  }

  protected afterFailure(_request: Request): void {
    // Its slot is free: nothing else is to be done.
  }

  protected canHelp(reason: string, status: number): boolean {
    return reason === 'timeout' || reason === 'truncated' || (reason === 'status' && worthRetrying.includes(status))
  }

  protected askedToWait(retryAfterS: number): number {
    return retryAfterS * 1000
  }

  private comeBack(): void {
    this.isLeft = false
    // What was let go is asked for again; what goes on is not.
    for (const [cell, { claim, address }] of [...this.cells]) {
      const goesOn =
        claim.served || this.requests.some(({ state, claims }) => state !== 'over' && claims.includes(claim))
      if (!goesOn && !this.decoded.has(address)) this.bind(cell, address, claim.class, claim.distance)
    }
  }

  protected close(): void {
    for (const request of this.alive()) {
      // Nobody hears of it any more, guard or not.
      request.claims = []
      this.cancel(request)
    }
    this.cells.clear()
    this.isLeft = true
  }

  private startWhatMay(): void {
    while (this.running() < this.policy.fetchSlots) {
      const next = this.nextInLine()
      if (!next) return
      next.state = 'running'
      this.say({ start: next.address })
    }
  }

  protected running(): number {
    return this.requests.filter(({ state }) => state === 'running').length
  }

  protected mayStart(request: Request): boolean {
    return (
      request.state === 'waiting' &&
      request.notBefore <= this.now &&
      (!this.isLeft || this.policy.whenLeft === 'carry-on')
    )
  }

  private nextInLine(): Request | undefined {
    return this.requests
      .filter((request) => this.mayStart(request))
      .sort((one, other) => this.rankOf(one) - this.rankOf(other) || this.placeOf(one) - this.placeOf(other))[0]
  }

  /** The best class of its claims; every so long in line lifts it by one. */
  protected rankOf(request: Request): number {
    const best = Math.min(3, ...request.claims.filter((claim) => !claim.released).map((claim) => claim.class))
    return Math.max(0, best - this.lifted(request))
  }

  protected lifted(request: Request): number {
    return Math.floor((this.now - request.queuedAt) / this.policy.agingMs)
  }

  protected placeOf(request: Request): number {
    if (this.policy.order === 'first-come') return request.queuedAt
    if (this.policy.order === 'last-come') return -request.queuedAt
    return Math.min(Infinity, ...request.claims.filter((claim) => !claim.released).map((claim) => claim.distance))
  }

  protected alive(): Request[] {
    return this.requests.filter(({ state }) => state !== 'over')
  }

  private each(address: string, state: Request['state'], act: (request: Request) => void): void {
    const found = this.requests.find((request) => request.address === address && request.state === state)
    if (found) act(found)
  }

  protected say(output: object): void {
    this.output.push(output)
  }
}
