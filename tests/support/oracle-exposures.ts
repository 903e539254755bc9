import { rankOf, shareOf, total, type Event, type LogLines } from './oracle-log.ts'

/** What a claim is released for when another one takes its place in the same exposure. */
const goesOn = ['fallback', 'retry', 'again', 'larger']

export interface SeenExposure {
  enter: Event
  leave: Event | undefined
  until: number
  /** The claims that it had one after the other. */
  claims: Event[]
  /** Those, and what was asked for one after the other before it came on screen. */
  asked: Event[]
  /** When its own picture was there; null: it was not. */
  shown: number | null
  rendition: number
  /** Small pictures that were seen before that one took their place, until then. */
  small: { claim: number; rendition: number; until: number }[]
  absent: boolean
  failed: boolean
  failedAtEntry: boolean
}

/** Exposures from metrics.md and engine.md: a slot, bound to one item at one address, on screen. */
export function exposuresOf(log: LogLines): SeenExposure[] {
  const { events, of, at, end } = log
  const renditions = log.table('rendition')
  const assetOf = (request: number) => of('queue').find((event) => event.request === request)!.asset
  const reasonOf = (asset: number) =>
    of('fail').find((event) => event.request! >= 0 && assetOf(event.request!) === asset)?.reason
  /**
   * Whether a claim has failed by some place in the log: never before it was made, and no more once the network is back
   * or its request has started again.
   */
  const failedBy = (claim: Event, before: number): boolean => {
    if (at(claim) >= before) return false
    const request = of('join').find((event) => event.claim === claim.id)?.request
    const { asset } = renditions[claim.rendition!]!
    if (request === undefined)
      return of('fail').some((event) => event.request! >= 0 && assetOf(event.request!) === asset && at(event) < before)
    const last = events.findLast(
      (event, i) =>
        i < before && event.request === request && ['fail', 'park', 'unpark', 'start'].includes(event.event),
    )
    return last?.event === 'park' || (last?.event === 'fail' && last.t >= claim.t)
  }
  return of('enter').map((enter) => {
    const { cell, slot } = enter
    const here = (event: Event) => event.cell === cell && event.slot === slot
    const leave = of('leave').find((event) => at(event) > at(enter) && here(event))
    const before = leave ? at(leave) : Infinity
    const releaseOf = (claim: Event) => of('release').find((event) => event.id === claim.id)
    // Its claim is the last that was made for the slot, unless the cell was recycled or its address changed since.
    const made = of('claim').filter(here)
    const first = made.findLast((claim) => at(claim) < at(enter))
    const lost =
      first === undefined ||
      of('recycle').some((event) => event.cell === cell && at(event) > at(first) && at(event) < at(enter)) ||
      (releaseOf(first) !== undefined && at(releaseOf(first)!) < at(enter) && !goesOn.includes(releaseOf(first)!.why))
    const claims = lost ? [] : [first]
    // Where the small picture was shown and the one after it was not, it is what is on screen.
    const former = first && made.filter((claim) => at(claim) < at(first)).at(-1)
    const delivered = (claim: Event) => of('deliver').some((event) => event.claim === claim.id)
    if (!lost && former && releaseOf(former)?.why === 'larger' && delivered(former)) claims.unshift(former)
    if (!lost)
      for (const next of made.filter((claim) => at(claim) > at(first) && at(claim) < before)) {
        const release = releaseOf(claims.at(-1)!)
        if (!release || at(release) > at(next) || !goesOn.includes(release.why)) break
        claims.push(next)
      }
    // What was asked for it before it came on screen is its own all the same: its address, and fallbacks.
    const asked = [...claims]
    for (const earlier of made.filter((claim) => asked[0] && at(claim) < at(asked[0])).reverse()) {
      const release = releaseOf(earlier)
      if (!release || at(release) > at(asked[0]!) || !goesOn.includes(release.why)) break
      asked.unshift(earlier)
    }
    const shows = of('show').filter((show) => claims.some(({ id }) => id === show.claim) && at(show) < before)
    // What was there at entry is there unless it was taken away since.
    const early = shows.findLast((show) => at(show) < at(enter))
    if (claims[0] === former && early?.claim !== former?.id) claims.shift()
    const gone =
      early &&
      [...of('wrong'), ...of('clear')].some((event) => here(event) && at(event) > at(early) && at(event) < at(enter))
    const show = (early && !gone ? early : undefined) ?? shows.find((each) => at(each) > at(enter))
    const shown = show ? Math.max(enter.t, show.t) : null
    const claim = claims.at(-1)
    const small: SeenExposure['small'] = []
    let last = show
    if (shown !== null)
      for (const next of shows.filter((each) => at(each) > Math.max(at(show!), at(enter)))) {
        if (next.claim === last!.claim || releaseOf(claims.find(({ id }) => id === last!.claim)!)?.why !== 'larger')
          continue
        small.push({ claim: last!.claim!, rendition: last!.rendition!, until: next.t })
        last = next
      }
    const rendition = last?.rendition ?? claim?.rendition ?? -1
    const absent = !claim || (shown === null && reasonOf(renditions[claim.rendition!]!.asset!) === 'bad-address')
    const failed = claim !== undefined && shown === null && failedBy(claim, before)
    const own = claims.find((each) => !isPassedOver(log, each, before)) ?? claims.at(-1)
    const failedAtEntry = own !== undefined && failedBy(own, at(enter))
    return {
      enter,
      leave,
      until: leave?.t ?? end,
      claims,
      asked,
      shown,
      rendition,
      small,
      absent,
      failed,
      failedAtEntry,
    }
  })
}

