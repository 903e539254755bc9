import { FeedList } from '../feed/feed-list.ts'
import { ListLayout } from '../layout/list-layout.ts'
import { K } from '../log/event-kinds.ts'
import type { RunLog } from '../log/run-log.ts'
import type { AssetTable } from '../loading/asset-table.ts'
import { Loader } from '../loading/loader.ts'
import type { Claim, Tier } from '../loading/request.ts'
import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { Device, Item, Project, Screen, StageName, Step } from '../project/types.ts'
import { Recycler } from '../recycling/recycler.ts'
import type { Motion, ScrollBounds } from '../scrolling/script-player.ts'
import type { Us, World } from '../worlds/ports.ts'
import { editFeed } from './feed-edits.ts'
import { GeometryTable } from './geometry-table.ts'
import { heapBytes } from './heap-account.ts'
import { newCell, type ListCell } from './list-cell.ts'
import { LookAhead } from './look-ahead.ts'
import { hasShape, Pictures, type SlotPicture } from './pictures.ts'
import { Visuals } from './visuals.ts'

/** After the last step, what still runs gets so long to end. */
const drainUs = 10_000_000
/** Garbage that making and binding a cell leaves behind, bytes: an estimate. */
const createGarbage = 24_000
const bindGarbage = 2_000
/** "While flicking", for transitions that are skipped then. */
const flickingDpPerS = 1000
const priorities = { high: 0, normal: 1, low: 2 } as const

export interface ListRunParts {
  project: Project
  screen: Screen
  world: World
  log: RunLog
  table: AssetTable
  seed: number
  epochMs: number
  /** What moves the list; made late, because it needs to know the list's bounds. */
  motion: (bounds: ScrollBounds, act: (step: Step) => void, requestFrame: () => void) => Motion
  /** The network goes or returns by a step of the script. */
  setOffline: (offline: boolean) => void
}

/**
 * One screen's list, driven: the same code in both worlds. On each frame, in this order: script and input, feed
 * edits, release and bind, pictures that were decoded before, enter and leave, ranks. What a frame shows is
 * logged at the instant it is presented, everything else when it happens.
 */
export class ListRun {
  readonly loader: Loader
  readonly feed: FeedList
  layout: ListLayout
  ended: string | null = null
  top = 0
  private readonly parts: ListRunParts
  private readonly device: Device
  private readonly world: World
  private readonly log: RunLog
  private readonly recycler: Recycler<ListCell>
  private readonly pictures: Pictures
  private readonly ahead: LookAhead
  private readonly motion: Motion
  private readonly visuals: Visuals
  private readonly geometries: GeometryTable
  private height: number
  private width: number
  private speed = 0
  /** How far what is on screen was moved along with the list since the last scroll, 1/1024 dp. */
  private corrected = 0
  private direction: 1 | -1 = 1
  /** Claims that failed in slots with fallbacks. */
  private readonly toReplace: Claim[] = []
  private toSet: { claim: Claim; tier: Tier }[] = []
  /** Claims of recycled cells that are kept while their row is in the zone. */
  private zoneClaims: Claim[] = []
  private readonly placedRows = new Map<number, number>()
  private movingTransitions: Us[] = []
  private pendingSettles = 0
  private page = 0
  private pageState: 'idle' | 'asked' | 'failed' | 'complete' = 'idle'
  private pendingEdits: Extract<Step, { do: 'edit' }>[] = []
  private dirty = true
  private hidden = false
  private setupDue: number
  private forceCollect = false
  private awaitingPresent = 0
  private drainedSince: Us = -1
  private lastMemory = -1

