import type { MapData } from '../profile/views/map-data.ts'
import { mapOf } from '../profile/views/map-data.ts'
import type { Suspicion } from '../profile/findings/suspicion.ts'
import type { Metrics } from '../profile/figures/metric-definitions.ts'
import { measureRun } from '../profile/profile.ts'
import { parseProject, type Raw } from '../project/parse.ts'
import type { Item, Project, Visit } from '../project/types.ts'
import { applyPatch } from '../project/patch.ts'
import type { SimulateOptions } from '../simulate/simulate.ts'
import { simulateVisits } from '../simulate/visits.ts'
import { intervalOf, medianOf, type Interval } from './intervals.ts'
import { comparedIds, effectOf, type ComparedId } from '../profile/figures/metric-definitions.ts'

/** The metrics in which a change may cost something elsewhere. */
const costMetrics = [
  'frames.lateMsPerS',
  'pictures.holeShare',
  'pictures.firstScreenMs',
  'bytes.wastedShare',
  'bytes.received',
  'memory.peakMb',
] as const

/** One metric before and after a change: medians over seeds, and the interval of the paired differences. */
export interface Change {
  metric: ComparedId
  before: number
  after: number
  difference: Interval
  /** The interval excludes 0 and the difference is large enough to report. */
  is: 'better' | 'worse' | 'same'
}

/** A suspicion that its proof confirms. */
export interface Finding extends Suspicion {
  proof: Change
  /** What it makes worse elsewhere. */
  costs: Change[]
  /** What else it makes better. */
  gains: Change[]
  seeds: number
  /** The fixed run, to be drawn over the present one. */
  map: MapData
}

export interface ProofOrder {
  raw: Raw
  screen: string
  script: string
  seed: number
  visit: Visit
  items: readonly Item[] | null
  seen: NonNullable<SimulateOptions['seen']>
}

export interface ProofHooks {
  /** Reported between any two simulations. */
  rest: () => Promise<void>
  cancelled: () => boolean
  progress: (share: number) => void
}

const seedCount = 10

interface Simulations {
  metrics: Metrics[]
  /** Of the first seed's run. */
  map: MapData
}

const seedsOf = (order: ProofOrder, count: number) => Array.from({ length: count }, (_, i) => order.seed + i)

/** Simulates a project on every seed; null: cancelled. `onDone` is called for each run that is done. */
export async function onSeeds(
  project: Project,
  order: ProofOrder,
  hooks: ProofHooks,
  onDone: () => void,
  count = seedCount,
): Promise<Simulations | null> {
  const metrics: Metrics[] = []
  let map: MapData | null = null
  for (const seed of seedsOf(order, count)) {
    const { screen, script, visit, items, seen } = order
    const [run] = simulateVisits(project, [visit], { screen, script, seed, items, seen })
    const measured = measureRun(run!.log)
    map ??= mapOf(measured.facts, measured.ledger)
    metrics.push(measured.metrics)
    onDone()
    await hooks.rest()
    if (hooks.cancelled()) return null
  }
  return { metrics, map: map! }
}

export function parsed(raw: Raw): Project {
  const outcome = parseProject(raw)
  if (!outcome.ok) throw new Error(outcome.message)
  return outcome.project
}

/** Two projects on the same seeds: every metric that has a least effect; null: cancelled. */
export async function compareOnSeeds(order: ProofOrder, other: Raw, hooks: ProofHooks): Promise<Change[] | null> {
  let done = 0
  const onDone = () => hooks.progress(++done / (2 * seedCount))
  const before = await onSeeds(parsed(order.raw), order, hooks, onDone)
  const after = before && (await onSeeds(parsed(other), order, hooks, onDone))
  return after && comparedIds.flatMap((metric) => changeOf(metric, before.metrics, after.metrics, order.seed) ?? [])
}

