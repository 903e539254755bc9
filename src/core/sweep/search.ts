import { intervalOf, medianOf } from '../compare/intervals.ts'
import type { Budget } from '../compare/budgets.ts'
import { draw } from '../numbers/draw.ts'
import {
  isMetricId,
  metricDefinitions,
  metricIds,
  type MetricId,
  type Metrics,
} from '../profile/figures/metric-definitions.ts'
import type { Setting } from './setting.ts'
import { knownOf } from './sweep-row.ts'
import { combinations, rowCountOf, type Varied } from './vary.ts'

/** A budget, and the measured screen and visit that it is about. */
export interface SearchedBudget {
  budget: Budget
  group: number
}

export interface SearchOrder {
  varied: readonly Varied[]
  budgets: readonly SearchedBudget[]
  /** The metric that is minimised among settings that meet every budget. */
  least: { metric: MetricId; group: number }
  seed: number
  /** Seeds on which the winner has been simulated. */
  seeds: number
  /** Simulations that one candidate costs on one seed. */
  cost: number
  /** The most simulations in all. */
  runs: number
}

/** The state of a search after one of its rounds. */
export interface SearchProgress {
  /** Simulations so far. */
  runs: number
  /**
   * The best settings so far, how far they miss the budgets (sum of shares of the limits), and their least metric;
   * null: none.
   */
  best: readonly Setting[]
  misses: number
  least: number | null
  /** Candidates that are still in the race. */
  alive: number
}

export interface SearchHooks {
  /** For each seed the figures of each group; may be called for several candidates at once. */
  measure: (settings: readonly Setting[], seeds: readonly number[]) => Promise<Metrics[][]>
  progress?: (progress: SearchProgress) => void
  cancelled?: () => boolean
}

export interface SearchResult {
  met: boolean
  settings: readonly Setting[]
  /** Medians over the seeds, of the group that the least metric is of. */
  metrics: Record<MetricId, number | null>
  budgets: { metric: string; limit: number; value: number | null; ok: boolean; misses: number }[]
  runs: number
}

interface Candidate {
  /** Which value of each setting. */
  places: readonly number[]
  settings: readonly Setting[]
  /** By seed, by group. */
  measured: Metrics[][]
}

/** The share of a round's candidates that goes on, and the fewest that do while there are enough to choose from. */
const keptShare = 0.5
const fewestKept = 2
const enoughToChoose = 8
/** From so many seeds on a candidate is also dropped when the interval of its difference from the best excludes 0. */
const seedsForInterval = 4
/** Times the share of its simulations that halving spends on each first candidate, with room for neighbours. */
const costOfCandidate = 4
/** The weight of a missed budget against the least metric where both are one number. */
const missWeight = 10

/**
 * Looks for the settings that meet every budget with the least of one metric; if none does, for those that miss by
 * least. Candidates are raced on the same seeds (common random numbers): all on one seed, the better half on twice as
 * many, and so on (successive halving: Jamieson and Talwalkar, AISTATS 2016), and one whose paired difference to the
 * best is certain is dropped at once (racing: Maron and Moore, NIPS 1993). Where there are more combinations than runs
 * allow, a seeded sample is raced, and the neighbours of the best join each round. The same order gives the same
 * answer.
 */
export async function search(order: SearchOrder, hooks: SearchHooks): Promise<SearchResult | null> {
  const known = new Map<string, Candidate>()
  let runs = 0
  let alive = firstCandidates(order, known)
  for (let next = 1; ; next = Math.min(order.seeds, next * 2)) {
    const asked = alive.flatMap((candidate) => {
      const from = candidate.measured.length
      const cost = (next - from) * order.cost
      // The first is measured whatever is allowed: without a single run there is nothing to report.
      if (cost === 0 || (runs > 0 && runs + cost > order.runs)) return []
      runs += cost
      return [{ candidate, seeds: Array.from({ length: next - from }, (_, i) => order.seed + from + i) }]
    })
    const found = await Promise.all(asked.map(({ candidate, seeds }) => hooks.measure(candidate.settings, seeds)))
    for (const [i, { candidate }] of asked.entries()) candidate.measured.push(...found[i]!)
    if (hooks.cancelled?.()) return null
    // Candidates that the runs did not reach are out: they cannot be compared with the others.
    const deepest = Math.max(...alive.map(({ measured }) => measured.length))
    alive = ranked(
      alive.filter(({ measured }) => measured.length === deepest),
      order,
    )
    const best = alive[0]!
    hooks.progress?.({
      runs,
      best: best.settings,
      misses: scoreOf(best.measured, order).misses,
      least: medianAt(best.measured, order.least.group, order.least.metric),
      alive: alive.length,
    })
    if (next === order.seeds || runs + order.cost > order.runs) break
    alive = without(certainlyWorse(alive, order), halved(alive))
    alive.push(...neighbours(alive[0]!, order, known))
  }
  return resultOf(alive[0]!, order, runs)
}

/**
 * All combinations where the runs allow that; else a sample that has every value of each setting about equally often.
 */