  constructor(parts: ListRunParts) {
    const { project, screen, world, log, table } = parts
    this.parts = parts
    this.device = project.device
    this.world = world
    this.log = log
    this.height = toUnits(project.device.heightDp)
    this.width = project.device.widthDp
    this.feed = new FeedList(screen.feed)
    this.layout = this.makeLayout()
    this.geometries = new GeometryTable(log, project.device.density)
    this.visuals = new Visuals(log)
    this.pictures = new Pictures(screen, this.feed, this.layout, table, project)
    this.setupDue = project.loading.setup === 'app-start' || project.loading.setup === 'per-screen' ? 1 : 0
    this.recycler = new Recycler(screen.layout.heldCells, (id, kind) => this.makeCell(id, kind), (cell) => this.unbind(cell))
    this.loader = new Loader({
      world, log, policy: project.loading, granted: project.device.granted, seed: parts.seed, table, epochMs: parts.epochMs,
      owner: {
        delivered: (claim, tier) => this.delivered(claim, tier),
        failed: (claim) => this.failed(claim),
        arriving: (claim, bytes, total) => this.arriving(claim, bytes, total),
        waiting: (claim) => this.showStage(claim, 'waiting'),
        needFrame: () => world.frames.request(),
      },
    })
    this.ahead = new LookAhead(project.loading.ahead, (index, row) => this.claimAhead(index, row), (claim) => this.loader.release(claim, 'ahead'))
    const bounds: ScrollBounds = {
      max: () => Math.max(0, this.layout.total - this.height),
      topOfRow: (row) => this.layout.topOf(Math.min(row, Math.max(0, this.layout.rowCount - 1))),
      growing: () => this.pageState === 'idle' || this.pageState === 'asked',
    }
    this.motion = parts.motion(bounds, (step) => this.act(step), () => world.frames.request())
    world.frames.onFrame((begin) => this.frame(begin))
  }

  start(): void {
    for (const span of this.parts.project.network.offline) {
      this.world.clock.at(span.fromMs * 1000, () => this.networkGone())
      this.world.clock.at(span.toMs * 1000, () => this.networkBack())
    }
    this.logMemory()
    this.askPage()
    this.world.frames.request()
  }

  /** Asks for one more frame: a hand has moved, a setting has changed. */
  wake(): void {
    this.dirty = true
    this.world.frames.request()
  }

  /** Ends the run when all is done; says whether it is over. */
  checkEnd(): boolean {
    if (this.ended !== null) return true
    if (!this.motion.ended) return false
    const now = this.world.clock.now()
    if (this.drainedSince < 0) {
      this.drainedSince = now
      this.world.clock.at(now + drainUs, () => this.end('drained'))
    }
    const quiet = !this.loader.busy && this.toSet.length === 0 && this.awaitingPresent === 0 && this.pendingSettles === 0 && this.pageState !== 'asked'
    if (quiet && !this.dirty) this.end('done')
    return this.ended !== null
  }

  end(why: string): void {
    if (this.ended !== null) return
    this.ended = why
    this.loader.noteOpen()
    this.logMemory()
    this.log.write(K.end, this.world.clock.now(), this.log.text(why))
  }

  /** The item at the feed index that a cell shows; for those who draw. */
  itemAt(index: number): Item {
    return this.feed.item(index)
  }

  get attachedCells(): ReadonlyMap<number, ListCell> {
    return this.recycler.attached
  }

  private frame(begin: Us): void {
    if (this.ended !== null) return
    const { frames } = this.world
    const scroll = this.motion.advance(begin)
    const edited = this.applyEdits()
    const top = edited ? this.motion.advance(begin).top : scroll.top
    const moved = top !== this.top
    const speedChanged = (scroll.speed === 0) !== (this.speed === 0)
    this.speed = scroll.speed
    if (this.motion.moving) frames.request()
    const busy = moved || this.dirty || edited || this.toSet.length > 0 || this.movingTransitions.length > 0 || speedChanged || this.forceCollect || this.setupDue > 0
    const decoded = this.decodeOnMain()
    if (!busy && !decoded && this.toSet.length === 0) return
    this.dirty = false
    frames.work('frame', 1, 0)
    if (moved || this.corrected !== 0) {
      if (moved) this.direction = top > this.top ? 1 : -1
      this.scrollTo(top)
    }
    this.askFallbacks()
    if (!this.hidden) this.followWindow()
    this.setPictures()
    if (!this.hidden) this.updateVisibility(begin)
    this.followAhead()
    this.doSetup()
    this.releaseZone()
    this.loader.rerank({ centre: this.top + this.height / 2, direction: this.direction, centreOfRow: (row) => this.layout.topOf(row) + this.layout.heightOf(row) / 2 }, this.speed)
    this.drawCosts(begin)
    this.collectGarbage(begin)
    this.world.surface.scroll(this.top, this.layout.total)
    const present = this.visuals.take(begin)
    this.awaitingPresent++
    frames.end(
      () => this.afterWork(),
      (due, presented, work) => {
        this.awaitingPresent--
        present(due, presented, work)
      },
    )
    if (this.movingTransitions.length > 0) frames.request()
    this.maybeAskPage()
  }

