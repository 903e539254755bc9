import { isAnswered, type AnsweredTransfer, type Facts, type TransferFact } from '../profile/facts/facts.ts'
import { percentile } from '../profile/figures/numbers.ts'
import type { NetworkSettings } from '../project/types.ts'

/** One value that evidence gives, with the quartiles of its samples. */
export interface Fitted {
  /** Path of the setting in the project file. */
  path: string
  value: number | string
  /** The 25th and 75th percentile of the samples; null where there is no spread. */
  low: number | null
  high: number | null
  samples: number
  /** How certain it is, by the number of samples and their spread. */
  confidence: 'good' | 'fair' | 'poor'
}

/** A value that stays as it was, with what would have to be recorded to fit it. */
export interface Kept {
  path: string
  why: string
}

const fewest = 5

export function fitted(path: string, samples: readonly number[], value: number): Fitted {
  const sorted = samples.toSorted((one, other) => one - other)
  const low = percentile(sorted, 0.25)
  const high = percentile(sorted, 0.75)
  const spread = value === 0 || low === null ? 1 : (high! - low) / Math.abs(value)
  const fair = samples.length >= fewest && spread < 1 ? 'fair' : 'poor'
  return {
    path,
    value,
    low,
    high,
    samples: samples.length,
    confidence: samples.length >= 30 && spread < 0.5 ? 'good' : fair,
  }
}

const ascending = (values: readonly number[]) => values.toSorted((one, other) => one - other)
const fine = (value: number) => Math.round(value * 100) / 100

/** A network as the transfers of a run show it; what they do not show stays as it is in `base`. */
export function fitNetwork(
  facts: Facts,
  base: NetworkSettings,
): { network: NetworkSettings; fitted: Fitted[]; kept: Kept[] } {
  const network: NetworkSettings = { ...base, name: 'Recorded', faults: [], offline: [] }
  const found: Fitted[] = []
  const kept: Kept[] = []
  const keep = (path: string, why: string) => kept.push({ path: `/network/${path}`, why })
  const answered = facts.transfers.filter(isAnswered)
  const waited = waitsOf(facts.transfers)
  if (answered.length < fewest) keep('rttMs', `${answered.length} answers say when they began; ${fewest} are needed`)
  else {
    const answer = middleOf(waited)
    const thinkMs = Math.min(base.thinkMs, answer)
    network.thinkMs = fine(thinkMs)
    network.rttMs = fine(answer - thinkMs)
    const waits = waited.filter(({ answered }) => answered).map(({ ms }) => ms)
    found.push(
      fitted(
        '/network/rttMs',
        waits.map((each) => Math.max(0, each - thinkMs)),
        network.rttMs,
      ),
    )
    keep('thinkMs', 'a wait for the first byte does not separate the server’s part from the round trip')
    network.jitterMs = fine((quantileOf(waited, 0.95) - quantileOf(waited, 0.05)) / 1.8)
    found.push(
      fitted(
        '/network/jitterMs',
        waits.map((each) => Math.abs(each - answer)),
        network.jitterMs,
      ),
    )
  }
  fitRate(facts.transfers, network, found, keep)
  const setups = answered
    .map(({ connectedT, startT }) => ((connectedT ?? startT) - startT) / 1000)
    .filter((ms) => ms > 0)
  if (setups.length === 0 || network.rttMs === 0) keep('setupRtts', 'no entry says how long its connection took')
  else {
    network.setupRtts = Math.min(20, Math.round(percentile(ascending(setups), 0.5)! / network.rttMs))
    found.push(
      fitted(
        '/network/setupRtts',
        setups.map((each) => each / network.rttMs),
        network.setupRtts,
      ),
    )
  }
  if (facts.peakPerHost > network.connectionsPerHost && network.protocol === 'h1') {
    network.connectionsPerHost = Math.min(64, facts.peakPerHost)
    found.push(fitted('/network/connectionsPerHost', [facts.peakPerHost], network.connectionsPerHost))
  } else keep('protocol', 'nothing in the evidence says whether transfers share a connection')
  return { network, fitted: found, kept }
}

/** A wait for a first byte; not answered: it was given up after this long, and would have been longer. */
interface Wait {
  ms: number
  answered: boolean
}

/**
 * Waits after the connection was made, ascending. Without the times of connections, the longest are assumed to have
 * made one, and are left out.
 */
