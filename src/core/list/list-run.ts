import { FeedList } from '../feed/feed-list.ts'
import { ListLayout } from '../layout/list-layout.ts'
import type { Mover } from '../log/event-kinds.ts'
import { Loader } from '../loading/loader.ts'
import type { Viewpoint } from '../loading/rank.ts'
import type { Claim } from '../loading/request.ts'
import type { Item, Step } from '../project/types.ts'
import { Recycler } from './recycler.ts'
import type { ListPlace, ScrollBounds } from '../scrolling/script-player.ts'
import type { Us } from '../worlds/ports.ts'
import { Animations } from './animations.ts'
import { claimAhead, followAhead } from './claims-ahead.ts'
import { FeedPages } from './feed-pages.ts'
import { FrameCosts } from './frame-costs.ts'
import { GeometryTable } from './geometry-table.ts'
import type { ListCell } from './list-cell.ts'
import { ListCells } from './list-cells.ts'
import { ListEdits } from './list-edits.ts'
import { ListState, type ListRunParts } from './list-state.ts'
import { LookAhead } from './look-ahead.ts'
import { OpenedScreens } from './opened-screens.ts'
import { OutsideLoads, type OutsideUpdate } from './outside-loads.ts'
import { PictureSetter } from './picture-setter.ts'
import { Pictures } from './pictures.ts'
import { ScriptSteps } from './script-steps.ts'
import { ScreenEdge } from './screen-edge.ts'
import { StageFrames } from './stage-frames.ts'
import { whenPresented, Visuals } from './visuals.ts'

/** After the last step, whatever is still under way has this long to end. */
const drainUs = 10_000_000
/** A correction brings in rows that may need one themselves; the rest waits for the next frame. */
const mostCorrections = 3

/**
 * One screen's list, driven: the same code in both worlds. On each frame, in this order: script and input, feed
 * edits, release and bind, pictures that were decoded before, enter and leave, ranks. What a frame shows is
 * logged at the instant it is presented, everything else when it happens.
 */
export class ListRun {
  private readonly list: ListState
  /** Position and motion of the list, for the ranks of requests; the same object in each frame. */
  private readonly view: Viewpoint
  private readonly edge: ScreenEdge
  private readonly cells: ListCells
  private readonly setter: PictureSetter
  private readonly costs: FrameCosts
  private readonly edits: ListEdits
  private readonly pages: FeedPages
  private readonly outside: OutsideLoads
  private readonly opened: OpenedScreens
  private readonly steps: ScriptSteps
  private readonly animations: Animations
  private awaitingPresent = 0
  private drainedSince: Us | null = null