  private scrollTo(top: number): void {
    this.top = top
    const atBound = top <= 0 || top >= this.layout.total - this.height
    this.visuals.add(K.scroll, Math.round(this.speed), this.corrected, atBound ? 1 : 0, 0, top)
    this.corrected = 0
  }

  private afterWork(): void {
    if (this.ended !== null) return
    this.loader.settle()
    this.logMemory()
  }

  /** Does one step at once, as if the script had come to it. */
  play(step: Step): void {
    this.act(step)
    this.world.frames.request()
  }

  /** Asks for the page that failed once more. */
  askPageAgain(): void {
    if (this.pageState === 'failed') this.askPage()
  }

  private act(step: Step): void {
    const { policy } = { policy: this.parts.project.loading.cancel }
    const told = (state: string) => this.log.write(K.scope, this.world.clock.now(), this.log.text(this.parts.screen.id), this.log.text(state))
    this.dirty = true
    switch (step.do) {
      case 'edit':
        this.pendingEdits.push(step)
        return
      case 'offline':
        this.networkGone()
        return
      case 'online':
        this.networkBack()
        return
      case 'pressure':
        this.recycler.dropHeld()
        this.loader.relieve()
        return
      case 'collect':
        this.forceCollect = true
        return
      case 'rotate':
        this.rotate()
        return
      case 'background':
        told('paused')
        this.hide(policy.whenPaused, 'paused', false)
        return
      case 'leave':
      case 'open':
        told('left')
        this.hide(policy.whenLeft, 'left', true)
        return
      case 'foreground':
      case 'return':
      case 'back':
        told('active')
        if (this.parts.project.loading.setup === 'per-screen' && step.do !== 'foreground') this.setupDue++
        this.hidden = false
        this.loader.resume()
        this.askAgain()
        return
      default:
        return
    }
  }

  private networkGone(): void {
    this.loader.networkLost()
    this.parts.setOffline(true)
  }

  private networkBack(): void {
    this.parts.setOffline(false)
    this.loader.networkReturned()
    if (this.pageState === 'failed') this.askPage()
    this.wake()
  }

  private hide(how: 'carry-on' | 'finish-running' | 'let-go', why: string, detach: boolean): void {
    this.hidden = true
    for (const cell of this.recycler.attached.values()) this.leaveScreen(cell, this.world.clock.now())
    this.loader.suspend(how, why)
    if (how !== 'let-go' && !detach) return
    this.ahead.clear()
    if (detach) for (const cell of [...this.recycler.attached.values()]) this.detach(cell, false)
  }

  /** Claims that lost their request while the screen was away are made anew, memory first. */
  private askAgain(): void {
    for (const cell of this.recycler.attached.values())
      for (const [number, slot] of cell.slots.entries()) {
        if (slot.claim?.state !== 'open' || slot.claim.request?.state !== 'cancelled') continue
        this.loader.release(slot.claim, 'again')
        const picture = this.pictures.of(cell.index)[number]
        if (picture) slot.claim = this.claimFor(cell, number, picture, slot.onScreen)
      }
  }

  private rotate(): void {
    const anchor = this.layout.rowAt(this.top)
    const index = anchor < 0 ? -1 : this.layout.itemAt(anchor, 0)
    const width = this.height / unitsPerDp
    this.height = toUnits(this.width)
    this.width = width
    for (const cell of [...this.recycler.attached.values()]) this.detach(cell, false)
    this.recycler.dropHeld()
    this.layout = this.makeLayout()
    this.pictures.forget(this.layout)
    this.placedRows.clear()
    if (index >= 0) this.correct(this.layout.topOf(Math.floor(index / this.layout.columns)) - this.top)
  }