/** The number of the slot's frame at the end of what the log reports before a place in it. */
function geometryAt(log: LogLines, { enter }: SeenExposure, before: number): number {
  const { of, at } = log
  const changes = of('slotFrame').filter((event) => event.cell === enter.cell && event.slot === enter.slot)
  return changes.findLast((event) => at(event) > at(enter) && at(event) < before)?.geometry ?? enter.geometry!
}

/** Where what a frame presents ends in the log: at the next frame's event, or where the exposure ends. */
function endOfFrame(log: LogLines, from: number, leave: Event | undefined): number {
  const next = log.of('frame').find((event) => log.at(event) > from)
  return Math.min(next ? log.at(next) : Infinity, leave ? log.at(leave) : Infinity)
}

/** Figures of pictures on screen. */
export function pictureFigures(log: LogLines, all: readonly SeenExposure[]): Record<string, number | null> {
  const { of, at, end } = log
  const renditions = log.table('rendition')
  const geometries = log.table('geometry')
  const assets = log.table('asset')
  const valid = all.filter(({ absent }) => !absent)
  const waits = valid.map(({ enter, shown, until }) => (shown ?? until) - enter.t).sort((a, b) => a - b)

  const px = (geometry: number) => geometries[geometry]!.widthPx! * geometries[geometry]!.heightPx!
  const shownOnes = valid
    .filter(({ shown }) => shown !== null)
    .map((each) => {
      const shows = of('show').filter((show) => each.claims.some(({ id }) => id === show.claim))
      const place = Math.max(at(each.enter), at(shows.find((show) => show.t <= each.shown! || show.t === each.shown)!))
      const first = geometryAt(log, each, endOfFrame(log, place, each.leave))
      const later = of('slotFrame').filter(
        (event) =>
          event.cell === each.enter.cell &&
          event.slot === each.enter.slot &&
          at(event) > place &&
          at(event) < (each.leave ? at(each.leave) : Infinity),
      )
      const frames = later.filter((event) => event.t > each.shown! || at(event) > place).map((event) => event.geometry!)
      return { ...each, first, largest: Math.max(px(first), ...frames.map(px)) }
    })

  // Soft: fewer px than the slot has when it is shown, by more than 1.2 a side.
  const soft = shownOnes.flatMap(({ rendition, first }) => {
    const picture = renditions[rendition]!
    const slot = geometries[first]!
    if (picture.width === 0) return []
    const [across, down] = [slot.widthPx! / picture.width!, slot.heightPx! / picture.height!]
    const scale = { cover: Math.max(across, down), contain: Math.min(across, down), none: 1 }[slot.fit]
    const sides =
      slot.fit === 'fill' ? [across, down] : [scale ?? Math.min(1, across, down), scale ?? Math.min(1, across, down)]
    return Math.max(...sides) > 1.2 ? [sides[0]! * sides[1]!] : []
  })
  soft.sort((a, b) => a - b)

  const largestOf = (asset: number) =>
    Math.max(
      ...shownOnes.filter(({ rendition }) => renditions[rendition]!.asset === asset).map(({ largest }) => largest),
    )
  const oversize = total(
    [...new Set(shownOnes.map(({ rendition }) => renditions[rendition]!.asset!))].map((asset) => {
      const source = assets[asset]!.sourceWidth! * assets[asset]!.sourceHeight!
      return source > 0 ? assets[asset]!.bytes! * (1 - Math.min(1, largestOf(asset) / source)) : 0
    }),
  )

  return {
    'pictures.exposures': valid.length,
    'pictures.absent': all.length - valid.length,
    'pictures.failed': valid.filter(({ failed }) => failed).length,
    'pictures.unseen': valid.filter(({ shown, failed }) => shown === null && !failed).length,
    'pictures.readyShare': shareOf(valid.filter(({ enter, shown }) => shown === enter.t).length, valid.length),
    'pictures.waitP50': rankOf(waits, 0.5),
    'pictures.waitP95': rankOf(waits, 0.95),
    'pictures.waitMax': waits.at(-1) ?? null,
    'pictures.holeShare': holeShare(log, valid),
    'pictures.firstScreenMs': firstScreen(log, all),
    'pictures.soft': soft.length,
    'pictures.softRatio': rankOf(soft, 0.5),
    'pictures.wrong': of('wrong').length,
    'pictures.wrongMs': total(
      of('wrong').map((wrong) => {
        const over = log.events.find(
          (event, i) =>
            i > at(wrong) &&
            ((['bind', 'recycle'].includes(event.event) && event.cell === wrong.cell) ||
              (['clear', 'wrong'].includes(event.event) && event.cell === wrong.cell && event.slot === wrong.slot) ||
              (event.event === 'show' && event.cell === wrong.cell && event.slot === wrong.slot && isOwn(log, event))),
        )
        return (over?.t ?? end) - wrong.t
      }),
    ),
    'bytes.oversize': Math.round(oversize),
    'decode.pixelRatio': shareOf(
      total(good(log).map(({ rendition }) => renditions[rendition!]!.width! * renditions[rendition!]!.height!)),
      total(
        good(log).map(({ rendition }) => {
          const drawn = shownOnes.filter((each) => each.rendition === rendition).map(({ largest }) => largest)
          const { targetWidth, targetHeight } = renditions[rendition!]!
          return drawn.length > 0 ? Math.max(...drawn) : targetWidth! * targetHeight!
        }),
      ),
    ),
    'decode.wastedMs': wastedDecodes(log, valid),
    'frames.workP99': rankOf(
      of('frame')
        .map(({ t }) =>
          total(
            of('work')
              .filter((event) => event.t === t)
              .map(({ ms }) => ms!),
          ),
        )
        .sort((a, b) => a - b),
      0.99,
    ),
  }
}

