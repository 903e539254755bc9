import type { Facts } from '../../facts/facts.ts'
import { ratio, sum } from '../../figures/numbers.ts'
import { type While } from './while.ts'

/** The most spans of a lane; beyond that, close ones are joined. */
const mostSpans = 1500

/** A span of work in a lane, ms. */
export interface Span {
  fromMs: number
  toMs: number
  /** null: of no one request. */
  request: number | null
  /** 0 on screen … 3 all else, when it began; null: does not apply. */
  class: number | null
}

export interface ThreadsLens {
  fromMs: number
  endMs: number
  lanes: { name: string; busyShare: number | null; spans: Span[] }[]
  /** During these, a request on screen waited for a slot that one of a lower class held. */
  inversions: { fromMs: number; toMs: number }[]
}

/** Main thread, fetch slots and decoders over time: which worked, and which were idle. */
export function threadsLens(
  { frames, transfers, decodes, inversions, endT, log }: Facts,
  within: While | null = null,
): ThreadsLens {
  const fromMs = Math.max(0, within?.fromMs ?? 0)
  const toMs = Math.min(endT / 1000, within?.toMs ?? Infinity)
  /** The part of a span that is within limits. */
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
      request: null,
      class: null,
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
    class: null,
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
      ...assignLanes(fetching, fetchSlots).map((spans, i) => lane(`fetch slot ${i + 1}`, spans)),
      ...assignLanes(decoding, decodeWorkers).map((spans, i) => lane(`decoder ${i + 1}`, spans)),
    ],
    inversions: cut(inversions.map(({ from, to }) => ({ fromMs: from / 1000, toMs: to / 1000 }))),
  }
}

/** Puts spans into the first lane that is free when they begin. */
function assignLanes(spans: readonly Span[], lanes: number): Span[][] {
  const laidOut: Span[][] = Array.from({ length: lanes }, () => [])
  for (const span of spans.toSorted((one, other) => one.fromMs - other.fromMs)) {
    let free = laidOut.find((lane) => (lane.at(-1)?.toMs ?? 0) <= span.fromMs + 0.001)
    // Two that follow each other at one instant of a live clock may seem to overlap.
    if (!free) laidOut.push((free = []))
    free.push(span)
  }
  return laidOut
}

/** Few enough spans to be drawn: neighbours closer than a share of the whole are joined. */
function joined(spans: readonly Span[], lengthMs: number): Span[] {
  if (spans.length <= mostSpans) return [...spans]
  const near = lengthMs / mostSpans
  const fewer: Span[] = []
  for (const span of spans) {
    const last = fewer.at(-1)
    if (last && span.fromMs - last.toMs < near)
      Object.assign(last, { toMs: Math.max(last.toMs, span.toMs), request: null })
    else fewer.push({ ...span })
  }
  return fewer
}