  private applyEdits(): boolean {
    const edits = this.pendingEdits.splice(0)
    if (edits.length === 0) return false
    const { log, world } = this
    const before = this.placesOnScreen()
    const cells = [...this.recycler.attached.values()]
    this.recycler.attached.clear()
    const moved = new Set<string>()
    for (const edit of edits) {
      if (edit.op === 'move')
        for (let i = edit.at; i < Math.min(this.feed.count, edit.at + edit.count); i++) moved.add(this.feed.key(i))
      editFeed(this.feed, edit)
    }
    this.layout.rebuild()
    this.pictures.forget(this.layout)
    this.ahead.clear()
    this.recycler.dropHeld()
    this.placedRows.clear()
    const found = this.locate(cells)
    const anchor = before.find(({ cell, key }) => found.has(key) && this.layout.kindOf(found.get(key)!) === cell.kind && !moved.has(log.strings[key]!))
    for (const edit of edits)
      log.write(K.edit, world.clock.now(), log.text(edit.op), edit.at, edit.count, edit.to, anchor?.cell.id ?? -1)
    this.rebindByKey(cells, found)
    if (anchor) {
      // What will be bound above it takes its frames now, so that the correction holds for them too.
      const { row } = anchor.cell
      for (let above = Math.max(0, this.layout.rowAt(this.layout.topOf(row) - anchor.offset)); above < row; above++)
        for (let column = 0; column < this.layout.columns; column++) {
          const index = this.layout.itemAt(above, column)
          if (index >= 0 && !this.recycler.attached.has(index) && this.layout.isFramed(this.layout.kindOf(index))) this.expect(index, above)
        }
      this.correct(this.layout.topOf(row) - anchor.offset - this.top)
    }
    this.dirty = true
    return true
  }

  /** Moves the list along with what has moved above the window, so that the screen stays. */
  private correct(units: number): void {
    this.motion.shift(units)
    this.corrected += units
  }

  /** The cells on screen from the top, and where they stand: what an edit elsewhere must not move. */
  private placesOnScreen(): { cell: ListCell; key: number; offset: number }[] {
    return [...this.recycler.attached.values()]
      .filter((cell) => this.layout.topOf(cell.row) + this.layout.heightOf(cell.row) > this.top)
      .sort((a, b) => a.index - b.index)
      .map((cell) => ({ cell, key: cell.key, offset: this.layout.topOf(cell.row) - this.top }))
  }

  /** Where the items that cells show are now, by key number. */
  private locate(cells: readonly ListCell[]): Map<number, number> {
    const wanted = new Map(cells.map((cell) => [this.log.strings[cell.key]!, cell.key]))
    const found = new Map<number, number>()
    for (let index = 0; index < this.feed.count && found.size < wanted.size; index++) {
      const key = wanted.get(this.feed.key(index))
      if (key !== undefined) found.set(key, index)
    }
    return found
  }

  private rebindByKey(cells: readonly ListCell[], found: ReadonlyMap<number, number>): void {
    for (const cell of cells) {
      const index = found.get(cell.key)
      if (index === undefined || this.layout.kindOf(index) !== cell.kind) {
        this.leaveScreen(cell, this.world.clock.now())
        this.recycler.detach(cell, false)
        continue
      }
      cell.index = index
      cell.row = Math.floor(index / this.layout.columns)
      cell.column = index % this.layout.columns
      this.recycler.attached.set(index, cell)
      this.bind(cell)
    }
  }

  private askPage(): void {
    this.pageState = 'asked'
    const { log, world } = this
    world.pages.ask(this.page + 1, (reply, reason) => {
      if (this.ended !== null) return
      if (reply === null) {
        this.pageState = 'failed'
        log.write(K.page, world.clock.now(), this.page + 1, log.text(reason), 0)
        return
      }
      this.page++
      log.write(K.page, world.clock.now(), this.page, log.text('ok'), reply.items.length)
      this.feed.append(reply.items)
      this.pageState = reply.more ? 'idle' : 'complete'
      if (!reply.more) this.feed.complete()
      this.layout.grow()
      this.wake()
    })
  }

  private maybeAskPage(): void {
    if (this.pageState !== 'idle') return
    const last = this.layout.rowAt(this.top + this.height)
    if (last + this.parts.screen.feed.pageAheadRows >= this.layout.rowCount - 1) this.askPage()
  }

  private followWindow(): void {
    const { layout } = this
    const { beforeDp, afterDp } = this.parts.screen.layout
    const first = layout.rowAt(this.top - toUnits(beforeDp))
    const last = first < 0 ? -2 : layout.rowAt(this.top + this.height + toUnits(afterDp) - 1)
    for (const cell of [...this.recycler.attached.values()])
      if (cell.row < first || cell.row > last) this.detach(cell, true)
    if (this.direction > 0) for (let row = Math.max(0, first); row <= last; row++) this.attachRow(row)
    else for (let row = last; row >= Math.max(0, first); row--) this.attachRow(row)
  }