function waitsOf(transfers: readonly TransferFact[]): Wait[] {
  const waits = transfers
    .filter((each) => isAnswered(each) || each.end === 'cut')
    .map(({ startT, connectedT, firstByteT, endT }) => ({
      ms: ((firstByteT ?? endT) - Math.max(startT, connectedT ?? startT)) / 1000,
      answered: firstByteT !== null,
    }))
    .sort((one, other) => one.ms - other.ms)
  const hasConnects = transfers.some(({ connectedT, startT }) => (connectedT ?? startT) > startT)
  const middle = waits[waits.length >> 1]?.ms ?? 0
  return hasConnects ? waits : waits.filter(({ ms }) => ms <= 2 * middle)
}

/**
 * A quantile of waits of which some were given up early (Kaplan–Meier estimator): without those it would be too short.
 */
function quantileOf(waits: readonly Wait[], share: number): number {
  let left = 1
  let last = 0
  for (const [i, { ms, answered }] of waits.entries()) {
    if (!answered) continue
    left *= 1 - 1 / (waits.length - i)
    last = ms
    if (1 - left >= share - 1e-9) return ms
  }
  return last
}

/** The mean of nine quantiles: steadier than the median of a few, and not affected by the longest. */
function middleOf(waits: readonly Wait[]): number {
  let sum = 0
  for (let tenth = 1; tenth <= 9; tenth++) sum += quantileOf(waits, tenth / 10)
  return sum / 9
}

/**
 * The rate of the link: the total that arrived while several transfers shared it, or while one had been running for
 * long enough that its connection had opened up.
 */
function fitRate(
  transfers: readonly TransferFact[],
  network: NetworkSettings,
  found: Fitted[],
  keep: (path: string, why: string) => void,
): void {
  const bodies = transfers.filter(isAnswered).filter((each) => each.bytes > 0 && each.endT > each.firstByteT)
  const slices = sharedRates(bodies)
  if (slices.length < fewest) {
    keep('downKbps', `${slices.length} stretches show how fast bytes arrived; ${fewest} are needed`)
    return
  }
  // Where several share the link it is full: none of them waits for its own connection to open up. Its rate is then a
  // mean, since the distribution of a transfer's bytes over its time is not known.
  const whole = timeOf(slices)
  const full = [3, 2]
    .map((least) => slices.filter(({ running }) => running >= least))
    .find((shared) => timeOf(shared) >= leastShared * whole)
  const value = full ? meanRate(full) : rateAt(slices, loneShare)
  network.downKbps = Math.min(10_000_000, Math.max(1, Math.round(value)))
  found.push({
    path: '/network/downKbps',
    value: network.downKbps,
    low: Math.round(rateAt(full ?? slices, 0.25)),
    high: Math.round(rateAt(full ?? slices, 0.75)),
    samples: bodies.length,
    confidence: bodies.length >= 30 ? 'good' : 'fair',
  })
}

/** The part of the receiving time in which transfers must share the link for it to be found that way. */
const leastShared = 0.15
/** Otherwise: the part of the receiving time in which the link is assumed to be slower than it can be. */
const loneShare = 0.7

interface Slice {
  kbps: number
  ms: number
  /** How many transfers received at once. */
  running: number
}

const timeOf = (slices: readonly Slice[]) => slices.reduce((sum, { ms }) => sum + ms, 0)
const meanRate = (slices: readonly Slice[]) => slices.reduce((sum, { kbps, ms }) => sum + kbps * ms, 0) / timeOf(slices)

/** The rate that is not reached in such a share of the time. */
function rateAt(slices: readonly Slice[], share: number): number {
  const end = timeOf(slices) * share
  let passed = 0
  return slices.toSorted((one, other) => one.kbps - other.kbps).find(({ ms }) => (passed += ms) >= end)!.kbps
}

/** The total rate of arrival, kbit/s, in each span between two transfers’ starts and ends, ms long. */
function sharedRates(bodies: readonly AnsweredTransfer[]): Slice[] {
  const edges = bodies.flatMap(({ firstByteT, endT, bytes }) => {
    const rate = (bytes * 8) / ((endT - firstByteT) / 1000)
    return [
      { t: firstByteT, rate, by: 1 },
      { t: endT, rate: -rate, by: -1 },
    ]
  })
  edges.sort((one, other) => one.t - other.t)
  const slices: Slice[] = []
  let rate = 0
  let running = 0
  for (const [i, edge] of edges.entries()) {
    const next = edges[i + 1]
    rate += edge.rate
    running += edge.by
    if (next && next.t > edge.t && running > 0) slices.push({ kbps: rate, ms: (next.t - edge.t) / 1000, running })
  }
  return slices
}
