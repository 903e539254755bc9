import type { CellGeometry } from '../core/layout/cell-geometry.ts'
import { unitsPerDp } from '../core/numbers/units.ts'
import type { Item, Project, Screen } from '../core/project/types.ts'
import type { Surface } from '../core/worlds/ports.ts'
import { assetUrls } from './asset-urls.ts'
import { CellView, type HoldingStage } from './cell-view.ts'
import { lessMotion } from './less-motion.ts'
import type { LiveDecoder, Picture } from './live-decoder.ts'

/** Browsers cannot lay out elements beyond some 16 million px: cells are placed around a base that moves along. */
const rebaseDp = 1_000_000
/** How far a cell moves up into its place when it enters. */
const riseDp = 16

interface CellSource {
  item(index: number): Item
  geometry(index: number): CellGeometry
  /** Why a slot's picture has failed; null: it has not. */
  whyFailed?(cell: number, slot: number): string | null
}

type Stage = 'absent' | 'waiting' | 'failed'

interface Placed {
  /** The number of the cell. */
  cell: number
  view: CellView
  left: number
  top: number
  /** Those that are written, in the units of `place`; null: none yet. */
  width: number | null
  height: number | null
  visible: boolean
  /** The rendition in each slot; undefined: none. */
  shows: (number | undefined)[]
  /** The stage of each slot from the end of the frame on, unless it has its picture by then; undefined: no change. */
  stages: (Stage | undefined)[]
  /** It has been recycled and is still to be hidden, unless it is bound before the frame is over. */
  leaves: boolean
}

/** Real cells, moved by transforms; imperative, no framework in the frame. */
export class LiveSurface implements Surface {
  private readonly host: HTMLElement
  private isShown = false
  private readonly list = document.createElement('div')
  private readonly cells: Placed[] = []
  private readonly screen: Screen
  private readonly density: number
  private readonly pictures: ReadonlyMap<number, Picture>
  private readonly frames: ReadonlyMap<number, readonly Picture[]>
  private readonly assetUrl: (name: string) => string
  private readonly shown: () => number
  private readonly pace: () => number
  private forced: HoldingStage | null = null
  private source: CellSource | null = null
  private base = 0
  /** Changes to these become visible at the end of the frame. */
  private readonly untidy = new Set<Placed>()

  constructor(
    host: HTMLElement,
    project: Project,
    screen: Screen,
    { pictures, frames }: Pick<LiveDecoder, 'pictures' | 'frames'>,
    { shown, pace, stays }: { shown: () => number; pace: () => number; stays: boolean },
  ) {
    this.host = host
    this.shown = shown
    this.pace = pace
    this.screen = screen
    this.density = project.device.density
    this.pictures = pictures
    this.frames = frames
    this.assetUrl = assetUrls(project.assets)
    this.list.className = 'tt-list'
    if (!stays) this.show()
  }

  /** Replaces what the host has shown until now. */
  show(): void {
    if (this.isShown) return
    this.isShown = true
    this.host.replaceChildren(this.list)
  }

  /** Lookup of items and geometries; available once the run is made. */
  attach(source: CellSource): void {
    this.source = source
  }

  create(cell: number, kind: number): void {
    const view = new CellView(this.screen.cells[kind]!, this.density, this.assetUrl, this.shown, this.pace)
    view.element.dataset.cell = String(cell)
    this.cells[cell] = {
      cell,
      view,
      left: 0,
      top: 0,
      width: null,
      height: null,
      visible: false,
      shows: [],
      stages: [],
      leaves: false,
    }
    if (this.forced !== null) view.force(this.forced)
    this.list.append(view.element)
  }

  bind(cell: number, index: number): void {
    const placed = this.cells[cell]!
    const { view } = placed
    const comesIn = placed.leaves || !placed.visible
    view.element.setAttribute('data-index', String(index))
    placed.leaves = false
    if (!placed.visible) {
      placed.visible = true
      view.element.style.visibility = 'visible'
    }
    if (comesIn) this.enter(view.element)
    view.bind(this.source!.item(index), this.source!.geometry(index))
  }

  recycle(cell: number): void {
    const placed = this.cells[cell]!
    if (placed.leaves) return
    placed.leaves = true
    this.tidyLater(placed)
  }

  /** At the end of the frame, or of any other task of the page. */
  private tidyLater(placed: Placed): void {
    if (this.untidy.size === 0) queueMicrotask(() => this.tidy())
    this.untidy.add(placed)
  }