/** The result for a run's suspicions. */
export interface Proven {
  /** The best stands first. */
  findings: Finding[]
  /** Showed no gain beyond noise, or cost more than they gained. */
  unproven: number
  /** Could not be tried on this project, with the reason. */
  untried: { what: string; why: string }[]
}

/** Simulates the run as it is and with each change, on the same seeds; null: cancelled. */
export async function proveAll(
  order: ProofOrder,
  suspicions: readonly Suspicion[],
  hooks: ProofHooks,
): Promise<Proven | null> {
  const rounds = seedCount * (suspicions.length + 1)
  let done = 0
  const onDone = () => hooks.progress(++done / rounds)
  const base = await onSeeds(parsed(order.raw), order, hooks, onDone)
  if (!base) return null
  const findings: Finding[] = []
  const untried: Proven['untried'] = []
  for (const suspicion of suspicions) {
    const patched = applyPatch(order.raw, suspicion.patch)
    const fixed = patched.ok ? parseProject(patched.raw) : patched
    if (!fixed.ok) {
      done += seedCount
      untried.push({ what: suspicion.what, why: fixed.message })
      continue
    }
    const after = await onSeeds(
      fixed.project,
      { ...order, visit: suspicion.other?.visit ?? order.visit },
      hooks,
      onDone,
    )
    if (!after) return null
    const change = (metric: ComparedId) => changeOf(metric, base.metrics, after.metrics, order.seed)
    const proof = change(suspicion.metric)
    if (proof?.is !== 'better') continue
    const others = costMetrics.filter((metric) => metric !== suspicion.metric).flatMap((metric) => change(metric) ?? [])
    if (suspicion.other && proof.after >= suspicion.other.below) continue
    const finding = {
      ...suspicion,
      proof,
      costs: suspicion.other ? [] : others.filter(({ is }) => is === 'worse'),
      gains: others.filter(({ is }) => is === 'better'),
      seeds: seedCount,
      map: after.map,
    }
    // A change that costs more than it gains is no fix; another visit never is, and comes last.
    if (worthOf(finding) > 0) findings.push(finding)
  }
  findings.sort(
    (one, other) =>
      Number(one.other !== undefined) - Number(other.other !== undefined) || worthOf(other) - worthOf(one),
  )
  return { findings, unproven: suspicions.length - findings.length - untried.length, untried }
}

/** One metric over pairs of runs on the same seeds; null when it is not known in all of them. */
export function changeOf(
  metric: ComparedId,
  before: readonly Metrics[],
  after: readonly Metrics[],
  seed: number,
): Change | null {
  const effect = effectOf(metric)
  const pairs = before.flatMap((each, i) => {
    const [from, to] = [each[metric], after[i]?.[metric]]
    return typeof from === 'number' && typeof to === 'number' ? [{ from, to }] : []
  })
  const difference =
    pairs.length === before.length
      ? intervalOf(
          pairs.map(({ from, to }) => to - from),
          seed,
        )
      : null
  if (!difference) return null
  const sure = (difference.low > 0 || difference.high < 0) && Math.abs(difference.median) >= effect.least
  const less = difference.median < 0
  const verdict = less === (effect.better === 'less') ? 'better' : 'worse'
  return {
    metric,
    before: medianOf(Float64Array.from(pairs, ({ from }) => from)),
    after: medianOf(Float64Array.from(pairs, ({ to }) => to)),
    difference,
    is: sure ? verdict : 'same',
  }
}

/** For the order alone: what a change gains, weighted, less what it costs. */
function worthOf({ proof, costs, gains }: Finding): number {
  const value = ({ metric, difference }: Change) => {
    const { weight, scale } = effectOf(metric)
    return weight * Math.min(1, Math.abs(difference.median) / scale)
  }
  const all = (changes: readonly Change[]) => changes.reduce((sum, change) => sum + value(change), 0)
  return value(proof) + 0.5 * all(gains) - 0.7 * all(costs)
}
