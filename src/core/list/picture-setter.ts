import { isOfCell, type CellClaim, type Claim, type Tier } from '../loading/request.ts'
import type { Us } from '../worlds/ports.ts'
import type { ListCell } from './list-cell.ts'
import type { ListCells } from './list-cells.ts'
import type { ListState } from './list-state.ts'
import type { StageFrames } from './stage-frames.ts'
import { whenPresented } from './visuals.ts'

/** "While flicking", for transitions that are skipped then. */
const flickingDpPerS = 1000

/** Sets in cells what the loader delivers: stages, pictures, fallbacks. */
export class PictureSetter {
  private readonly list: ListState
  private readonly stages: StageFrames
  private readonly cells: ListCells
  private readonly toSet: { claim: CellClaim; tier: Tier }[] = []
  /** Claims that failed in slots with fallbacks. */
  private readonly toReplace: CellClaim[] = []
  /** Claims of small pictures that are shown, or have failed. */
  private readonly toEnlarge: CellClaim[] = []
  private pendingSettles = 0
  /** When transitions that run on the main thread end. */
  movingTransitions: Us[] = []

  constructor(list: ListState, stages: StageFrames, cells: ListCells) {
    this.list = list
    this.stages = stages
    this.cells = cells
  }

  /** Whether pictures wait for a frame. */
  get waiting(): boolean {
    return this.toSet.length > 0
  }

  /** Whether transitions are still running. */
  get settling(): boolean {
    return this.pendingSettles > 0
  }

  delivered(claim: Claim, tier: Tier): void {
    if (isOfCell(claim)) this.toSet.push({ claim, tier })
    this.list.world.frames.request()
  }

  /** Sets what was decoded before this frame, and what memory had for the cells bound in it. */
  setPictures(): void {
    if (this.toSet.length === 0) return
    const waiting = this.toSet.splice(0)
    for (const { claim, tier } of waiting) {
      const cell = this.list.recycler.cells[claim.cell]!
      const slot = cell.slots[claim.slot]!
      const stale = slot.claim !== claim
      if (stale && (this.list.parts.project.loading.guard || cell.state === 'pooled')) continue
      this.setPicture(cell, claim, tier, stale)
    }
  }

  private setPicture(cell: ListCell, claim: CellClaim, tier: Tier, stale: boolean): void {
    const { world, visuals, parts } = this.list
    const slot = cell.slots[claim.slot]!
    const row = parts.table.renditions[claim.rendition]!
    if (!stale) this.enlargeLater(claim)
    if (slot.shows === claim.rendition && !stale) {
      visuals.events.show(whenPresented, {
        claim: claim.id,
        rendition: claim.rendition,
        cell: cell.id,
        slot: claim.slot,
        transition: false,
      })
      return
    }
    const settings = parts.screen.cells[cell.kind]!.slots[claim.slot]!
    const { type, skip, ms, on } = settings.transition
    const skipped =
      (skip.includes('memory') && tier === 'memory') ||
      (skip.includes('flicking') && Math.abs(this.list.speed) > flickingDpPerS)
    const runs = type !== 'none' && ms > 0 && !skipped
    slot.shows = claim.rendition
    world.surface.picture(cell.id, claim.slot, claim.rendition, runs)
    world.frames.work('upload', 1, row.width * row.height)
    visuals.events.show(whenPresented, {
      claim: claim.id,
      rendition: claim.rendition,
      cell: cell.id,
      slot: claim.slot,
      transition: runs,
    })
    const asset = parts.table.assetOf(claim.rendition)
    if (stale && asset !== slot.asset && asset !== slot.small)
      visuals.events.wrong(whenPresented, { cell: cell.id, rendition: claim.rendition, slot: claim.slot })
    if (!stale) {
      const before = this.list.layout.topOf(cell.row)
      const moved = this.list.layout.learnRatio(cell.index, claim.slot, cell.row, row.width / row.height)
      this.stages.rowChanged(
        cell,
        before,
        moved + this.list.layout.learnStage(cell.index, claim.slot, cell.row, 'settled'),
      )
    }
    if (runs && on === 'main') this.movingTransitions.push(world.clock.now() + ms * 1000)
    this.settleLater(cell, claim, runs ? ms * 1000 : 0)
  }

