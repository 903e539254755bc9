import type { Item, Project } from '../project/types.ts'
import { Simulation } from '../simulate/simulate.ts'
import { standstillOf, StopWatch, type Standstill, type Wanted } from './standstill.ts'

/** One event or frame at a time. */
const one = 1
const mostSteps = 2_000_000

/** Thrown out of a simulation when it reaches the event before which it is inspected. */
class Reached extends Error {}

/** A simulation that pauses before the awaited events, and shows its complete state. */
export class SteppedRun {
  private readonly simulation: Simulation
  private readonly watch: StopWatch
  private readonly begin: () => Simulation
  private over = false

  constructor(project: Project, options: { screen: string; items: readonly Item[] | null }) {
    this.begin = () => new Simulation(project, options)
    this.simulation = this.begin()
    this.watch = new StopWatch(this.simulation.log)
  }

  /** Continues to the next awaited event, or to the end. */
  next(wanted: Wanted): Standstill {
    for (let steps = 0; steps < mostSteps; steps++) {
      const at = this.watch.next(wanted)
      if (at) return this.before(at, this.watch.index)
      if (this.over) return this.describe(null)
      this.over = this.simulation.advance(one)
    }
    return this.describe(null)
  }

  /**
   * The state just before an event: the same simulation once more, up to there. It is identical, and other effects of
   * the event's frame have not happened yet.
   */
  private before(at: NonNullable<Standstill['at']>, index: number): Standstill {
    const again = this.begin()
    const { log } = again
    const write = log.row.bind(log)
    log.row = (...event) => {
      if (log.count === index) throw new Reached()
      write(...event)
    }
    try {
      while (!again.advance(one));
    } catch (error) {
      if (!(error instanceof Reached)) throw error
    }
    return standstillOf(again.run, log, at, false)
  }

  private describe(at: Standstill['at']): Standstill {
    return standstillOf(this.simulation.run, this.simulation.log, at, this.over)
  }
}
