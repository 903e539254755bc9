/** What a loader reports to its app. */
export interface LoaderEvents {
  start(address: string): void
  received(address: string, bytes: number): void
  cancelled(address: string, bytes: number): void
  failed(address: string, reason: string): void
}

const slots = 4

interface Load {
  address: string
  number: number
  bytes: number
  state: 'waiting' | 'running' | 'letting-go' | 'over'
}

/**
 * A loader as it is wired up in an afternoon, simple on purpose: first come, first served, four at once, each address
 * once. It cancels only on request.
 */
export class SimpleLoader {
  private readonly base: string
  private readonly letGo: string
  private readonly events: LoaderEvents
  private readonly loads = new Map<string, Load>()
  private line: Load[] = []
  private running = 0
  private numbers = 0
  private readonly ends = new Set<Promise<void>>()

  /** `base`: the host of the pictures; `letGo`: where cut transfers are reported. */
  constructor(base: string, letGo: string, events: LoaderEvents) {
    this.base = base
    this.letGo = letGo
    this.events = events
  }

  want(address: string): void {
    if (this.loads.has(address)) return
    const load: Load = { address, number: ++this.numbers, bytes: 0, state: 'waiting' }
    this.loads.set(address, load)
    this.line.push(load)
    this.startNext()
  }

  cancel(address: string): void {
    const load = this.loads.get(address)
    if (!load) return
    if (load.state === 'waiting') {
      this.line = this.line.filter((each) => each !== load)
      this.over(load)
      this.events.cancelled(address, 0)
    } else if (load.state === 'running') load.state = 'letting-go'
  }

  /** Resolves when nothing is under way any more. */
  async settled(): Promise<void> {
    while (this.ends.size > 0) await Promise.all(this.ends)
  }

  private startNext(): void {
    while (this.running < slots && this.line.length > 0) {
      const load = this.line.shift()!
      load.state = 'running'
      this.running++
      this.events.start(load.address)
      const end = this.run(load).finally(() => {
        this.ends.delete(end)
        this.running--
        this.startNext()
      })
      this.ends.add(end)
    }
  }

  private async run(load: Load): Promise<void> {
    const controller = new AbortController()
    const until = this.watchForEnd(load, controller)
    try {
      // The transfer's number is put after the recording, so that it can be let go by number.
      const answer = await fetch(`${this.base}~${load.number}${load.address.slice(this.base.length)}`, {
        signal: controller.signal,
      })
      for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
        load.bytes += part.length
        until.came()
      }
      const { status } = answer
      // A transfer that was complete before it was let go has arrived.
      this.over(load)
      if (status !== 200) this.events.failed(load.address, `status ${status}`)
      else this.events.received(load.address, load.bytes)
    } catch (error) {
      const wasCut = controller.signal.aborted
      this.over(load)
      if (wasCut) this.events.cancelled(load.address, load.bytes)
      else this.events.failed(load.address, (error as Error).message)
    } finally {
      until.stop()
    }
  }

  /**
   * Cuts a transfer that is let go: the other side stops writing and answers how far it was; up to there it is read.
   */
  private watchForEnd(load: Load, controller: AbortController): { came(): void; stop(): void } {
    let written: number | null = null
    let asked = false
    const cutIfRead = () => {
      if (written !== null && load.bytes >= written) controller.abort()
    }
    const ticking = setInterval(() => {
      if (load.state !== 'letting-go' || asked) return
      asked = true
      void this.reportLetGo(load.number)
        .then((sent) => {
          written = sent ?? 0
          cutIfRead()
        })
        .catch(() => controller.abort())
    }, 5)
    return { came: cutIfRead, stop: () => clearInterval(ticking) }
  }

  private async reportLetGo(number: number): Promise<number | null> {
    const answer = await fetch(this.letGo, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ transfers: [number] }),
    })
    const { written } = (await answer.json()) as { written: (number | null)[] }
    return written[0] ?? null
  }

  private over(load: Load): void {
    load.state = 'over'
    this.loads.delete(load.address)
  }
}
