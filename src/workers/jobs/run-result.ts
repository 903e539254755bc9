import { encodeLog, type EncodedLog } from '../../core/log/log-encoding.ts'
import { hashLog } from '../../core/log/log-hash.ts'
import type { RunLog } from '../../core/log/run-log.ts'
import type { Check } from '../../core/profile/figures/checks.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import { profileRun } from '../../core/profile/profile.ts'
import { mapOf, type MapData } from '../../core/profile/views/map-data.ts'

/** One run as the app keeps and shows it. */
export interface RunResult {
  log: EncodedLog
  hash: string
  metrics: Metrics
  checks: Check[]
  map: MapData
  /** What it left in the tiers, as JSON: thousands of entries are sent as one text. */
  kept: string | null
}

export function describeRun(
  log: RunLog,
  kept: RunResult['kept'],
  { facts, ledger, metrics, checks } = profileRun(log),
): RunResult {
  return { log: encodeLog(log), hash: hashLog(log), metrics, checks, map: mapOf(facts, ledger), kept }
}

/** The parts that are transferred and not copied: the page is not held up by a long run. */
export function buffersOfMap(map: MapData): ArrayBuffer[] {
  const columns = [map.channel, map.lines, map.holes, map.drips].flatMap(
    (part) => Object.values(part) as { buffer: ArrayBuffer }[],
  )
  return columns.map(({ buffer }) => buffer)
}

export function buffersOfRun({ log, map }: RunResult): ArrayBuffer[] {
  return [...[log.tables, ...log.chunks].map(({ buffer }) => buffer as ArrayBuffer), ...buffersOfMap(map)]
}