const good = (log: LogLines) => log.of('decodeEnd').filter(({ ok }) => ok === 1)

/** Whether a picture is set for the claim that its slot has at that moment. */
function isOwn({ of, at }: LogLines, show: Event): boolean {
  const here = (event: Event) => event.cell === show.cell && event.slot === show.slot
  const last = of('claim').findLast((claim) => here(claim) && at(claim) < at(show))
  const gone =
    last && of('recycle').some((event) => event.cell === show.cell && at(event) > at(last) && at(event) < at(show))
  return !gone && last?.id === show.claim
}

/** Visible area × time without its own picture ÷ visible area × time, evaluated between any two presented instants. */
function holeShare(log: LogLines, valid: readonly SeenExposure[]): number | null {
  const { of, at, end, head } = log
  const renditions = log.table('rendition')
  const geometries = log.table('geometry')
  const frames = of('frame')
  const changes = [...of('show'), ...of('standIn'), ...of('wrong'), ...of('clear')].sort((a, b) => at(a) - at(b))
  const instants = [...new Set([...frames.map(({ t }) => t), end])].sort((a, b) => a - b)
  let area = 0
  let hole = 0
  for (let i = 0; i + 1 < instants.length; i++) {
    const [from, to] = [instants[i]!, instants[i + 1]!]
    const frame = frames.findLast(({ t }) => t <= from)!
    const upTo = (event: Event) => event.t <= from
    const top = of('scroll').findLast(upTo)?.top ?? 0
    const screen = of('screen').findLast(upTo)?.height ?? head.heightDp
    for (const each of valid) {
      const { enter, until, asked } = each
      if (enter.t > from || until <= from) continue
      // A row is where its cell was bound for the frame that is on screen.
      const bind = of('bind').findLast(
        (event) => event.cell === enter.cell && event.key === enter.key && at(event) < at(frame),
      )!
      const place = of('place').findLast((event) => event.row === bind.row && event.t <= from)
      const last = of('slotFrame').findLast(
        (event) => event.cell === enter.cell && event.slot === enter.slot && at(event) > at(enter) && event.t <= from,
      )
      const { y, height, width } = geometries[last?.geometry ?? enter.geometry!] as unknown as Record<string, number>
      const slotTop = (place?.top ?? 0) + y! - top
      const visible = Math.max(0, Math.min(screen, slotTop + height!) - Math.max(0, slotTop))
      area += visible * width! * (to - from)
      const state = changes.findLast(
        (event) => event.cell === enter.cell && event.slot === enter.slot && event.t <= from,
      )
      const asset = (rendition: number) => renditions[rendition]!.asset
      const covered =
        state?.event === 'standIn' ||
        // Its own address’s picture is its own, after a fallback was asked for too.
        (state?.event === 'show' &&
          asked.some((claim) => at(claim) < at(frame) && asset(claim.rendition!) === asset(state.rendition!)))
      if (!covered) hole += visible * width! * (to - from)
    }
  }
  return shareOf(hole, area)
}