  private attachRow(row: number): void {
    const top = this.layout.topOf(row)
    const height = this.layout.heightOf(row)
    if (this.placedRows.get(row) !== top) {
      this.placedRows.set(row, top)
      this.visuals.add(K.place, row, height, 0, 0, top)
    }
    for (let column = 0; column < this.layout.columns; column++) {
      const index = this.layout.itemAt(row, column)
      if (index < 0) continue
      let cell = this.recycler.attached.get(index)
      if (!cell) cell = this.attach(index, row, column)
      if (cell.top !== top) this.placeCell(cell, top, height)
    }
  }

  private attach(index: number, row: number, column: number): ListCell {
    const { cell, from } = this.recycler.attach(index, this.layout.kindOf(index), row, column)
    if (from === 'held') {
      this.placeCell(cell, this.layout.topOf(row), this.layout.heightOf(row))
      for (const slot of cell.slots) if (slot.claim) slot.claim.held = false
      this.log.write(K.hold, this.world.clock.now(), cell.id)
    } else this.bind(cell)
    return cell
  }

  private placeCell(cell: ListCell, top: number, height: number): void {
    cell.top = top
    this.world.surface.place(cell.id, this.layout.leftOf(cell.column), this.layout.cellWidthDp, top, height)
  }

  private detach(cell: ListCell, mayHold: boolean): void {
    this.leaveScreen(cell, this.world.clock.now())
    this.placedRows.delete(cell.row)
    if (this.recycler.detach(cell, mayHold) === 'held') for (const slot of cell.slots) if (slot.claim) slot.claim.held = true
  }

  private makeCell(id: number, kind: number): ListCell {
    this.log.write(K.create, this.world.clock.now(), id, kind)
    this.world.heap.churn(createGarbage)
    this.world.surface.create(id, kind)
    this.world.frames.work('create', 1, 0)
    return newCell(id, kind, this.parts.screen.cells[kind]!.slots.length)
  }

  /** Binds a cell to the item at its index: texts, then one claim a slot. */
  private bind(cell: ListCell): void {
    const { log, world, layout, parts } = this
    const now = world.clock.now()
    const key = log.text(this.feed.key(cell.index))
    const again = cell.key === key
    cell.key = key
    cell.top = -1
    log.write(K.bind, now, cell.id, key, cell.index, cell.row)
    world.surface.bind(cell.id, cell.index)
    world.heap.churn(bindGarbage)
    if (parts.project.loading.setup === 'per-bind') this.setupDue++
    if (layout.isFramed(cell.kind)) this.expectStages(cell)
    const { slots } = layout.geometry(cell.index)
    const left = layout.leftOf(cell.column)
    const top = layout.topOf(cell.row)
    for (const [number, picture] of this.pictures.of(cell.index).entries()) {
      const slot = cell.slots[number]!
      const settings = parts.screen.cells[cell.kind]!.slots[number]!
      slot.box = slots[number]!
      slot.geometry = this.geometries.number(left, slot.box, settings.fit)
      const asset = picture?.asset ?? -1
      if (again && slot.claim && slot.asset === asset) continue
      if (slot.claim) this.loader.release(slot.claim, 'rebind')
      slot.claim = null
      slot.asset = asset
      slot.fallbacks = 0
      this.resetSlot(cell, number, picture?.rendition ?? -1)
      if (!picture) world.surface.stage(cell.id, number, 'absent')
      else slot.claim = this.claimFor(cell, number, picture, this.seenOf(slot, top) > 0)
    }
    world.frames.work('bind', 1, 0)
  }

  private claimFor(cell: ListCell, number: number, picture: SlotPicture, onScreen: boolean): Claim {
    const priority = priorities[this.parts.screen.cells[cell.kind]!.slots[number]!.priority]
    if (cell.slots[number]!.shows < 0) this.world.surface.stage(cell.id, number, 'waiting')
    if (this.parts.project.loading.setup === 'first-use' && this.setupDue === 0) this.setupDue = -1
    return this.loader.claim(
      { rendition: picture.rendition, cell: cell.id, slot: number, index: cell.index, row: cell.row, priority, refused: picture.refused },
      onScreen,
    )
  }

  /** With the reset, a slot goes back to waiting when it is bound; without it, it keeps what it showed. */
  private resetSlot(cell: ListCell, number: number, rendition: number): void {
    const slot = cell.slots[number]!
    if (slot.shows < 0) return
    if (this.parts.project.loading.resetOnBind) {
      if (slot.shows === rendition && this.loader.memory.has(rendition)) return
      this.world.surface.clear(cell.id, number)
      this.visuals.add(K.clear, cell.id, number)
      slot.shows = -1
    } else if (this.parts.table.assetOf(slot.shows) !== slot.asset) this.visuals.add(K.wrong, cell.id, slot.shows, number)
  }

