import { Simulation } from '../../src/core/simulate/simulate.ts'
import { freeDevice, plainLink, projectOf } from './projects.ts'

/** A run in progress, of a list that is left alone for six seconds. Time goes on where nothing happens, too. */
export function beginRun(parts: Parameters<typeof projectOf>[0]): Simulation {
  const project = projectOf({
    device: freeDevice,
    network: plainLink,
    steps: [{ do: 'wait', ms: 6000 }],
    ...parts,
    loading: { retry: { attempts: 0 }, ahead: { amount: 0 }, diskMb: 0, ...parts.loading },
  })
  return new Simulation(project, { everyRefresh: true })
}

/** Lets a run go on to so many ms, or to its end. */
export function runTo(simulation: Simulation, ms: number): Simulation {
  while (simulation['world'].clock.now() < ms * 1000 && !simulation.advance(1));
  return simulation
}
