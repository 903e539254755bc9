import { scopeFromLog } from '../../log/claim-place.ts'
import type { RunLog } from '../../log/run-log.ts'
import type { CellFact, ClaimFact, ExposureFact, Facts } from './facts.ts'
import { ExposureEnds } from './exposure-ends.ts'
import type { OnScreen } from './on-screen.ts'
import { newPlace, type Place } from './slot-place.ts'
import type { QueueWatch } from './queue-watch.ts'

/** Most slots of one cell: room in the packed number of a slot of a cell. */
const slotRoom = 8

/** Reasons for releasing a claim after which the same exposure continues with another claim. */
const replaced = new Set(['fallback', 'retry', 'again', 'larger'])

/**
 * Cells, their slots and what those show while a log is read. What a frame changes on screen is logged at the instant
 * at which it is presented; a bind, and the claims that it makes, are logged before that: they belong to the exposure
 * that the frame begins, if it begins one.
 */
export class Slots {
  private readonly log: RunLog
  private readonly facts: Facts
  private readonly onScreen: OnScreen
  private readonly watch: QueueWatch
  private readonly ends: ExposureEnds
  private readonly places: Place[] = []
  private readonly keys: number[] = []
  private readonly indices: number[] = []
  private readonly rows: number[] = []
  /** Positions of cells since they were last bound. */
  private readonly positions: { row: number; column: number | null }[] = []
  private readonly boundCells = new Set<number>()
  private readonly boundNow = new Map<number, number>()
  /** Rows and indices that exposures have from the next frame on: their cells were bound for it. */
  private toMove: { exposure: ExposureFact; row: number; index: number }[] = []

  constructor(log: RunLog, facts: Facts, onScreen: OnScreen, watch: QueueWatch) {
    this.log = log
    this.facts = facts
    this.onScreen = onScreen
    this.watch = watch
    this.ends = new ExposureEnds(log, facts, onScreen)
  }

  /** An asset has failed, for this claim and for all later ones. */
  assetFailed(asset: number, why: string): void {
    this.ends.failedAssets.set(asset, why)
  }

  /**
   * A new frame is presented: the changes of the one before are complete, and rows are as they were bound for this one.
   */
  presented(t: number): void {
    this.ends.measureShown()
    if (this.toMove.length === 0) return
    this.onScreen.pass(t)
    for (const { exposure, row, index } of this.toMove) {
      exposure.row = row
      exposure.index = index
    }
    this.toMove = []
  }

  finish(t: number): void {
    this.ends.measureShown()
    this.onScreen.pass(t)
    for (const exposure of this.onScreen.all) this.ends.close(exposure, t)
    for (const place of this.places) if (place) this.endWrong(place, t)
  }

  /** The position of an item's cell now; null: the cell shows another one, or none. */
  rowOf(cell: number, key: number): number | null {
    return this.keys[cell] === key && this.boundCells.has(cell) ? this.rows[cell]! : null
  }

  firstExposureOf(cell: number): ExposureFact | null {
    return this.places[cell * slotRoom]?.exposure ?? null
  }

  bind(t: number, cell: number, key: number, index: number, row: number, column: number | null): void {
    const { facts } = this
    facts.binds++
    facts.bindTimes.push(t)
    facts.bindRows.push(row)
    facts.itemPlaces.set(index, (this.positions[cell] = { row, column }))
    this.keys[cell] = key
    this.indices[cell] = index
    this.rows[cell] = row
    this.eachPlace(cell, (place) => {
      this.endWrong(place, t)
      if (place.exposure?.key === key) this.toMove.push({ exposure: place.exposure, row, index })
    })
    const fact = facts.cells[cell] as CellFact
    fact.row ??= row
    if (this.boundCells.has(cell)) return
    this.boundCells.add(cell)
    const now = (this.boundNow.get(fact.kind) ?? 0) + 1
    this.boundNow.set(fact.kind, now)
    facts.boundPeaks.set(fact.kind, Math.max(now, facts.boundPeaks.get(fact.kind) ?? 0))
  }