  private unbind(cell: ListCell): void {
    const { cancel } = this.parts.project.loading
    this.log.write(K.recycle, this.world.clock.now(), cell.id)
    this.world.surface.recycle(cell.id)
    for (const slot of cell.slots) {
      const { claim } = slot
      slot.claim = null
      if (!claim) continue
      claim.held = false
      if (cancel.when === 'zone' && claim.state === 'open') this.zoneClaims.push(claim)
      else this.loader.release(claim, 'recycle')
    }
    cell.key = -1
  }

  private releaseZone(): void {
    if (this.zoneClaims.length === 0) return
    const rows = this.parts.project.loading.cancel.zoneRows
    const first = this.layout.rowAt(this.top) - rows
    const last = this.layout.rowAt(this.top + this.height) + rows
    this.zoneClaims = this.zoneClaims.filter((claim) => {
      const stays = claim.state === 'open' && claim.row >= first && claim.row <= last
      if (!stays) this.loader.release(claim, 'zone')
      return stays
    })
  }

  private claimAhead(index: number, row: number): Claim[] {
    const cell = this.parts.screen.cells[this.layout.kindOf(index)]!
    return this.pictures.of(index).flatMap((picture, slot) =>
      picture && picture.refused === null
        ? [this.loader.claim({ rendition: picture.rendition, cell: -1, slot, index, row, priority: priorities[cell.slots[slot]!.priority], refused: null }, false)]
        : [])
  }

  private followAhead(): void {
    if (this.hidden || this.layout.rowCount === 0) return
    const { attached } = this.recycler
    let firstRow = Infinity
    let lastRow = -1
    for (const cell of attached.values()) {
      firstRow = Math.min(firstRow, cell.row)
      lastRow = Math.max(lastRow, cell.row)
    }
    if (lastRow < 0) return
    const window = { firstRow, lastRow, top: this.top, height: this.height, direction: this.direction }
    this.ahead.follow(this.layout, window, (index) => attached.has(index))
  }

  private delivered(claim: Claim, tier: Tier): void {
    if (claim.cell >= 0) this.toSet.push({ claim, tier })
    this.world.frames.request()
  }

  /** Sets what was decoded before this frame, and what memory had for the cells bound in it. */
  private setPictures(): void {
    const waiting = this.toSet.splice(0)
    for (const { claim, tier } of waiting) {
      const cell = this.recycler.cells[claim.cell]!
      const slot = cell.slots[claim.slot]!
      const stale = slot.claim !== claim
      if (stale && (this.parts.project.loading.guard || cell.state === 'pooled')) continue
      this.setPicture(cell, claim, tier, stale)
    }
  }

  private setPicture(cell: ListCell, claim: Claim, tier: Tier, stale: boolean): void {
    const { world, visuals, parts } = this
    const slot = cell.slots[claim.slot]!
    const row = parts.table.renditions[claim.rendition]!
    if (slot.shows === claim.rendition && !stale) {
      visuals.add(K.show, claim.id, claim.rendition, cell.id, claim.slot, 0)
      return
    }
    const settings = parts.screen.cells[cell.kind]!.slots[claim.slot]!
    const { type, skip, ms, on } = settings.transition
    const skipped = (skip.includes('memory') && tier === 'memory') || (skip.includes('flicking') && Math.abs(this.speed) > flickingDpPerS)
    const runs = type !== 'none' && ms > 0 && !skipped
    slot.shows = claim.rendition
    world.surface.picture(cell.id, claim.slot, claim.rendition, runs)
    world.frames.work('upload', 1, row.width * row.height)
    visuals.add(K.show, claim.id, claim.rendition, cell.id, claim.slot, runs ? 1 : 0)
    if (stale && parts.table.assetOf(claim.rendition) !== slot.asset) visuals.add(K.wrong, cell.id, claim.rendition, claim.slot)
    if (!stale) {
      const before = this.layout.topOf(cell.row)
      const moved = this.layout.learnRatio(cell.index, claim.slot, cell.row, row.width / row.height)
      this.rowChanged(cell, before, moved + this.layout.learnStage(cell.index, claim.slot, cell.row, 'settled'))
    }
    if (runs && on === 'main') this.movingTransitions.push(world.clock.now() + ms * 1000)
    this.settleLater(cell, claim, runs ? ms * 1000 : 0)
  }

