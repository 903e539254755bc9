import type { Facts, FrameFact } from '../facts/facts.ts'
import { movers, type Mover } from '../../log/event-kinds.ts'
import { ascending, percentile, ratio, sum } from '../figures/numbers.ts'

/** So many points of a curve are told; the rest is between them. */
const mostPoints = 400
/** So many spans of a lane are told; closer ones are joined beyond that. */
const mostSpans = 1500

/** A while of a run, ms. */
export interface While {
  fromMs: number
  toMs: number
}

export interface FramesLens {
  refreshMs: number
  /** Frames by how many refreshes they came late; the last takes all beyond. */
  late: { refreshes: number; frames: number }[]
  parts: { part: Mover; frames: number; late: number; lateMsPerS: number; workP95: number | null }[]
  worst: { ms: number; lateMs: number; workMs: number; part: Mover; causes: { cause: string; ms: number }[] }[]
}

const lateSteps = 6
const mostWorst = 10

/** Every frame of a run, or of a while of it, against the budget of the device's refresh rate, and the ten that came latest with what they did. */
export function framesLens({ frames: all, scrolls, log }: Facts, within: While | null = null): FramesLens {
  const frames = within
    ? all.filter(
        ({ due, presented }) => presented >= Math.round(within.fromMs * 1000) && due <= Math.round(within.toMs * 1000),
      )
    : all
  const refreshUs = 1e6 / log.head.refreshHz
  const by = new Map(scrolls.map((each) => [each.t, each.by]))
  const lateUs = (frame: FrameFact) => frame.presented - frame.due
  const counts = new Array<number>(lateSteps).fill(0)
  for (const frame of frames) counts[Math.min(lateSteps - 1, Math.round(lateUs(frame) / refreshUs))]!++
  const told = frames.map((frame) => ({ frame, part: frame.moved ? (by.get(frame.presented) ?? 'rest') : 'rest' }))
  return {
    refreshMs: refreshUs / 1000,
    late: counts.map((count, refreshes) => ({ refreshes, frames: count })),
    parts: movers.map((part) => {
      const own = told.flatMap((each) => (each.part === part ? [each.frame] : []))
      const seconds = sum(own.map((frame) => frame.presented - frame.begin)) / 1e6
      return {
        part,
        frames: own.length,
        late: own.filter((frame) => lateUs(frame) > 0).length,
        lateMsPerS: seconds === 0 ? 0 : sum(own.map(lateUs)) / 1000 / seconds,
        workP95: percentile(ascending(own.map((frame) => frame.work / 1000)), 0.95),
      }
    }),
    worst: told
      .toSorted(
        (one, other) =>
          lateUs(other.frame) - lateUs(one.frame) ||
          other.frame.work - one.frame.work ||
          one.frame.due - other.frame.due,
      )
      .slice(0, mostWorst)
      .map(({ frame, part }) => ({
        ms: frame.due / 1000,
        lateMs: lateUs(frame) / 1000,
        workMs: frame.work / 1000,
        part,
        causes: [...frame.causes]
          .map(([cause, us]) => ({ cause, ms: us / 1000 }))
          .sort((one, other) => other.ms - one.ms),
      })),
  }
}

/** A stretch of work in a lane, ms. `request` −1: of no one request. */
export interface Span {
  fromMs: number
  toMs: number
  request: number
  /** 0 on screen … 3 all else, when it began; −1: does not apply. */
  class: number
}

export interface ThreadsLens {
  fromMs: number
  endMs: number
  lanes: { name: string; busyShare: number | null; spans: Span[] }[]
  /** While these lasted, a request on screen waited for a slot that one of a lower class held. */
  inversions: { fromMs: number; toMs: number }[]
}

