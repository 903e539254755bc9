import { K } from '../log/event-kinds.ts'
import { chunkRows, type RunLog } from '../log/run-log.ts'

/** What can be read off a run while it goes on. */
export interface Readout {
  created: number
  bound: number
  inFlight: number
  late: number
  frames: number
  /** The tier that the last picture of each cell came from. */
  tiers: ReadonlyMap<number, string>
}

/** Follows a log that is being written, each event once. */
export class ReadoutReader {
  private readonly log: RunLog
  private read = 0
  private readonly running = new Set<number>()
  private readonly claimTiers = new Map<number, string>()
  private readonly tiers = new Map<number, string>()
  private created = 0
  private bound = 0
  private late = 0
  private frames = 0

  constructor(log: RunLog) {
    this.log = log
  }

  now(): Readout {
    for (; this.read < this.log.count; this.read++) {
      const chunk = this.log.chunks[Math.floor(this.read / chunkRows)]!
      const row = this.read % chunkRows
      this.take(chunk.kind[row]!, chunk.a[row]!, chunk.b[row]!, chunk.c[row]!, chunk.x[row]!)
    }
    const { created, bound, late, frames, tiers } = this
    return { created, bound, inFlight: this.running.size, late, frames, tiers }
  }

  private take(kind: number, a: number, b: number, c: number, x: number): void {
    switch (kind) {
      case K.create:
        this.created++
        return
      case K.bind:
        this.bound++
        return
      case K.frame:
        this.frames++
        if (x < 0) this.late++
        return
      case K.start:
        this.running.add(b)
        return
      case K.received:
      case K.cut:
      case K.fail:
        this.running.delete(a)
        return
      case K.deliver:
        this.claimTiers.set(a, this.log.strings[b] ?? '')
        return
      case K.show:
        this.tiers.set(c, this.claimTiers.get(a) ?? '')
        this.claimTiers.delete(a)
        return
      case K.clear:
        this.tiers.delete(a)
    }
  }
}