  private settleLater(cell: ListCell, claim: Claim, us: Us): void {
    this.pendingSettles++
    const { clock } = this.world
    clock.at(clock.now() + Math.round(us), () => {
      this.pendingSettles--
      if (this.ended === null && cell.slots[claim.slot]!.claim === claim) this.log.write(K.settle, clock.now(), claim.id)
    })
  }

  private makeLayout(): ListLayout {
    const layout = new ListLayout(this.parts.screen, this.width, this.feed)
    layout.beginsWith = (index, slot) => this.beginsWith(index, slot)
    return layout
  }

  /** Before a cell is shown, its frames are those of the stages it will begin with: that moves nothing on screen. */
  private expectStages(cell: ListCell): void {
    const before = this.layout.topOf(cell.row)
    const moved = this.expect(cell.index, cell.row)
    if (moved === 0) return
    this.dirty = true
    this.world.frames.request()
    if (before < this.top) this.correct(moved)
  }

  /** Gives an item's slots the frames that they will begin with: by how much its row has grown, 1/1024 dp. */
  private expect(index: number, row: number): number {
    let moved = 0
    for (const number of this.pictures.of(index).keys()) moved += this.layout.learnStage(index, number, row, this.beginsWith(index, number))
    return moved
  }

  private beginsWith(index: number, slot: number): StageName {
    const picture = this.pictures.of(index)[slot]
    if (!picture) return 'absent'
    if (this.loader.memory.has(picture.rendition)) return 'settled'
    return picture.refused !== null || this.loader.isKnownToFail(picture.asset) ? 'failed' : 'waiting'
  }

  /** A slot of a bound cell is in another stage, whose frame may differ. */
  private stageChanged(cell: ListCell, slot: number, stage: StageName): void {
    if (!this.layout.isFramed(cell.kind) || cell.state !== 'attached') return
    const before = this.layout.topOf(cell.row)
    this.rowChanged(cell, before, this.layout.learnStage(cell.index, slot, cell.row, stage))
  }

  /** A row that stood at `before` has grown by `moved`, 1/1024 dp: what is below it on screen jumps. */
  private rowChanged(cell: ListCell, before: number, moved: number): void {
    if (moved === 0) return
    this.dirty = true
    this.world.frames.request()
    const { slots } = this.layout.geometry(cell.index)
    const left = this.layout.leftOf(cell.column)
    for (const [number, slot] of cell.slots.entries()) {
      slot.box = slots[number]!
      slot.geometry = this.geometries.number(left, slot.box, this.parts.screen.cells[cell.kind]!.slots[number]!.fit)
    }
    this.world.surface.arrange(cell.id, cell.index)
    this.placeCell(cell, before, this.layout.heightOf(cell.row))
    if (before + this.layout.heightOf(cell.row) - moved <= this.top) {
      this.correct(moved)
      return
    }
    this.world.frames.work('layout', 1, 0)
    this.visuals.add(K.jump, cell.row, 0, 0, 0, moved)
  }

  /** A picture cannot be had: its failed visual is shown, and the next of its fallbacks is asked for in the next frame. */
  private failed(claim: Claim): void {
    this.showStage(claim, 'failed')
    if (claim.cell < 0) return
    const cell = this.recycler.cells[claim.cell]!
    if (this.parts.screen.cells[cell.kind]!.slots[claim.slot]!.stages.failed.fallbacks.length === 0) return
    this.toReplace.push(claim)
    this.wake()
  }

  private askFallbacks(): void {
    for (const claim of this.toReplace.splice(0)) {
      const cell = this.recycler.cells[claim.cell]!
      const slot = cell.slots[claim.slot]!
      // What waits for the network keeps its own address.
      if (slot.claim !== claim || claim.state !== 'failed' || cell.state !== 'attached' || claim.request?.parked) continue
      const picture = this.pictures.fallback(cell.index, claim.slot, slot.fallbacks++)
      if (!picture) continue
      this.loader.release(claim, 'fallback')
      slot.asset = picture.asset
      slot.claim = this.claimFor(cell, claim.slot, picture, slot.onScreen)
    }
  }