function firstCandidates(order: SearchOrder, known: Map<string, Candidate>): Candidate[] {
  const { varied, seed } = order
  const most = Math.max(4, Math.floor(order.runs / (costOfCandidate * order.cost)))
  if (rowCountOf(varied) <= most) {
    const sizes = varied.map(({ values }) => values.length)
    return combinations(varied).map((_, row) => {
      let left = row
      const places = sizes.map(() => 0)
      for (let i = sizes.length - 1; i >= 0; i--) {
        places[i] = left % sizes[i]!
        left = Math.floor(left / sizes[i]!)
      }
      return candidateAt(places, order, known)
    })
  }
  const orders = varied.map(({ values }, i) => shuffled(most, values.length, seed, i))
  const sampled = Array.from({ length: most }, (_, n) => orders.map((each) => each[n]!))
  return [...new Map(sampled.map((places) => [places.join(), places])).values()].map((places) =>
    candidateAt(places, order, known),
  )
}

/** More than there are candidates: each setting draws numbers of its own. */
const placesApart = 1_000_000

/** `count` numbers below `size`, each about equally often, in a drawn order (Latin hypercube sampling). */
function shuffled(count: number, size: number, seed: number, dimension: number): number[] {
  const places = Array.from({ length: count }, (_, i) => Math.floor((i * size) / count))
  for (let i = count - 1; i > 0; i--) {
    const other = Math.floor(draw(seed, 'search', dimension * placesApart + i) * (i + 1))
    ;[places[i], places[other]] = [places[other]!, places[i]!]
  }
  return places
}

function candidateAt(places: readonly number[], { varied }: SearchOrder, known: Map<string, Candidate>): Candidate {
  const settings = varied.map(({ path, values }, i) => ({ path, value: values[places[i]!] }))
  const candidate = { places, settings, measured: [] }
  known.set(places.join(), candidate)
  return candidate
}

/** Combinations one step from a candidate that have not been tried. */
function neighbours({ places }: Candidate, order: SearchOrder, known: Map<string, Candidate>): Candidate[] {
  return order.varied.flatMap(({ values }, i) =>
    [-1, 1].flatMap((by) => {
      const place = places[i]! + by
      const moved = places.with(i, place)
      if (place < 0 || place >= values.length || known.has(moved.join())) return []
      return [candidateAt(moved, order, known)]
    }),
  )
}

function ranked(candidates: readonly Candidate[], order: SearchOrder): Candidate[] {
  const scored = candidates.map((candidate) => ({ candidate, ...scoreOf(candidate.measured, order) }))
  return scored
    .sort((one, other) => one.misses - other.misses || one.least - other.least)
    .map(({ candidate }) => candidate)
}

function halved(candidates: readonly Candidate[]): Candidate[] {
  const fewest = candidates.length >= enoughToChoose ? fewestKept : 1
  return candidates.slice(0, Math.max(fewest, Math.floor(candidates.length * keptShare)))
}

const without = (dropped: ReadonlySet<Candidate>, candidates: readonly Candidate[]) =>
  candidates.filter((candidate) => !dropped.has(candidate))

/** Those whose paired difference to the best has an interval above 0. */
function certainlyWorse(candidates: readonly Candidate[], order: SearchOrder): Set<Candidate> {
  const [best, ...others] = candidates
  if (best!.measured.length < seedsForInterval) return new Set()
  const scale = Math.abs(scoreOf(best!.measured, order).least) || 1
  const single = ({ measured }: Candidate) =>
    measured.map((one) => {
      const { misses, least } = scoreOf([one], order)
      return missWeight * misses + least / scale
    })
  const base = single(best!)
  return new Set(
    others.filter(
      (candidate) =>
        intervalOf(
          single(candidate).map((value, i) => value - base[i]!),
          order.seed,
        )!.low > 0,
    ),
  )
}

/** How far budgets are missed, in shares of their limits, and the metric that is minimised; by medians. */
function scoreOf(measured: readonly Metrics[][], { budgets, least }: SearchOrder): { misses: number; least: number } {
  return {
    misses: budgets.reduce((sum, each) => sum + missOf(each, measured).misses, 0),
    least: medianAt(measured, least.group, least.metric) ?? 0,
  }
}

function medianAt(measured: readonly Metrics[][], group: number, metric: MetricId): number | null {
  const values = knownOf(
    measured.map((groups) => groups[group]!),
    metric,
  )
  return values.length === 0 ? null : medianOf(Float64Array.from(values))
}

/** A budget against the median. A metric that is null everywhere (nothing of the kind happened) keeps its budget. */
function missOf({ budget, group }: SearchedBudget, measured: readonly Metrics[][]) {
  const { metric, min = -Infinity, max = Infinity } = budget
  const value = isMetricId(metric) ? medianAt(measured, group, metric) : null
  const over = value === null ? 0 : Math.max(0, value - max, min - value)
  const limit = value !== null && value < min ? min : (budget.max ?? min)
  const least = isMetricId(metric) ? (metricDefinitions[metric].effect?.least ?? 0) : 0
  return { value, limit, misses: over === 0 ? 0 : over / (Math.max(Math.abs(limit), least) || 1) }
}

function resultOf({ settings, measured }: Candidate, order: SearchOrder, runs: number): SearchResult {
  const budgets = order.budgets.map((each) => {
    const { value, limit, misses } = missOf(each, measured)
    return { metric: each.budget.metric, limit, value, ok: misses === 0, misses }
  })
  return {
    met: budgets.every(({ ok }) => ok),
    settings,
    metrics: Object.fromEntries(
      metricIds.map((id) => [id, medianAt(measured, order.least.group, id)]),
    ) as SearchResult['metrics'],
    budgets,
    runs,
  }
}
