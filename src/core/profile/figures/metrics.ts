import { drawnSize } from '../../loading/rendition.ts'
import { unitsPerDp } from '../../numbers/units.ts'
import { isDelivered, isReady, isShown, type Facts } from '../facts/facts.ts'
import type { Ledger } from './ledger.ts'
import type { MetricId, Metrics } from './metric-definitions.ts'
import { withoutUnobserved } from './needs.ts'
import { ascending, percentile, ratio, sum } from './numbers.ts'

/** The metrics of one or two groups: those whose ids begin with its name. */
type MetricsOf<Group extends string> = Pick<Metrics, Extract<MetricId, `${Group}.${string}`>>

/** Frames that are presented later than due by more than this are stalled, ms. */
const stallLimitMs = 500
/** A picture is soft when the slot has more than this many times its px a side. */
const softLimit = 1.2

/** Every metric; units as in the definitions. null: one visit's log does not show it. */
export function measure(facts: Facts, ledger: Ledger): Metrics {
  return withoutUnobserved(measureAll(facts, ledger), facts.log.head)
}

function measureAll(facts: Facts, ledger: Ledger): Metrics {
  return {
    ...frameMetrics(facts),
    ...pictureMetrics(facts),
    ...byteMetrics(facts, ledger),
    ...requestMetrics(facts, ledger),
    ...decodeMetrics(facts),
    ...threadMetrics(facts),
    ...cellMetrics(facts),
    ...tierMetrics(facts),
    ...memoryMetrics(facts),
    'fidelity.requests': null,
    'fidelity.bytes': null,
    'fidelity.waitP50': null,
    'fidelity.wastedShareGap': null,
    'ledger.gapShare': null,
  }
}

function frameMetrics({ frames, log }: Facts): MetricsOf<'frames'> {
  const interval = 1e6 / log.head.refreshHz
  const late = (frame: (typeof frames)[number]) => frame.presented - frame.due
  const scrolling = frames.filter((frame) => frame.moved)
  const scrollUs = sum(scrolling.map((frame) => frame.presented - frame.begin))
  const work = ascending(frames.map((frame) => frame.work / 1000))
  const lateScrolling = scrolling.filter((frame) => late(frame) > 0).length
  return {
    'frames.count': frames.length,
    'frames.late': frames.filter((frame) => late(frame) > 0).length,
    'frames.missed': sum(frames.map((frame) => Math.round(late(frame) / interval))),
    'frames.lateMsPerS': scrollUs === 0 ? 0 : sum(scrolling.map(late)) / 1000 / (scrollUs / 1e6),
    'frames.onTimeShare': scrolling.length === 0 ? null : 1 - lateScrolling / scrolling.length,
    'frames.workP50': percentile(work, 0.5),
    'frames.workP95': percentile(work, 0.95),
    'frames.workP99': percentile(work, 0.99),
    'frames.workMax': work.at(-1) ?? null,
    'frames.stalled': frames.filter((frame) => late(frame) > stallLimitMs * 1000).length,
  }
}

function pictureMetrics(facts: Facts): MetricsOf<'pictures'> {
  const valid = facts.exposures.filter((each) => each.outcome !== 'absent')
  const waits = ascending(valid.map((each) => ((each.shownT ?? each.leaveT) - each.enterT) / 1000))
  const softness = ascending(
    valid.filter(isShown).flatMap((each) => softnessOf(facts, each.rendition, each.shownGeometry)),
  )
  return {
    'pictures.exposures': valid.length,
    'pictures.absent': facts.exposures.length - valid.length,
    'pictures.failed': valid.filter((each) => each.outcome === 'failed').length,
    'pictures.unseen': valid.filter((each) => each.outcome === 'unseen').length,
    'pictures.readyShare': ratio(valid.filter(isReady).length, valid.length),
    'pictures.waitP50': percentile(waits, 0.5),
    'pictures.waitP95': percentile(waits, 0.95),
    'pictures.waitMax': waits.at(-1) ?? null,
    'pictures.holeShare': ratio(sum(valid.map((each) => each.holeTime)), sum(valid.map((each) => each.areaTime))),
    'pictures.firstScreenMs': firstScreenMs(facts),
    'pictures.wrong': facts.wrongs.length,
    'pictures.wrongMs': sum(facts.wrongs.map((each) => each.endT - each.t)) / 1000,
    'pictures.jumps': facts.jumps.length,
    'pictures.jumpDp': sum(facts.jumps.map((jump) => Math.abs(jump.units))) / unitsPerDp,
    'pictures.flickers': facts.flickers.length,
    'pictures.soft': softness.length,
    'pictures.softRatio': percentile(softness, 0.5),
  }
}