  /**
   * Hides what was recycled or cleared in this frame and not used again in it. Most cells are bound again, and most
   * slots have their next picture, and stay as they are.
   */
  tidy(): void {
    for (const placed of this.untidy) {
      if (placed.leaves) hide(placed)
      const { view, shows, stages } = placed
      for (const [slot, rendition] of shows.entries()) if (rendition === undefined) view.clear(slot)
      for (const slot of stages.keys()) this.enterStage(placed, slot)
    }
    this.untidy.clear()
    if (!this.isShown && this.cells.some((placed) => placed?.visible)) this.show()
  }

  /** Applies a slot's pending stage, if there is one. */
  private enterStage({ cell, view, stages }: Placed, slot: number): void {
    const stage = stages[slot]
    if (stage === undefined) return
    stages[slot] = undefined
    view.stage(slot, stage)
    view.explain(slot, stage === 'failed' ? (this.source?.whyFailed?.(cell, slot) ?? null) : null)
  }

  place(cell: number, left: number, width: number, top: number, height: number): void {
    const placed = this.cells[cell]!
    placed.left = left
    placed.top = top / unitsPerDp
    // Most rows have the height of the one before.
    const { style } = placed.view.element
    if (placed.width !== width) style.width = `${width}px`
    if (placed.height !== height) style.height = `${height / unitsPerDp}px`
    placed.width = width
    placed.height = height
    this.move(placed)
  }

  arrange(cell: number, index: number): void {
    const { view, shows } = this.cells[cell]!
    view.bind(this.source!.item(index), this.source!.geometry(index))
    shows.forEach((rendition, slot) => {
      const picture = rendition === undefined ? undefined : this.pictures.get(rendition)
      if (picture) view.redraw(slot, picture)
    })
  }

  stage(cell: number, slot: number, stage: Stage): void {
    const placed = this.cells[cell]!
    placed.stages[slot] = stage
    this.tidyLater(placed)
  }

  arriving(cell: number, slot: number, received: number, total: number | null): void {
    const placed = this.cells[cell]!
    this.enterStage(placed, slot)
    placed.view.arriving(slot, received, total)
  }

  picture(cell: number, slot: number, rendition: number, transition: boolean): void {
    const picture = this.pictures.get(rendition)
    if (!picture) throw new Error(`rendition ${rendition} is to be shown, but nobody keeps its picture`)
    const placed = this.cells[cell]!
    // Most pictures are in memory: their cells never look as if they waited, but for what a transition begins with.
    if (transition) this.enterStage(placed, slot)
    else placed.stages[slot] = undefined
    placed.view.picture(slot, picture, transition)
    placed.shows[slot] = rendition
  }

  frame(cell: number, slot: number, rendition: number, frame: number): void {
    const picture = this.frames.get(rendition)?.[frame]
    if (picture) this.cells[cell]!.view.redraw(slot, picture)
  }

  clear(cell: number, slot: number): void {
    const placed = this.cells[cell]!
    placed.shows[slot] = undefined
    this.tidyLater(placed)
  }

  scroll(top: number): void {
    const dp = top / unitsPerDp
    if (Math.abs(dp - this.base) > rebaseDp) {
      this.base = dp
      for (const placed of this.cells) if (placed) this.move(placed)
    }
    this.list.style.transform = `translate3d(0, ${this.base - dp}px, 0)`
  }

  /** Shows one stage in every cell, whatever the real ones; null: the real ones. */
  force(stage: HoldingStage | null): void {
    this.tidy()
    this.forced = stage
    for (const placed of this.cells) placed?.view.force(stage)
  }

  /** The page shows the device at another size: what is still kept is drawn again. */
  redraw(): void {
    for (const { view, shows } of this.cells)
      shows.forEach((rendition, slot) => {
        const picture = rendition === undefined ? undefined : this.pictures.get(rendition)
        if (picture) view.redraw(slot, picture)
      })
  }

  /** The list's entrance animation, for a cell that comes in; none with reduced motion. */
  private enter(element: HTMLElement): void {
    const { entrance } = this.screen.layout
    // A list that replaces the same one with other looks has no entrance.
    if (!this.isShown || entrance.type === 'none' || entrance.ms === 0 || lessMotion().matches) return
    const from: Keyframe = entrance.type === 'rise' ? { opacity: 0, translate: `0 ${riseDp}px` } : { opacity: 0 }
    element.animate([from, { opacity: 1, translate: '0 0' }], {
      duration: entrance.ms,
      easing: 'ease-out',
    }).playbackRate = this.pace()
  }

  private move({ view, left, top }: Placed): void {
    view.element.style.transform = `translate(${left}px, ${top - this.base}px)`
  }
}

function hide(placed: Placed): void {
  placed.leaves = false
  placed.visible = false
  const { element } = placed.view
  element.style.visibility = 'hidden'
  delete element.dataset.index
}
