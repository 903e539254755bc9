import type { MetricId, Metrics } from '../profile/figures/metric-definitions.ts'

export type Fidelity = Pick<Metrics, Extract<MetricId, `fidelity.${string}`>>

/**
 * How near a simulation is to the live run of the same project, script and seed: simulated ÷ live, and the gap of the
 * wasted share.
 */
export function fidelityOf(live: Metrics, simulated: Metrics): Fidelity {
  const over = (id: MetricId) => {
    const [real, made] = [live[id], simulated[id]]
    return typeof real !== 'number' || typeof made !== 'number' || real === 0 ? null : made / real
  }
  const [real, made] = [live['bytes.wastedShare'], simulated['bytes.wastedShare']]
  return {
    'fidelity.requests': over('requests.total'),
    'fidelity.bytes': over('bytes.received'),
    'fidelity.waitP50': over('pictures.waitP50'),
    'fidelity.wastedShareGap': typeof real === 'number' && typeof made === 'number' ? made - real : null,
  }
}

/**
 * Whether a fitted world is near enough to its recorded run for a proof on it to count. `bytes`: those simulated ÷
 * those recorded.
 */
export const isTrusted = (bytes: number | null) => bytes !== null && bytes > 0.75 && bytes < 1.33
