import { EventReader, type EventHandlers } from '../log/event-reader.ts'
import type { RunLog } from '../log/run-log.ts'

/** Figures of a run in progress. */
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
  private readonly reader: EventReader
  private seen = 0
  private readonly running = new Set<number>()
  private readonly claimTiers = new Map<number, string>()
  private readonly tiers = new Map<number, string>()
  private created = 0
  private bound = 0
  private late = 0
  private frames = 0

  constructor(log: RunLog) {
    this.log = log
    this.reader = new EventReader(log, this.handlers)
  }

  now(): Readout {
    this.reader.read(this.seen, this.log.count)
    this.seen = this.log.count
    const { created, bound, late, frames, tiers } = this
    return { created, bound, inFlight: this.running.size, late, frames, tiers }
  }

  private readonly handlers: EventHandlers = {
    create: () => this.created++,
    bind: () => this.bound++,
    frame: ({ due, presented }) => {
      this.frames++
      if (due < presented) this.late++
    },
    start: ({ transfer }) => this.running.add(transfer),
    received: ({ transfer }) => this.running.delete(transfer),
    cut: ({ transfer }) => this.running.delete(transfer),
    fail: ({ transfer }) => transfer !== null && this.running.delete(transfer),
    deliver: ({ claim, tier }) => this.claimTiers.set(claim, tier),
    show: ({ cell, claim }) => {
      this.tiers.set(cell, this.claimTiers.get(claim) ?? '')
      this.claimTiers.delete(claim)
    },
    clear: ({ cell }) => this.tiers.delete(cell),
  }
}
