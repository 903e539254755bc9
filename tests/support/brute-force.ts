/**
 * Metrics recomputed from NDJSON lines with plain loops, written from metrics.md alone; shares no code with the
 * product. Slow on purpose: every question is asked of the whole list of events again.
 */
type Event = Record<string, number> & {
  event: string
  t: number
  why: string
  reason: string
  tier: string
  key: string
  cause: string
}
type Row = Record<string, number> & { table: string; id: number; fit: string }

export function bruteForce(lines: readonly string[]): Record<string, number | null> {
  const told = lines.map((line) => JSON.parse(line) as Event & Row)
  const head = told[0] as unknown as { refreshHz: number; heightDp: number; widthDp: number }
  const table = (name: string) => told.filter((row) => row.table === name)
  const events = told.filter((row) => row.event !== undefined) as Event[]
  const of = (name: string) => events.filter((event) => event.event === name)
  const end = events.at(-1)!.t
  const renditions = table('rendition')
  const geometries = table('geometry')

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
  const rank = (sorted: number[], share: number) =>
    sorted.length === 0 ? null : sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)]!

  // Exposures: a slot that entered, until it leaves. Its claim is the last one made for the slot of that cell and key.
  const claims = of('claim')
  /** Whether a claim has failed by some place in the log: never before it was made, and no more once the network is back or its request has started again. */
  const failedBy = (claim: Event, before: number): boolean => {
    const request = of('join').find((event) => event.claim === claim.id)?.request
    const asset = renditions[claim.rendition!]!.asset
    if (events.indexOf(claim) >= before) return false
    if (request === undefined)
      return of('fail').some(
        (event) => event.request! >= 0 && assetOf(event.request!) === asset && events.indexOf(event) < before,
      )
    const last = events.findLastIndex(
      (event, i) =>
        i < before && event.request === request && ['fail', 'park', 'unpark', 'start'].includes(event.event),
    )
    return (
      last >= 0 && (events[last]!.event === 'park' || (events[last]!.event === 'fail' && events[last]!.t >= claim.t))
    )
  }
  const assetOf = (request: number) => of('queue').find((event) => event.request === request)!.asset
  const reasonOf = (asset: number) =>
    of('fail').find((event) => event.request! >= 0 && assetOf(event.request!) === asset)?.reason
  const exposures = of('enter').map((enter) => {
    const at = events.indexOf(enter)
    const leave = events.find(
      (event, i) => i > at && event.event === 'leave' && event.cell === enter.cell && event.slot === enter.slot,
    )
    const until = leave?.t ?? end
    const bound = events.findLastIndex(
      (event, i) => i < at && event.event === 'bind' && event.cell === enter.cell && event.key === enter.key,
    )
    const next = events.findIndex(
      (event, i) => i > bound && (event.event === 'recycle' || event.event === 'bind') && event.cell === enter.cell,
    )
    const own = claims.filter(
      (claim) =>
        claim.cell === enter.cell &&
        claim.slot === enter.slot &&
        events.indexOf(claim) > bound &&
        (next < 0 || events.indexOf(claim) < next),
    )
    // With fallbacks, the one that was asked for last is what the slot waits for.
    const inTime = (event: Event) => !leave || events.indexOf(event) < events.indexOf(leave)
    const claim = own.findLast(inTime)
    const shows = of('show').filter((show) => own.some((each) => each.id === show.claim) && inTime(show))
    const shown = shows.length > 0 ? Math.max(enter.t, shows[0]!.t) : null
    const absent =
      claim === undefined || (shown === null && reasonOf(renditions[claim.rendition!]!.asset!) === 'bad-address')
    const failed = claim !== undefined && shown === null && failedBy(claim, leave ? events.indexOf(leave) : Infinity)
    return { enter, until, claim, shown, absent, failed, row: events[bound]!.row!, rendition: claim?.rendition ?? -1 }
  })
  const valid = exposures.filter((each) => !each.absent)
  const waits = valid.map((each) => (each.shown ?? each.until) - each.enter.t).sort((a, b) => a - b)

  // Holes: the visible area, looked at between any two presented instants.
  const instants = [...new Set([...frames.map((frame) => frame.t), end])].sort((a, b) => a - b)
  let area = 0
  let hole = 0
  for (let i = 0; i + 1 < instants.length; i++) {
    const [from, to] = [instants[i]!, instants[i + 1]!]
    const top = of('scroll').findLast((event) => event.t <= from)?.top ?? 0
    for (const each of valid) {
      if (each.enter.t > from || each.until <= from) continue
      const place = of('place').findLast((event) => event.row === each.row && event.t <= from)
      const { y, height, width } = geometries[each.enter.geometry!] as unknown as {
        y: number
        height: number
        width: number
      }
      const slotTop = (place?.top ?? 0) + y - top
      const visible = Math.max(0, Math.min(head.heightDp, slotTop + height) - Math.max(0, slotTop))
      area += visible * width * (to - from)
      if (each.shown === null || each.shown > from) hole += visible * width * (to - from)
    }
  }

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
    const kind = fail
      ? 'failed'
      : cut
        ? 'cutOff'
        : !start.done
          ? 'open'
          : start.event.conditional === 1 && status === 200
            ? 'revalidated'
            : status !== 304 && complete.some((each) => each.asset === asset)
              ? 'again'
              : seenUntil(asset) < start.done.t
                ? 'neverSeen'
                : rankAtStart > 0
                  ? 'shownEarly'
                  : 'shown'
    if (start.done && !fail && status !== 304) complete.push({ asset, t: start.done.t })
    sums[kind]! += bytes
    received += bytes
  }
  const share = (part: number, whole: number) => (whole === 0 ? null : part / whole)
  const delivered = of('deliver')
  return {
    'frames.count': frames.length,
    'frames.late': frames.filter((frame) => late(frame) > 0).length,
    'frames.missed': frames.reduce((sum, frame) => sum + Math.round(late(frame) / (1000 / head.refreshHz)), 0),
    'frames.lateMsPerS': movingMs === 0 ? 0 : moving.reduce((sum, frame) => sum + late(frame), 0) / (movingMs / 1000),
    'frames.onTimeShare':
      moving.length === 0 ? null : 1 - moving.filter((frame) => late(frame) > 0).length / moving.length,
    'frames.workP50': rank(work, 0.5),
    'frames.workP95': rank(work, 0.95),
    'frames.workMax': work.at(-1) ?? null,
    'pictures.exposures': valid.length,
    'pictures.absent': exposures.length - valid.length,
    'pictures.failed': valid.filter((each) => each.failed).length,
    'pictures.unseen': valid.filter((each) => each.shown === null && !each.failed).length,
    'pictures.readyShare': share(
      valid.filter((each) => each.shown !== null && each.shown <= each.enter.t).length,
      valid.length,
    ),
    'pictures.waitP50': rank(waits, 0.5),
    'pictures.waitP95': rank(waits, 0.95),
    'pictures.waitMax': waits.at(-1) ?? null,
    'pictures.holeShare': share(hole, area),
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