  recycle(t: number, cell: number): void {
    if (this.boundCells.delete(cell)) {
      const { kind } = this.facts.cells[cell]!
      this.boundNow.set(kind, this.boundNow.get(kind)! - 1)
    }
    this.eachPlace(cell, (place) => {
      this.endWrong(place, t)
      place.claim = null
      // Whatever it still shows, it is not bound to anything.
      place.shownClaim = null
    })
  }

  claim(t: number, id: number, rendition: number, cell: number | null, slot: number, index: number | null): void {
    const position = cell === null ? undefined : this.positions[cell]
    const fact: ClaimFact = {
      id,
      rendition,
      scope: scopeFromLog(slot),
      cell,
      slot: slot < 0 ? null : slot,
      index,
      row: position?.row ?? null,
      column: position?.column ?? null,
      t,
      releaseT: null,
      why: '',
      request: null,
      tier: '',
      deliverT: null,
      failT: null,
    }
    const { claims } = this.facts
    claims[id] = fact
    if (this.ends.failedAssets.has(this.log.renditions[rendition]!.asset)) fact.failT = t
    if (cell === null) return
    const place = this.place(cell, slot)
    const former = place.claim
    place.claim = id
    const { asset } = this.log.renditions[rendition]!
    const ended = former === null ? null : claims[former]!
    const goesOn = ended !== null && replaced.has(ended.why)
    const isLarger = goesOn && ended.why === 'larger'
    const hasSmall = isLarger && ended.deliverT !== null
    place.smallClaim = hasSmall ? former : null
    if (goesOn) place.fallbackAsset = asset
    else {
      place.ownAsset = asset
      place.fallbackAsset = null
    }
    const { exposure } = place
    // Another address of the same item ends its exposure; a fallback, or the same address once more, does not.
    if (!exposure || exposure.key !== this.keys[cell] || !goesOn) return
    // It shows the small picture until the larger one is there.
    if (hasSmall && exposure.shownT !== null) return
    // A small picture that fails ends nothing: the larger one is still to come.
    if (isLarger) exposure.failT = fact.failT
    exposure.claim = id
    exposure.rendition = rendition
  }

  join(t: number, claim: number, request: number): void {
    const fact = this.facts.claims[claim]!
    fact.request = request
    this.facts.requests[request]!.claims.push(claim)
    if (this.watch.isParked(request)) fact.failT = t
  }

  /** Claims of a request have failed, for good or until the network returns. */
  failClaims(t: number, request: number): void {
    const { claims, requests } = this.facts
    for (const claim of requests[request]!.claims) {
      const fact = claims[claim]!
      if (fact.deliverT === null) fact.failT ??= t
      const exposure = this.placeOf(fact)?.exposure
      if (exposure && exposure.claim === claim && exposure.shownT === null) exposure.failT ??= t
    }
  }

  show(t: number, claim: number, rendition: number, cell: number, slot: number, transition: boolean): void {
    this.onScreen.pass(t)
    const place = this.place(cell, slot)
    const key = this.keys[cell]!
    const again = place.shownKey === key && place.shownClaim !== null
    if (again && transition && place.shownRendition === rendition) {
      this.facts.flickers.push(t)
      this.facts.keepBreaches.push(t)
    }
    // The larger one may be requested before the small one is presented.
    if (place.claim !== claim && place.smallClaim !== claim) {
      // Without the guard: a late picture of a former item. If it is another asset's, the log says so next.
      const { asset } = this.log.renditions[rendition]!
      this.cover(place, place.claim !== null && (asset === place.ownAsset || asset === place.fallbackAsset))
      return
    }
    this.endWrong(place, t)
    place.shownClaim = claim
    place.shownKey = key
    place.shownRendition = rendition
    this.cover(place, true)
    const { exposure } = place
    if (!exposure) return
    if (exposure.shownT !== null) {
      this.enlarge(exposure, t, claim, rendition)
      return
    }
    exposure.shownT = t
    exposure.claim = claim
    exposure.rendition = rendition
    this.ends.shown(exposure)
  }

