import type { Item, Project } from '../project/types.ts'
import { Simulation } from '../simulate/simulate.ts'
import { standstillOf, StopWatch, type Standstill, type Wanted } from './standstill.ts'

/** One event or frame at a time. */
const one = 1
const mostSteps = 2_000_000

/** A simulation that stands still at the events one waits for, and tells all it holds. */
export class SteppedRun {
  private readonly simulation: Simulation
  private readonly watch: StopWatch
  private over = false

  constructor(project: Project, options: { screen: string; items: readonly Item[] | null }) {
    this.simulation = new Simulation(project, options)
    this.watch = new StopWatch(this.simulation.log)
  }

  /** Goes on to the next of what is waited for, or to the end. */
  next(wanted: Wanted): Standstill {
    for (let steps = 0; steps < mostSteps; steps++) {
      const at = this.watch.next(wanted)
      if (at || this.over) return this.tell(at)
      this.over = this.simulation.advance(one)
    }
    return this.tell(null)
  }

  private tell(at: Standstill['at']): Standstill {
    return standstillOf(this.simulation.run, this.simulation.log, at, this.over)
  }
}
