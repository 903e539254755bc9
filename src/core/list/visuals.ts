import { EventWriter } from '../log/event-writer.ts'
import type { RunLog } from '../log/run-log.ts'
import { workCauses, type Us } from '../worlds/ports.ts'

const width = 6

/** Stands for the instant of an event that gets it when its frame is presented. */
export const whenPresented = 0

/** The changes of a frame: `width` numbers an event. */
interface Changed {
  rows: number[]
  /** How many of the numbers are in use. */
  length: number
}

/** The changes of a frame on screen, kept until it is presented: the log carries that instant. */
export class Visuals {
  /** Writes the changes of the present frame, by name. */
  readonly events: EventWriter = new EventWriter(this)
  private changed: Changed = { rows: [], length: 0 }
  /** Buffers of presented frames, to be filled again. */
  private readonly spare: Changed[] = []
  private readonly log: RunLog
  private readonly causes: number[]

  constructor(log: RunLog) {
    this.log = log
    this.causes = workCauses.map((cause) => log.text(cause))
  }

  /** Takes an event; it gets its instant when the frame is presented. */
  row(kind: number, _t: Us, a = 0, b = 0, c = 0, d = 0, x = 0): void {
    const { changed } = this
    const { rows, length: at } = changed
    rows[at] = kind
    rows[at + 1] = a
    rows[at + 2] = b
    rows[at + 3] = c
    rows[at + 4] = d
    rows[at + 5] = x
    changed.length = at + width
  }

  text(value: string): number {
    return this.log.text(value)
  }

  /** Takes the changes of one frame; the returned function logs them, with the frame and its work. */
  take(begin: Us): (due: Us, presented: Us, work: Float64Array) => void {
    const { changed, log, causes } = this
    this.changed = this.spare.pop() ?? { rows: [], length: 0 }
    return (due, presented, work) => {
      log.events.frame(presented, { due, presented, begin, toldLate: 0 })
      for (let number = 0; number < work.length; number++)
        if (work[number]! > 0) log.events.work(presented, { cause: causes[number]!, ms: Math.round(work[number]!) })
      const { rows, length } = changed
      for (let i = 0; i < length; i += width)
        log.row(rows[i]!, presented, rows[i + 1]!, rows[i + 2]!, rows[i + 3]!, rows[i + 4]!, rows[i + 5]!)
      changed.length = 0
      this.spare.push(changed)
    }
  }
}