  /** What comes after a small picture is judged instead of it; the small one has been seen. */
  private enlarge(exposure: ExposureFact, t: number, claim: number, rendition: number): void {
    const { claims, uses } = this.facts
    const { claim: small, rendition: smallRendition } = exposure
    if (small === null || smallRendition === null || small === claim || claims[small]!.why !== 'larger') return
    uses.push({ t, claim: small, rendition: smallRendition })
    exposure.claim = claim
    exposure.rendition = rendition
  }

  /** A picture of the same asset, or of the same item, positions in for the slot's own. */
  standIn(t: number, cell: number, slot: number): void {
    this.onScreen.pass(t)
    this.cover(this.place(cell, slot), true)
  }

  wrong(t: number, cell: number, rendition: number, slot: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell, slot)
    this.endWrong(place, t)
    this.facts.wrongs.push((place.wrong = { t, endT: t, cell, rendition }))
    place.shownClaim = null
    this.cover(place, false)
  }

  clear(t: number, cell: number, slot: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell, slot)
    this.endWrong(place, t)
    // An exposure that ends with this very frame was on screen until now.
    const wasSeen = place.exposure !== null || place.leftT === t
    const { claim, shownClaim, shownRendition } = place
    if (shownClaim !== null && place.shownKey === this.keys[cell] && wasSeen) {
      this.facts.flickers.push(t)
      if (claim !== null && this.assetOf(shownRendition) === this.assetOf(this.facts.claims[claim]!.rendition))
        this.facts.keepBreaches.push(t)
    }
    place.shownClaim = null
    place.shownKey = null
    place.shownRendition = null
    this.cover(place, false)
  }

  enter(t: number, cell: number, slot: number, key: number, geometry: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell, slot)
    const { claims } = this.facts
    const showsSmall = place.smallClaim !== null && place.shownClaim === place.smallClaim
    const number = showsSmall ? place.smallClaim : place.claim
    const claim = number === null ? null : claims[number]!
    const ready = claim !== null && place.shownClaim === claim.id
    const exposure: ExposureFact = {
      cell,
      slot,
      key,
      index: this.indices[cell]!,
      row: this.rows[cell]!,
      geometry,
      shownGeometry: null,
      largestPx: 0,
      enterT: t,
      leaveT: t,
      left: false,
      claim: claim?.id ?? null,
      rendition: claim?.rendition ?? null,
      shownT: ready ? t : null,
      failT: claim !== null && claim.failT !== null ? t : null,
      covered: claim !== null && place.covered,
      outcome: 'unseen',
      areaTime: 0,
      holeTime: 0,
    }
    if (ready) this.ends.shown(exposure)
    place.exposure = exposure
    this.facts.exposures.push(exposure)
    this.onScreen.add(exposure)
  }

  leave(t: number, cell: number, slot: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell, slot)
    if (place.exposure) {
      place.exposure.left = true
      this.ends.close(place.exposure, t)
    }
    place.exposure = null
    place.leftT = t
  }

  /** The frame of a slot on screen changes from now on. */
  slotFrame(t: number, cell: number, slot: number, geometry: number): void {
    this.onScreen.pass(t)
    const { exposure } = this.place(cell, slot)
    if (!exposure) return
    exposure.geometry = geometry
    if (exposure.shownGeometry !== null) exposure.largestPx = Math.max(exposure.largestPx, this.ends.pxOf(geometry))
  }

  /** The exposure of a claim; null: of no slot of the list. */
  private placeOf({ cell, slot }: ClaimFact): Place | null {
    return cell === null || slot === null ? null : this.place(cell, slot)
  }

  private place(cell: number, slot: number): Place {
    return (this.places[cell * slotRoom + slot] ??= newPlace())
  }

  private eachPlace(cell: number, act: (place: Place) => void): void {
    for (let slot = 0; slot < slotRoom; slot++) {
      const place = this.places[cell * slotRoom + slot]
      if (place) act(place)
    }
  }

  private cover(place: Place, covered: boolean): void {
    place.covered = covered
    if (place.exposure) place.exposure.covered = covered
  }

  private assetOf(rendition: number | null): number | null {
    return rendition === null ? null : this.log.renditions[rendition]!.asset
  }

  private endWrong(place: Place, t: number): void {
    if (place.wrong) place.wrong.endT = t
    place.wrong = null
  }
}