/**
 * Whether a claim was, by some place in the log, of a small picture that failed: it ends nothing, the larger one is
 * still to come.
 */
const isPassedOver = ({ of, at }: LogLines, { id }: Event, before: number) =>
  of('release').some((event) => event.id === id && event.why === 'larger' && at(event) < before) &&
  !of('deliver').some(({ claim }) => claim === id)

/**
 * Where a claim failed: as it was made, where its request had failed or its asset was known to, else with its request.
 */
function failuresOf({ of, at, events }: LogLines, claim: Event): Event[] {
  const join = of('join').find((event) => event.claim === claim.id)
  if (!join) return of('deliver').some((event) => event.claim === claim.id) ? [] : [claim]
  const ofRequest = events.filter(
    ({ event, request }) => request === join.request && ['fail', 'park', 'unpark', 'start'].includes(event),
  )
  const parked = ofRequest.findLast((event) => at(event) < at(join))?.event === 'park'
  const later = ofRequest.filter((event) => at(event) > at(join) && ['fail', 'park'].includes(event.event))
  return parked ? [claim, ...later] : later
}

/** From the start until every slot of the first full frame is shown, failed or has left. */
function firstScreen(log: LogLines, all: readonly SeenExposure[]): number | null {
  const { at } = log
  const first = all[0]?.enter.t
  if (first === undefined) return null
  let last = first
  for (const { enter, leave, shown, claims, absent, failedAtEntry } of all) {
    if (enter.t !== first || absent) continue
    const failures = claims
      .filter((claim) => !isPassedOver(log, claim, leave ? at(leave) : Infinity))
      .flatMap((claim) => failuresOf(log, claim))
      .filter((event) => at(event) > at(enter) && (leave === undefined || at(event) < at(leave)))
      .sort((one, other) => at(one) - at(other))
    const ends = [shown, failedAtEntry ? enter.t : failures[0]?.t, leave?.t]
    const over = ends.filter((t): t is number => typeof t === 'number')
    if (over.length === 0) return null
    last = Math.max(last, Math.min(...over))
  }
  return last
}

/**
 * Decodes whose picture reached no exposure and no use: by the claims of their own request, or from memory until the
 * next decode of the same.
 */
function wastedDecodes(log: LogLines, valid: readonly SeenExposure[]): number {
  const { of, at } = log
  const seen = new Set(
    valid
      .filter(({ shown }) => shown !== null)
      .map(({ claims, rendition }) => claims.findLast((each) => each.rendition === rendition)?.id),
  )
  for (const { small } of valid) for (const { claim } of small) seen.add(claim)
  for (const use of of('use')) seen.add(use.claim)
  const joins = of('join')
  return total(
    of('decodeEnd').map((decode) => {
      const next = of('decodeEnd').find(
        (other) => other.ok === 1 && other.rendition === decode.rendition && at(other) > at(decode),
      )
      const reached = of('deliver').some((deliver) => {
        if (deliver.rendition !== decode.rendition || at(deliver) < at(decode) || !seen.has(deliver.claim)) return false
        if (deliver.tier === 'memory') return !next || at(deliver) < at(next)
        const request = joins.find(({ claim }) => claim === deliver.claim)?.request
        if (request !== decode.request) return false
        const later = of('decodeEnd').some(
          (other) =>
            other !== decode &&
            other.ok === 1 &&
            other.request === request &&
            other.rendition === decode.rendition &&
            at(other) > at(decode) &&
            at(other) < at(deliver),
        )
        return !later
      })
      return decode.ok === 1 && reached ? 0 : decode.ms!
    }),
  )
}