/** Slot px ÷ picture px when that is more than the limit a side, else nothing. */
function softnessOf(facts: Facts, rendition: number, geometry: number): number[] {
  const picture = facts.log.renditions[rendition]!
  const slot = facts.log.geometries[geometry]!
  if (picture.width === 0) return []
  const drawn = drawnSize(picture, { width: slot.widthPx, height: slot.heightPx }, slot.fit as never)
  const side = Math.max(drawn.width / picture.width, drawn.height / picture.height)
  return side > softLimit ? [(drawn.width * drawn.height) / (picture.width * picture.height)] : []
}

/** From the start of the visit until every slot of the first full frame is shown, failed or has left. */
function firstScreenMs({ exposures }: Facts): number | null {
  const first = exposures[0]
  if (!first) return null
  let last = first.enterT
  for (const each of exposures) {
    if (each.enterT !== first.enterT) break
    if (each.outcome === 'absent') continue
    const ends = [each.shownT, each.failT, each.left ? each.leaveT : null].filter((t) => t !== null)
    if (ends.length === 0) return null
    last = Math.max(last, Math.min(...ends))
  }
  return last / 1000
}

function byteMetrics(facts: Facts, ledger: Ledger): MetricsOf<'bytes'> {
  const { bytes, received } = ledger
  const wasted = bytes.failed + bytes.cutOff + bytes.again + bytes.neverSeen
  return {
    'bytes.received': received,
    'bytes.shown': bytes.shown,
    'bytes.shownEarly': bytes.shownEarly,
    'bytes.cutOff': bytes.cutOff,
    'bytes.neverSeen': bytes.neverSeen,
    'bytes.again': bytes.again,
    'bytes.failed': bytes.failed,
    'bytes.revalidated': bytes.revalidated,
    'bytes.open': bytes.open,
    'bytes.unknown': bytes.unknown,
    'bytes.wastedShare': bytes.unknown > 0 ? null : ratio(wasted, received),
    'bytes.wastedAtLeastShare': ratio(wasted, received),
    'bytes.inFlight': ledger.inFlight,
    'bytes.oversize': oversizeBytes(facts),
  }
}

/** Σ over shown assets, or some of them, of bytes × (1 − min(1, px drawn in its largest slot ÷ source px)). */
export function oversizeBytes(facts: Facts, only: ReadonlySet<number> | null = null): number {
  const largest = new Map<number, number>()
  for (const each of facts.exposures) {
    if (!isShown(each)) continue
    const { asset } = facts.log.renditions[each.rendition]!
    if (only && !only.has(asset)) continue
    largest.set(asset, Math.max(largest.get(asset) ?? 0, each.largestPx))
  }
  let total = 0
  for (const [asset, px] of largest) {
    const { bytes, sourceWidth, sourceHeight } = facts.log.assets[asset]!
    const source = sourceWidth * sourceHeight
    if (source > 0) total += bytes * (1 - Math.min(1, px / source))
  }
  return Math.round(total)
}