  private showStage(claim: Claim, stage: 'waiting' | 'failed'): void {
    if (claim.cell < 0) return
    const cell = this.recycler.cells[claim.cell]
    const slot = cell?.slots[claim.slot]
    if (!cell || !slot || (slot.claim !== claim && slot.claim !== null)) return
    this.stageChanged(cell, claim.slot, stage)
    this.world.surface.stage(cell.id, claim.slot, stage)
  }

  private arriving(claim: Claim, bytes: number, total: number | null): void {
    const cell = this.recycler.cells[claim.cell]
    if (!cell || cell.slots[claim.slot]!.claim !== claim) return
    this.stageChanged(cell, claim.slot, 'arriving')
    this.world.surface.arriving(claim.cell, claim.slot, bytes, total)
  }

  /** The visible part of a slot, dp². */
  private seenOf(slot: { box: { x: number; y: number; width: number; height: number } }, rowTop: number): number {
    const { y, width, height } = slot.box
    const from = Math.max(this.top, rowTop + toUnits(y))
    const to = Math.min(this.top + this.height, rowTop + toUnits(y + height))
    return to > from ? ((to - from) / unitsPerDp) * width : 0
  }

  private updateVisibility(now: Us): void {
    for (const cell of this.recycler.attached.values()) {
      const top = this.layout.topOf(cell.row)
      for (const [number, slot] of cell.slots.entries()) {
        const area = this.seenOf(slot, top)
        const onScreen = area > 0
        if (onScreen !== slot.onScreen) this.crossEdge(cell, number, onScreen, area, now)
        if (slot.claim) {
          slot.claim.onScreen = onScreen
          slot.claim.row = cell.row
        }
      }
    }
  }

  private crossEdge(cell: ListCell, number: number, onScreen: boolean, area: number, now: Us): void {
    const slot = cell.slots[number]!
    slot.onScreen = onScreen
    this.visuals.add(onScreen ? K.enter : K.leave, cell.id, number, cell.key, slot.geometry, Math.round(area))
    if (!onScreen && slot.claim) slot.claim.leftAt = now
  }

  private leaveScreen(cell: ListCell, now: Us): void {
    for (const [number, slot] of cell.slots.entries()) {
      if (slot.onScreen) this.crossEdge(cell, number, false, 0, now)
      if (slot.claim) slot.claim.onScreen = false
    }
  }

  private decodeOnMain(): boolean {
    let any = false
    this.loader.decodeOnMain((us) => {
      any = true
      this.world.frames.spent('decode', us)
    })
    return any
  }

  private doSetup(): void {
    const times = Math.abs(this.setupDue)
    if (times > 0 && this.setupDue !== -2) this.world.frames.work('setup', times, 0)
    this.setupDue = this.setupDue < 0 ? -2 : 0
  }

  /** What each frame draws by the main thread: masks of pictures on screen, transitions not on the compositor. */
  private drawCosts(now: Us): void {
    const { frames } = this.world
    this.movingTransitions = this.movingTransitions.filter((end) => end > now)
    if (this.movingTransitions.length > 0) frames.work('transition', this.movingTransitions.length, 0)
    let masks = 0
    for (const cell of this.recycler.attached.values())
      for (const [number, slot] of cell.slots.entries()) {
        if (!slot.onScreen || slot.shows < 0) continue
        const settings = this.parts.screen.cells[cell.kind]!.slots[number]!
        if (settings.shapeAt === 'draw' && hasShape(settings)) masks++
      }
    if (masks > 0) frames.work('mask', masks, 0)
  }

  private collectGarbage(now: Us): void {
    const asked = this.forceCollect
    this.forceCollect = false
    const collection = this.world.heap.collect(asked)
    if (!collection) return
    this.log.write(K.collect, now, collection.us, Math.min(collection.freed, 2_147_483_647), asked ? 1 : 0)
    this.world.frames.spent('collect', collection.us)
  }

  private logMemory(): void {
    const bytes = heapBytes(this.loader, this.world.heap.garbage())
    if (bytes.resident === this.lastMemory) return
    this.lastMemory = bytes.resident
    const kB = (value: number) => Math.round(value / 1000)
    this.log.write(K.memory, this.world.clock.now(), kB(bytes.resident), kB(bytes.bound), kB(bytes.garbage), 0, bytes.tier)
    if (bytes.resident > this.device.heapMb * 1e6) this.end('heap')
  }
}
