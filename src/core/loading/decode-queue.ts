import type { RunLog } from '../log/run-log.ts'
import type { Clock, DecodeResult, Decoder } from '../worlds/ports.ts'
import { isBefore, type Rank } from './rank.ts'
import type { Request } from './request.ts'

interface Job {
  request: Request
  rendition: number
}

/**
 * Decodes that wait, and those that run in workers or, where policy says so, on the main thread inside a frame. A
 * decode that started cannot be stopped; one that waits is dropped when its picture is no longer wanted.
 */
export class DecodeQueue {
  private waiting: Job[] = []
  private active = 0
  /** Requests whose body is ready to be decoded on the main thread. */
  private readonly prepared = new WeakSet<Request>()
  private readonly decoder: Decoder
  private readonly clock: Clock
  private readonly log: RunLog
  private readonly workers: number
  private readonly onMain: boolean
  private readonly rank: (request: Request) => Rank
  private readonly ended: (job: Job, result: DecodeResult) => void
  private readonly needFrame: () => void

  constructor(options: {
    decoder: Decoder
    clock: Clock
    log: RunLog
    workers: number
    onMain: boolean
    rank: (request: Request) => Rank
    ended: (job: Job, result: DecodeResult) => void
    needFrame: () => void
  }) {
    this.decoder = options.decoder
    this.clock = options.clock
    this.log = options.log
    this.workers = options.workers
    this.onMain = options.onMain
    this.rank = options.rank
    this.ended = options.ended
    this.needFrame = options.needFrame
  }

  get busy(): boolean {
    return this.active > 0 || this.waiting.length > 0
  }

  add(request: Request, rendition: number): void {
    this.waiting.push({ request, rendition })
    if (!this.onMain) this.fill()
    else
      this.decoder.prepareMain({ request: request.id, asset: request.asset, rendition }, () => {
        this.prepared.add(request)
        this.needFrame()
      })
  }

  /** Drops what still waits for a request (of one rendition, or of all); returns how many. */
  drop(request: Request, rendition: number | null): number {
    const before = this.waiting.length
    this.waiting = this.waiting.filter(
      (job) => job.request !== request || (rendition !== null && job.rendition !== rendition),
    )
    return before - this.waiting.length
  }

  /** Decodes on the main thread what was received before this frame; reports each one's µs. */
  decodeOnMain(spent: (us: number) => void): void {
    if (!this.onMain) return
    for (let job = this.takeBest(); job; job = this.takeBest()) {
      const { request, rendition } = job
      this.log.events.decodeStart(this.clock.now(), { request: request.id, rendition })
      const result = this.decoder.onMain({ request: request.id, asset: request.asset, rendition })
      spent(result.us)
      this.finish(job, result)
    }
  }

  private fill(): void {
    while (this.active < this.workers) {
      const job = this.takeBest()
      if (!job) return
      this.active++
      const { request, rendition } = job
      this.log.events.decodeStart(this.clock.now(), { request: request.id, rendition })
      this.decoder.start({ request: request.id, asset: request.asset, rendition }, (result) => {
        this.active--
        this.finish(job, result)
        this.fill()
      })
    }
  }

  private finish(job: Job, result: DecodeResult): void {
    this.log.events.decodeEnd(this.clock.now(), {
      request: job.request.id,
      rendition: job.rendition,
      ms: result.us,
      ok: result.ok,
    })
    this.ended(job, result)
  }

  private takeBest(): Job | null {
    let best: number | null = null
    let bestRank: Rank | null = null
    for (let index = 0; index < this.waiting.length; index++) {
      const { request } = this.waiting[index]!
      if (this.onMain && !this.prepared.has(request)) continue
      // The only one needs no rank.
      if (this.waiting.length === 1) return this.waiting.pop()!
      const rank = this.rank(request)
      if (bestRank !== null && !isBefore(rank, bestRank)) continue
      best = index
      bestRank = rank
    }
    return best === null ? null : this.waiting.splice(best, 1)[0]!
  }
}
