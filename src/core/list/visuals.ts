import { K } from '../log/event-kinds.ts'
import type { RunLog } from '../log/run-log.ts'
import { workCauses, type Us } from '../worlds/ports.ts'

const width = 6

/**
 * What a frame changes on screen, kept until the instant at which it is presented: the log carries that instant.
 */
export class Visuals {
  private rows: number[] = []
  private readonly log: RunLog
  private readonly causes: number[]

  constructor(log: RunLog) {
    this.log = log
    this.causes = workCauses.map((cause) => log.text(cause))
  }

  add(kind: number, a = 0, b = 0, c = 0, d = 0, x = 0): void {
    this.rows.push(kind, a, b, c, d, x)
  }

  /** Takes what one frame has changed; the returned function logs it, with the frame and its work. */
  take(begin: Us): (due: Us, presented: Us, work: Float64Array) => void {
    const { rows, log, causes } = this
    this.rows = []
    return (due, presented, work) => {
      log.write(K.frame, presented, 0, 0, begin - due, 0, due - presented)
      for (let number = 0; number < work.length; number++)
        if (work[number]! > 0) log.write(K.work, presented, causes[number]!, 0, 0, 0, Math.round(work[number]!))
      for (let i = 0; i < rows.length; i += width)
        log.write(rows[i]!, presented, rows[i + 1]!, rows[i + 2]!, rows[i + 3]!, rows[i + 4]!, rows[i + 5]!)
    }
  }
}