  private enlargeLater(claim: CellClaim): void {
    if (!this.list.recycler.cells[claim.cell]!.slots[claim.slot]!.larger) return
    this.toEnlarge.push(claim)
    this.list.wake()
  }

  private settleLater(cell: ListCell, claim: CellClaim, us: Us): void {
    this.pendingSettles++
    const { clock } = this.list.world
    clock.at(clock.now() + Math.round(us), () => {
      this.pendingSettles--
      if (this.list.ended === null && cell.slots[claim.slot]!.claim === claim)
        this.list.log.events.settle(clock.now(), { claim: claim.id })
    })
  }

  showStage(claim: Claim, stage: 'waiting' | 'failed'): void {
    if (!isOfCell(claim)) return
    const cell = this.list.recycler.cells[claim.cell]
    const slot = cell?.slots[claim.slot]
    if (!cell || !slot || (slot.claim !== claim && slot.claim !== null)) return
    if (stage === 'failed') this.endStandIn(cell, claim)
    this.stages.stageChanged(cell, claim.slot, stage)
    this.list.world.surface.stage(cell.id, claim.slot, stage)
  }

  /** A stand-in for a picture that cannot be loaded makes room for the failed visual. */
  private endStandIn(cell: ListCell, claim: CellClaim): void {
    const slot = cell.slots[claim.slot]!
    if (
      slot.shows === null ||
      slot.shows === claim.rendition ||
      this.list.parts.table.assetOf(slot.shows) !== claim.asset
    )
      return
    this.list.world.surface.clear(cell.id, claim.slot)
    // Delivered with the next frame: its stand-in may have to be presented first.
    this.list.visuals.events.clear(whenPresented, { cell: cell.id, slot: claim.slot })
    this.list.wake()
    slot.shows = null
  }

  /**
   * A picture cannot be loaded: its failed visual is shown, and the next of its fallbacks is requested in the next
   * frame. Where a small one is shown before it, that one stays; where the small one fails, the one after it is
   * requested.
   */
  failed(claim: Claim): void {
    const cell = isOfCell(claim) ? this.list.recycler.cells[claim.cell]! : null
    const slot = isOfCell(claim) ? cell!.slots[claim.slot]! : null
    if (isOfCell(claim) && slot!.larger && !claim.request?.parked) {
      this.enlargeLater(claim)
      return
    }
    if (slot && slot.shows !== null && this.list.parts.table.assetOf(slot.shows) === slot.small) return
    this.showStage(claim, 'failed')
    if (!isOfCell(claim) || !cell) return
    if (this.list.parts.screen.cells[cell.kind]!.slots[claim.slot]!.stages.failed.fallbacks.length === 0) return
    this.toReplace.push(claim)
    this.list.wake()
  }

  /** Requests what comes after the pictures that were shown or have failed. */
  askNext(): void {
    if (this.toEnlarge.length === 0 && this.toReplace.length === 0) return
    for (const claim of this.toEnlarge.splice(0)) {
      const cell = this.list.recycler.cells[claim.cell]!
      const slot = cell.slots[claim.slot]!
      if (slot.claim === claim && slot.larger && cell.state === 'attached') this.cells.askLarger(cell, claim.slot)
    }
    for (const claim of this.toReplace.splice(0)) {
      const cell = this.list.recycler.cells[claim.cell]!
      const slot = cell.slots[claim.slot]!
      // What waits for the network keeps its own address.
      if (slot.claim !== claim || claim.state !== 'failed' || cell.state !== 'attached' || claim.request?.parked)
        continue
      const picture = this.list.pictures.fallback(cell.index, claim.slot, slot.fallbacks++)
      if (!picture) continue
      this.list.loader.release(claim, 'fallback')
      slot.asset = picture.asset
      slot.claim = this.cells.claimFor(cell, claim.slot, picture, slot.onScreen)
    }
  }

  arriving(claim: Claim, bytes: number, total: number | null): void {
    if (!isOfCell(claim)) return
    const cell = this.list.recycler.cells[claim.cell]
    if (!cell || cell.slots[claim.slot]!.claim !== claim) return
    this.stages.stageChanged(cell, claim.slot, 'arriving')
    this.list.world.surface.arriving(claim.cell, claim.slot, bytes, total)
  }
}
