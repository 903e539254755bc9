import { exposuresOf, pictureFigures } from './oracle-exposures.ts'
import { rankOf, readLines, shareOf as share, type Event } from './oracle-log.ts'

/**
 * Metrics recomputed from NDJSON lines with plain loops, written from metrics.md alone; shares no code with the
 * product. Slow on purpose: every question goes through the whole list of events again.
 */
export function bruteForce(lines: readonly string[]): Record<string, number | null> {
  const log = readLines(lines)
  const { events, head, of } = log
  const renditions = log.table('rendition')

  // Frames.
  const frames = of('frame')
  const scrolled = new Set(of('scroll').map((event) => event.t))
  const moving = frames.filter((frame) => scrolled.has(frame.t))
  const late = (frame: Event) => frame.presented! - frame.due!
  const movingMs = moving.reduce((sum, frame) => sum + frame.presented! - frame.begin!, 0)
  const work = frames
    .map((frame) =>
      of('work')
        .filter((event) => event.t === frame.t)
        .reduce((sum, event) => sum + event.ms!, 0),
    )
    .sort((a, b) => a - b)

  const exposures = exposuresOf(log)
  const valid = exposures.filter((each) => !each.absent)
  const assetOf = (request: number) => of('queue').find((event) => event.request === request)!.asset

  // The ledger: each transfer in the first class that fits.
  const sums: Record<string, number> = {
    open: 0,
    failed: 0,
    cutOff: 0,
    revalidated: 0,
    again: 0,
    neverSeen: 0,
    shownEarly: 0,
    shown: 0,
  }
  const seenUntil = (asset: number) =>
    Math.max(
      -1,
      ...valid
        .filter((each) => each.shown !== null && renditions[each.rendition]!.asset === asset)
        .map((each) => each.until),
      ...valid
        .flatMap(({ small }) => small)
        .filter(({ rendition }) => renditions[rendition]!.asset === asset)
        .map(({ until }) => until),
      ...of('use')
        .filter((event) => renditions[event.rendition as number]!.asset === asset)
        .map((event) => event.t),
    )
  let received = 0
  const complete: { asset: number; t: number }[] = []
  for (const start of of('start')
    .map((event) => ({ event, done: of('received').find((each) => each.transfer === event.transfer) }))
    .sort((a, b) => (a.done?.t ?? Infinity) - (b.done?.t ?? Infinity))) {
    const { transfer, request } = start.event as unknown as { transfer: number; request: number }
    const asset = assetOf(request)!
    const cut = of('cancel').find((event) => event.transfer === transfer)
    const fail = of('fail').find((event) => event.transfer === transfer)
    const status = of('firstByte').find((event) => event.transfer === transfer)?.status ?? 0
    const bytes =
      start.done?.bytes ??
      cut?.bytes ??
      fail?.bytes ??
      of('progress').findLast((event) => event.transfer === transfer)?.bytes ??
      0
    const at = events.indexOf(start.event)
    const rankAtStart =
      events.slice(0, at).findLast((event) => event.event === 'rank' && event.request === request)?.class ?? 3
    const kindOf = () => {
      if (fail) return 'failed'
      if (cut) return 'cutOff'
      if (!start.done) return 'open'
      if (start.event.conditional === 1 && status === 200) return 'revalidated'
      if (status !== 304 && complete.some((each) => each.asset === asset)) return 'again'
      if (seenUntil(asset) < start.done.t) return 'neverSeen'
      return rankAtStart > 0 ? 'shownEarly' : 'shown'
    }
    const kind = kindOf()
    if (start.done && !fail && status !== 304) complete.push({ asset, t: start.done.t })
    sums[kind]! += bytes
    received += bytes
  }
  const delivered = of('deliver')
  return {
    'frames.count': frames.length,
    'frames.late': frames.filter((frame) => late(frame) > 0).length,
    'frames.missed': frames.reduce((sum, frame) => sum + Math.round(late(frame) / (1000 / head.refreshHz)), 0),
    'frames.lateMsPerS': movingMs === 0 ? 0 : moving.reduce((sum, frame) => sum + late(frame), 0) / (movingMs / 1000),
    'frames.onTimeShare':
      moving.length === 0 ? null : 1 - moving.filter((frame) => late(frame) > 0).length / moving.length,
    'frames.workP50': rankOf(work, 0.5),
    'frames.workP95': rankOf(work, 0.95),
    'frames.workMax': work.at(-1) ?? null,
    ...pictureFigures(log, exposures),
    'bytes.received': received,
    ...Object.fromEntries(Object.entries(sums).map(([name, bytes]) => [`bytes.${name}`, bytes])),
    'bytes.wastedShare': share(sums.failed! + sums.cutOff! + sums.again! + sums.neverSeen!, received),
    'requests.total': of('queue').length,
    'requests.retries': of('retry').length,
    'decode.count': of('decodeEnd').length,
    'decode.ms': of('decodeEnd').reduce((sum, event) => sum + event.ms!, 0),
    'cells.created': of('create').length,
    'cells.bound': of('bind').length,
    'cells.heldHits': of('hold').length,
    'tier.memoryShare': share(delivered.filter((event) => event.tier === 'memory').length, delivered.length),
    'tier.evictions': of('evict').length,
    'pictures.jumps': of('jump').length,
    'memory.peakMb': of('memory').reduce((most, event) => Math.max(most, event.resident!), 0) / 1000,
  }
}