  constructor(parts: ListRunParts) {
    const { project, screen, world, log, table } = parts
    const feed = new FeedList(screen.feed)
    // What they call back is made below; nothing is called before the run starts.
    const layoutOf = (widthDp: number) =>
      new ListLayout(screen, widthDp, feed, (index, slot) => stages.beginsWith(index, slot))
    const layout = layoutOf(project.device.widthDp)
    const loader = new Loader({
      world,
      log,
      policy: project.loading,
      granted: project.device.granted,
      seed: parts.seed,
      table,
      epochMs: parts.epochMs,
      owner: {
        delivered: (claim, tier) => ownerOf(claim).delivered(claim, tier),
        failed: (claim, reason) => ownerOf(claim).failed(claim, reason),
        arriving: (claim, bytes, total) => ownerOf(claim).arriving(claim, bytes, total),
        waiting: (claim) => setter.showStage(claim, 'waiting'),
        needFrame: () => world.frames.request(),
      },
    })
    const bounds: ScrollBounds = {
      max: () => Math.max(0, list.layout.total - list.height),
      topOfRow: (row) => list.layout.topOf(Math.min(row, Math.max(0, list.layout.rowCount - 1))),
      topOf: (place) => list.topOf(place),
      growing: () => pages.pageState === 'idle' || pages.pageState === 'asked',
    }
    const list = new ListState(parts, {
      visuals: new Visuals(log),
      geometries: new GeometryTable(log, project.device.density),
      feed,
      layout,
      pictures: new Pictures(screen, feed, layout, table, project),
      recycler: new Recycler(
        screen.layout.heldCells,
        (id, kind, place) => cells.makeCell(id, kind, place),
        (cell) => cells.unbind(cell),
      ),
      loader,
      ahead: new LookAhead(
        project.loading.ahead,
        (index, row) => claimAhead(list, index, row),
        (claim, why) => loader.release(claim, why),
      ),
      motion: parts.motion(
        bounds,
        (step) => this.steps.act(step),
        () => world.frames.request(),
      ),
    })
    const stages = new StageFrames(list, (cell, top, height) => cells.placeCell(cell, top, height))
    const edge = new ScreenEdge(list)
    const cells = new ListCells(list, stages, edge)
    const setter = new PictureSetter(list, stages, cells)
    const costs = new FrameCosts(list, setter, edge, (why) => this.end(why))
    const edits = new ListEdits(list, stages, cells, edge)
    const pages = new FeedPages(list)
    const outside = new OutsideLoads(list)
    const opened = new OpenedScreens(list)
    const ownerOf = ({ scope }: Claim) => ({ list: setter, opened, app: outside })[scope]
    this.list = list
    this.view = {
      centre: 0,
      direction: 1,
      centreOfRow: (row) => list.layout.topOf(row) + list.layout.heightOf(row) / 2,
    }
    this.edge = edge
    this.cells = cells
    this.setter = setter
    this.costs = costs
    this.edits = edits
    this.pages = pages
    this.outside = outside
    this.opened = opened
    this.animations = new Animations(list)
    this.steps = new ScriptSteps(list, { cells, edge, edits, costs, pages, outside, opened, layoutOf })
    world.frames.onFrame((begin) => this.frame(begin))
  }

  get layout(): ListLayout {
    return this.list.layout
  }

  get loader(): Loader {
    return this.list.loader
  }

  get feed(): FeedList {
    return this.list.feed
  }

  get top(): number {
    return this.list.top
  }

  get ended(): string | null {
    return this.list.ended
  }

  /** Position of the list; null: it has no rows. */
  get place(): ListPlace | null {
    return this.list.place
  }

  start(): void {
    const { list } = this
    for (const [number, span] of list.parts.project.network.offline.entries()) {
      list.world.clock.at(Math.round(span.fromMs * 1000), () => this.steps.networkGone(number))
      list.world.clock.at(Math.round(span.toMs * 1000), () => this.steps.networkBack(number))
    }
    this.costs.logMemory()
    this.pages.askPage()
    list.world.frames.request()
  }

  /** Ends the run when all is done; returns whether it is over. */
  checkEnd(): boolean {
    const { list } = this
    if (list.ended !== null) return true
    if (!list.motion.ended) return false
    const now = list.world.clock.now()
    if (this.drainedSince === null) {
      this.drainedSince = now
      list.world.clock.at(now + drainUs, () => this.end('drained'))
    }
    const quiet =
      !list.loader.busy &&
      !this.setter.waiting &&
      this.awaitingPresent === 0 &&
      !this.setter.settling &&
      this.pages.pageState !== 'asked'
    if (quiet && !list.dirty) this.end('done')
    return list.ended !== null
  }

  end(why: string): void {
    const { list } = this
    if (list.ended !== null) return
    list.ended = why
    this.outside.interrupt()
    list.loader.noteOpen()
    this.costs.logMemory()
    list.log.events.end(list.world.clock.now(), { why })
  }

  /** The item at the feed index that a cell shows, for the surface. */
  itemAt(index: number): Item {
    return this.list.feed.item(index)
  }

  get attachedCells(): ReadonlyMap<number, ListCell> {
    return this.list.recycler.attached
  }

  /** Does one step at once, as if the script had reached it; a run that is over stays as it is. */
  play(step: Step): void {
    if (this.list.ended !== null) return
    this.steps.act(step)
    this.list.world.frames.request()
  }

  /** Loads a picture for another use than the list. */
  loadOutside(address: string, px: number, report: (update: OutsideUpdate) => void): void {
    this.outside.load(address, px, report)
    this.wake()
  }