function requestMetrics(facts: Facts, ledger: Ledger): MetricsOf<'requests'> {
  const { requests } = ledger
  return {
    'requests.total': facts.requests.length,
    'requests.shown': requests.shown,
    'requests.shownEarly': requests.shownEarly,
    'requests.cutOff': requests.cutOff,
    'requests.neverSeen': requests.neverSeen,
    'requests.again': requests.again,
    'requests.failed': requests.failed,
    'requests.revalidated': requests.revalidated,
    'requests.open': requests.open,
    'requests.unknown': requests.unknown,
    'requests.cancelledFree': requests.cancelledFree,
    'requests.cancelledFreeMs': ledger.cancelledFreeUs / 1000,
    'requests.fromDisk': requests.fromDisk,
    'requests.retries': sum(facts.requests.map((each) => each.retries)),
    'requests.wastedShare':
      requests.unknown > 0
        ? null
        : ratio(ledger.wastedStarted, ledger.startedRequests - ledger.freeStarted - ledger.openStarted),
    'requests.peakActive': facts.peakActive,
    'requests.inversionMs': facts.inversionUs / 1000,
  }
}

function decodeMetrics(facts: Facts): MetricsOf<'decode'> {
  const { decodes } = facts
  const used = usedDecodes(facts)
  /** The most px that a slot had while it showed a rendition. */
  const drawn = new Map<number, number>()
  for (const { rendition, largestPx } of facts.exposures.filter(isShown))
    drawn.set(rendition, Math.max(drawn.get(rendition) ?? 0, largestPx))
  let decoded = 0
  let wanted = 0
  for (const { rendition, ok } of decodes) {
    if (!ok) continue
    const row = facts.log.renditions[rendition]!
    decoded += row.width * row.height
    wanted += drawn.get(rendition) ?? row.targetWidth * row.targetHeight
  }
  return {
    'decode.count': decodes.length,
    'decode.ms': sum(decodes.map((each) => each.us)) / 1000,
    'decode.wastedMs': sum(decodes.filter((_, i) => !used.has(i)).map((each) => each.us)) / 1000,
    'decode.pixelRatio': ratio(decoded, wanted),
  }
}

/**
 * Decodes whose picture was shown or used, by number. A picture reaches the claims of its own request, and from memory
 * those that are made until it is decoded again.
 */
function usedDecodes(facts: Facts): Set<number> {
  const { decodes, claims, exposures, uses } = facts
  const shownClaims = new Set(exposures.filter(isShown).map((each) => each.claim))
  for (const use of uses) shownClaims.add(use.claim)
  /** The decodes of each rendition, in the order in which they ended. */
  const byRendition = new Map<number, number[]>()
  for (const [number, { rendition, ok }] of decodes.entries()) {
    if (!ok) continue
    const known = byRendition.get(rendition)
    if (known) known.push(number)
    else byRendition.set(rendition, [number])
  }
  const used = new Set<number>()
  for (const claim of claims.filter(isDelivered)) {
    if (!shownClaims.has(claim.id)) continue
    const own = byRendition.get(claim.rendition) ?? []
    const source =
      claim.tier === 'memory'
        ? own.findLast((number) => decodes[number]!.endT <= claim.deliverT)
        : own.findLast(
            (number) => decodes[number]!.request === claim.request && decodes[number]!.endT <= claim.deliverT,
          )
    if (source !== undefined) used.add(source)
  }
  return used
}

function threadMetrics(facts: Facts): MetricsOf<'threads'> {
  const { endT, log } = facts
  const { decodeWorkers, fetchSlots } = log.head.policy
  /** µs that threads were busy, as a recorded app reports it; null: it does not. */
  const busyUs = (role: 'main' | 'decode') => {
    const ofRole = facts.busy.filter(({ thread }) => threadRole(thread) === role)
    return ofRole.length === 0 ? null : sum(ofRole.map(({ us }) => us))
  }
  const decodeThreads = new Set(
    facts.busy.map(({ thread }) => thread).filter((thread) => threadRole(thread) === 'decode'),
  ).size
  return {
    'threads.mainBusyShare': ratio(busyUs('main') ?? sum(facts.frames.map((frame) => frame.work)), endT),
    'threads.decodeBusyShare':
      busyUs('decode') === null
        ? ratio(sum(facts.decodes.map((each) => each.us)), endT * decodeWorkers)
        : ratio(busyUs('decode')!, endT * decodeThreads),
    'threads.decodePeak': facts.decodePeak,
    'threads.fetchBusyShare': ratio(sum(facts.transfers.map((each) => each.freeT - each.startT)), endT * fetchSlots),
  }
}

