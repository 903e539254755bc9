import { isObserved, observations, type Observation } from '../../log/observed.ts'
import { metricIds, type MetricId, type Metrics } from './metric-definitions.ts'

/** What a recorded run must have observed for a metric, by the metric's id or group; the first that matches counts. */
const needs: readonly [RegExp, readonly Observation[]][] = [
  [/^frames\.(onTimeShare|lateMsPerS)$/, ['frames', 'scroll']],
  [/^frames\.work/, ['frames', 'work']],
  [/^frames\./, ['frames']],
  [/^pictures\.(jumps|jumpDp|flickers|soft|softRatio)$/, ['own']],
  [/^pictures\.(exposures|absent)$/, ['binds']],
  [/^pictures\.failed$/, ['binds', 'requests']],
  [/^pictures\./, ['binds', 'shows']],
  [/^(bytes|requests)\.(shown|shownEarly|neverSeen)$/, ['requests', 'binds']],
  [/^bytes\.(inFlight|oversize)$/, ['own']],
  [/^bytes\./, ['requests']],
  [/^requests\.inversionMs$/, ['own']],
  [/^requests\.retries$/, ['requests', 'wants']],
  [/^requests\.fromDisk$/, ['tiers']],
  [/^requests\./, ['requests']],
  [/^decode\.pixelRatio$/, ['own']],
  [/^decode\.wastedMs$/, ['decodes', 'binds', 'shows']],
  [/^(decode\.|threads\.decodePeak$)/, ['decodes']],
  [/^threads\.mainBusyShare$/, ['mainBusy']],
  [/^threads\.decodeBusyShare$/, ['decodeBusy']],
  [/^cells\.created$/, ['creates']],
  [/^cells\.bound$/, ['binds']],
  [/^cells\.createdAfterFirstScreen$/, ['creates', 'binds', 'scroll']],
  [/^cells\.(reuse|lastCreateRow)$/, ['creates', 'binds']],
  [/^tier\.\w+Share$/, ['tiers', 'binds']],
  [/^memory\.(startMb|peakMb|endMb)$/, ['memory']],
  [/^memory\.afterCollectMb$/, ['collected']],
  [/^disk\.(startMb|peakMb|endMb)$/, ['storage']],
  [/./, ['own']],
]

function needsOf(id: MetricId): readonly Observation[] {
  return needs.find(([pattern]) => pattern.test(id))![1]
}

/** What would have to be recorded to know a metric; null: it is known, or nothing would help. */
export function missingFor(id: MetricId, head: { observed?: readonly Observation[] }): string | null {
  const missing = needsOf(id).filter((need) => !isObserved(head, need))
  return missing.length === 0 ? null : missing.map((need) => observations[need]).join(', and ')
}

/** Figures as far as they are known: null where a recorded run did not observe their input. */
export function withoutUnobserved(metrics: Metrics, head: { observed?: readonly Observation[] }): Metrics {
  if (!head.observed) return metrics
  for (const id of metricIds) if (missingFor(id, head) !== null) metrics[id] = null
  return metrics
}