  /** Requests failed pictures again, of one cell or of all that are attached; returns how many. */
  retryFailed(only: number | null): number {
    let asked = 0
    for (const cell of this.list.recycler.attached.values())
      if (only === null || cell.id === only) asked += this.cells.retryFailed(cell)
    if (asked > 0) this.wake()
    return asked
  }

  /** The real network is back after requests have failed without it; a script's outage goes on. */
  networkReturned(): void {
    if (this.list.ended !== null || this.list.loader.offline) return
    this.list.loader.networkReturned()
    if (this.pages.pageState === 'failed') this.pages.askPage()
    this.wake()
  }

  /** Requests one more frame: a hand has moved, a setting has changed. */
  wake(): void {
    this.list.wake()
  }

  /** Requests the failed page again. */
  askPageAgain(): void {
    this.pages.askPageAgain()
  }

  private frame(begin: Us): void {
    const { list } = this
    if (list.ended !== null) return
    const { frames } = list.world
    const scroll = list.motion.advance(begin)
    const edited = this.edits.applyEdits()
    const top = edited ? list.motion.advance(begin).top : scroll.top
    const moved = top !== list.top
    const speedChanged = (scroll.speed === 0) !== (list.speed === 0)
    list.speed = scroll.speed
    if (list.motion.moving) frames.request()
    const busy =
      moved ||
      list.dirty ||
      edited ||
      this.setter.waiting ||
      this.setter.movingTransitions.length > 0 ||
      speedChanged ||
      this.costs.forceCollect ||
      list.setupsDue > 0 ||
      this.opened.waiting ||
      this.animations.due(begin)
    const decoded = this.costs.decodeOnMain()
    if (!busy && !decoded && !this.setter.waiting) return
    list.dirty = false
    frames.work('frame', 1, 0)
    if (moved) {
      list.direction = top > list.top ? 1 : -1
      list.hasMoved = true
    }
    list.corrections += list.corrected
    list.corrected = 0
    const scrolled = moved || list.corrections !== 0
    list.top = top
    this.setter.askNext()
    if (!list.hidden) this.followWindow(begin)
    if (scrolled || list.corrections !== 0) this.logScroll(scroll.by)
    this.setter.setPictures()
    if (!list.hidden) this.edge.updateVisibility(begin)
    this.opened.show()
    this.animations.advance(begin)
    followAhead(list)
    this.opened.lookAhead()
    this.costs.doSetup()
    this.cells.releaseZone()
    // A first screen is read from its top.
    this.view.centre = list.hasMoved ? list.top + list.height / 2 : list.top
    this.view.direction = list.direction
    list.loader.rerank(this.view, list.speed)
    this.costs.drawCosts(begin)
    this.costs.collectGarbage(begin)
    list.world.surface.scroll(list.top, list.layout.total)
    const present = list.visuals.take(begin)
    this.awaitingPresent++
    frames.end(this.afterWork, (due, presented, work) => {
      this.awaitingPresent--
      present(due, presented, work)
    })
    if (this.setter.movingTransitions.length > 0) frames.request()
    this.pages.maybeAskPage()
  }

  /**
   * Attaches rows that have come in. Those that got their frames above the window have moved the list along: this very
   * frame shows it so.
   */
  private followWindow(begin: Us): void {
    const { list, cells } = this
    cells.followWindow()
    for (let again = 0; again < mostCorrections && list.corrected !== 0; again++) {
      list.corrections += list.corrected
      list.corrected = 0
      list.top = list.motion.advance(begin).top
      // The script may have come to its next step here, and that may be to leave: a list that is hidden binds nothing.
      if (list.hidden) return
      cells.followWindow()
    }
  }

  private logScroll(by: Mover): void {
    const { list } = this
    const atBound = list.top <= 0 || list.top >= list.layout.total - list.height
    list.visuals.events.scroll(whenPresented, {
      top: list.top,
      speed: Math.round(list.speed),
      corrected: list.corrections,
      atBound,
      by,
    })
    list.corrections = 0
  }

  /** When a frame's work has ended. */
  private readonly afterWork = (): void => {
    if (this.list.ended !== null) return
    this.list.loader.settle()
    this.costs.logMemory()
  }
}