/** Main thread, fetch slots and decoders over time: who worked, and who stood idle. */
export function threadsLens(
  { frames, transfers, decodes, inversions, endT, log }: Facts,
  within: While | null = null,
): ThreadsLens {
  const fromMs = Math.max(0, within?.fromMs ?? 0)
  const toMs = Math.min(endT / 1000, within?.toMs ?? Infinity)
  /** What of a stretch lies within. */
  const cut = <S extends While>(spans: S[]): S[] =>
    within
      ? spans.flatMap((span) =>
          span.toMs < fromMs || span.fromMs > toMs
            ? []
            : [{ ...span, fromMs: Math.max(fromMs, span.fromMs), toMs: Math.min(toMs, span.toMs) }],
        )
      : spans
  const { fetchSlots, decodeWorkers } = log.head.policy
  const main = frames
    .filter(({ work }) => work > 0)
    .map((frame): Span => ({
      fromMs: frame.begin / 1000,
      toMs: (frame.begin + frame.work) / 1000,
      request: -1,
      class: -1,
    }))
  const fetching = transfers.map((each): Span => ({
    fromMs: each.startT / 1000,
    toMs: each.freeT / 1000,
    request: each.request,
    class: each.startClass,
  }))
  const decoding = decodes.map((each): Span => ({
    fromMs: each.startT / 1000,
    toMs: each.endT / 1000,
    request: each.request,
    class: -1,
  }))
  const lane = (name: string, whole: Span[]) => {
    const spans = cut(whole)
    return {
      name,
      busyShare: ratio(sum(spans.map((span) => span.toMs - span.fromMs)), toMs - fromMs),
      spans: joined(spans, toMs - fromMs),
    }
  }
  return {
    fromMs,
    endMs: toMs,
    lanes: [
      lane('main thread', main),
      ...laid(fetching, fetchSlots).map((spans, i) => lane(`fetch slot ${i + 1}`, spans)),
      ...laid(decoding, decodeWorkers).map((spans, i) => lane(`decoder ${i + 1}`, spans)),
    ],
    inversions: cut(inversions.map(({ from, to }) => ({ fromMs: from / 1000, toMs: to / 1000 }))),
  }
}

/** Puts spans into the first lane that is free when they begin. */
function laid(spans: readonly Span[], lanes: number): Span[][] {
  const laidOut: Span[][] = Array.from({ length: lanes }, () => [])
  for (const span of spans.toSorted((one, other) => one.fromMs - other.fromMs)) {
    let free = laidOut.find((lane) => (lane.at(-1)?.toMs ?? 0) <= span.fromMs + 0.001)
    // Two that change places at one instant of a live clock may seem to overlap.
    if (!free) laidOut.push((free = []))
    free.push(span)
  }
  return laidOut
}

/** Few enough spans to be drawn: neighbours closer than a share of the whole are told as one. */
function joined(spans: readonly Span[], lengthMs: number): Span[] {
  if (spans.length <= mostSpans) return [...spans]
  const near = lengthMs / mostSpans
  const told: Span[] = []
  for (const span of spans) {
    const last = told.at(-1)
    if (last && span.fromMs - last.toMs < near)
      Object.assign(last, { toMs: Math.max(last.toMs, span.toMs), request: -1 })
    else told.push({ ...span })
  }
  return told
}

export interface MemoryLens {
  /** MB at instants in ms. */
  points: { ms: number; tier: number; bound: number; garbage: number; rest: number }[]
  /** The end of the app, MB. */
  collections: { ms: number; pauseMs: number; asked: boolean }[]
  reliefs: number[]
}

export function memoryLens({ memory, collections, reliefs }: Facts, within: While | null = null): MemoryLens {
  const mb = (bytes: number) => bytes / 1e6
  return {
    points: thinned(
      curveWithin(
        memory.map((each) => ({
          ms: each.t / 1000,
          tier: mb(each.tier),
          bound: mb(each.bound),
          garbage: mb(each.garbage),
          rest: Math.max(0, mb(each.resident - each.tier - each.bound - each.garbage)),
        })),
        within,
      ),
    ),
    collections: collections
      .map(({ t, us, asked }) => ({ ms: t / 1000, pauseMs: us / 1000, asked }))
      .filter(({ ms }) => lies(ms, within)),
    reliefs: reliefs.map((t) => t / 1000).filter((ms) => lies(ms, within)),
  }
}

export interface CellsLens {
  /** Cells made and binds done by then, since the while began. */
  points: { ms: number; created: number; bound: number }[]
  /** The same by where in the list: rows from the first to the last that was bound, in stretches of equal length. */
  places: { fromRow: number; toRow: number; created: number; bound: number }[]
  kinds: { kind: number; created: number; mostAtOnce: number }[]
  /** Cells that were made after the first screen was there. */
  late: { ms: number; row: number; kind: number }[]
  createMs: number | null
  bindMs: number | null
}