function cellMetrics(facts: Facts): MetricsOf<'cells'> {
  const { cells, binds, exposures, frames } = facts
  const firstFrame = exposures[0]?.enterT ?? Infinity
  const cost = (cause: string) => sum(frames.map((frame) => frame.causes.get(cause) ?? 0)) / 1000
  const last = cells.reduce<(typeof cells)[number] | null>(
    (latest, cell) => (!latest || cell.createT >= latest.createT ? cell : latest),
    null,
  )
  return {
    'cells.created': cells.length,
    'cells.bound': binds,
    'cells.reuse': binds === 0 ? null : 1 - cells.length / binds,
    'cells.createMs': cost('create'),
    'cells.bindMs': cost('bind'),
    'cells.lastCreateRow': last?.row ?? null,
    'cells.createdAfterFirstScreen': cells.filter((cell) => cell.createT >= firstFrame).length,
    'cells.heldHits': facts.heldHits,
  }
}

function tierMetrics(facts: Facts): MetricsOf<'tier'> {
  const delivered = facts.claims.filter(isDelivered)
  const share = (tier: string) => ratio(delivered.filter((claim) => claim.tier === tier).length, delivered.length)
  const evicted = new Map<number, number>()
  for (const { rendition, t } of facts.evictions) if (!evicted.has(rendition)) evicted.set(rendition, t)
  return {
    'tier.memoryShare': share('memory'),
    'tier.diskShare': share('disk'),
    'tier.networkShare': share('network'),
    'tier.localShare': share('local'),
    'tier.evictions': facts.evictions.length,
    'tier.evictedThenWanted': facts.claims.filter(
      (claim) => (evicted.get(claim.rendition) ?? Infinity) <= claim.t && claim.tier !== 'memory',
    ).length,
  }
}

function memoryMetrics(facts: Facts): MetricsOf<'memory' | 'disk'> {
  const { memory, collections, reliefs, disk, log } = facts
  const mb = (bytes: number | undefined) => (bytes === undefined ? null : bytes / 1e6)
  const after = (t: number | undefined) => (t === undefined ? null : mb(memory.find((each) => each.t >= t)?.resident))
  let held = log.head.diskStartBytes
  let peak = held
  for (const { bytes } of disk) peak = Math.max(peak, (held += bytes))
  return {
    'memory.startMb': mb(memory[0]?.resident),
    'memory.peakMb': memory.length === 0 ? null : mb(memory.reduce((most, each) => Math.max(most, each.resident), 0)),
    'memory.endMb': mb(memory.at(-1)?.resident),
    'memory.afterCollectMb': after(collections.findLast((each) => each.asked)?.t),
    'memory.afterReliefMb': after(reliefs.at(-1)),
    'memory.collections': collections.length,
    'memory.pauseMs': sum(collections.map((each) => each.us)) / 1000,
    'memory.ended': facts.endWhy === 'heap' ? 1 : 0,
    'disk.startMb': log.head.diskStartBytes / 1e6,
    'disk.peakMb': peak / 1e6,
    'disk.endMb': held / 1e6,
    'disk.writtenMb': sum(disk.filter((each) => each.written).map((each) => each.bytes)) / 1e6,
  }
}

/** The role of a recorded app's thread, by its name. */
function threadRole(name: string): 'main' | 'decode' | 'other' {
  if (/^(main|ui)\b/i.test(name)) return 'main'
  return /decod/i.test(name) ? 'decode' : 'other'
}