export function cellsLens(facts: Facts, within: While | null = null): CellsLens {
  const { cells, binds, exposures, frames, boundPeaks } = facts
  const firstFrame = exposures[0]?.enterT ?? Infinity
  const made = cells
    .map(({ createT }) => createT)
    .filter((t) => lies(t / 1000, within))
    .sort((a, b) => a - b)
  const bindTimes = facts.bindTimes.filter((t) => lies(t / 1000, within))
  const cost = (cause: string) => sum(frames.map((frame) => frame.causes.get(cause) ?? 0)) / 1000
  let created = 0
  const points = bindTimes.map((t, i) => {
    while (created < made.length && made[created]! <= t) created++
    return { ms: t / 1000, created, bound: i + 1 }
  })
  return {
    points: thinned(points),
    places: byPlace(
      cells.flatMap(({ createT, row }) => (lies(createT / 1000, within) ? [row] : [])),
      facts.bindRows.filter((_, i) => lies(facts.bindTimes[i]! / 1000, within)),
    ),
    kinds: [...boundPeaks].map(([kind, mostAtOnce]) => ({
      kind,
      created: cells.filter((cell) => cell.kind === kind).length,
      mostAtOnce,
    })),
    late: cells
      .filter(({ createT }) => createT >= firstFrame && lies(createT / 1000, within))
      .map(({ createT, row, kind }) => ({ ms: createT / 1000, row, kind })),
    createMs: ratio(cost('create'), cells.length),
    bindMs: ratio(cost('bind'), binds),
  }
}

const mostPlaces = 8

function byPlace(created: readonly number[], bound: readonly number[]): CellsLens['places'] {
  const rows = [...created, ...bound]
  if (rows.length === 0) return []
  const first = rows.reduce((least, row) => Math.min(least, row))
  const last = rows.reduce((most, row) => Math.max(most, row))
  const length = Math.ceil((last - first + 1) / mostPlaces)
  const places = Array.from({ length: Math.ceil((last - first + 1) / length) }, (_, i) => ({
    fromRow: first + i * length,
    toRow: Math.min(last, first + (i + 1) * length - 1),
    created: 0,
    bound: 0,
  }))
  const placeOf = (row: number) => places[Math.floor((row - first) / length)]!
  for (const row of created) placeOf(row).created++
  for (const row of bound) placeOf(row).bound++
  return places
}

export interface TiersLens {
  /** Deliveries by then, by tier, since the while began. */
  points: { ms: number; memory: number; disk: number; network: number; local: number }[]
  evictions: number[]
}

export function tiersLens({ claims, evictions }: Facts, within: While | null = null): TiersLens {
  const counts = { memory: 0, disk: 0, network: 0, local: 0 }
  const points = claims
    .filter(({ deliverT }) => deliverT >= 0 && lies(deliverT / 1000, within))
    .sort((one, other) => one.deliverT - other.deliverT)
    .map((claim) => {
      counts[claim.tier as keyof typeof counts]++
      return { ms: claim.deliverT / 1000, ...counts }
    })
  return { points: thinned(points), evictions: evictions.map(({ t }) => t / 1000).filter((ms) => lies(ms, within)) }
}

/** Failed requests, by reason. */
export interface FailureGroup {
  reason: string
  requests: number[]
  hosts: string[]
  bytes: number
}

export function failuresOf(
  { requests, transfers, log }: Facts,
  only: ReadonlySet<number> | null = null,
): FailureGroup[] {
  const groups = new Map<string, FailureGroup>()
  for (const request of requests) {
    if (request.end !== 'failed' || (only && !only.has(request.id))) continue
    const group = groups.get(request.reason) ?? { reason: request.reason, requests: [], hosts: [], bytes: 0 }
    groups.set(request.reason, group)
    group.requests.push(request.id)
    const { host } = log.assets[request.asset]!
    if (host !== '' && !group.hosts.includes(host)) group.hosts.push(host)
    group.bytes += sum(request.transfers.map((id) => transfers[id]!.bytes))
  }
  return [...groups.values()].sort((one, other) => other.requests.length - one.requests.length)
}

const lies = (ms: number, within: While | null) => within === null || (ms >= within.fromMs && ms <= within.toMs)

/** What of a curve lies within a while, with the value that it begins and ends with. */
function curveWithin<P extends { ms: number }>(points: readonly P[], within: While | null): readonly P[] {
  if (!within) return points
  const before = points.findLast(({ ms }) => ms < within.fromMs)
  const inside = points.filter(({ ms }) => lies(ms, within))
  const last = inside.at(-1) ?? before
  const toMs = Math.min(within.toMs, points.at(-1)?.ms ?? 0)
  return [
    ...(before ? [{ ...before, ms: within.fromMs }] : []),
    ...inside,
    ...(last && last.ms < toMs ? [{ ...last, ms: toMs }] : []),
  ]
}

/** Evenly chosen points of a curve, its ends among them. */
function thinned<P>(points: readonly P[]): P[] {
  if (points.length <= mostPoints) return [...points]
  return Array.from({ length: mostPoints }, (_, i) => points[Math.round((i * (points.length - 1)) / (mostPoints - 1))]!)
}
