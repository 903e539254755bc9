import { textAt } from '../core/feed/json-pointer.ts'
import type { Box, CellGeometry } from '../core/layout/cell-geometry.ts'
import { lineHeight } from '../core/layout/cell-geometry.ts'
import type { Cell, Item, Slot, StageName, Visual } from '../core/project/types.ts'
import { arrive, endArrival, type Arriving } from './arrival.ts'
import { drawPicture } from './draw-picture.ts'
import { lessMotion } from './less-motion.ts'
import type { Picture } from './live-decoder.ts'
import { showVisual } from './show-visual.ts'
import { whenRestored } from './when-restored.ts'

interface SlotView extends Arriving {
  settings: Slot
  frame: HTMLElement
  context: CanvasRenderingContext2D
  box: Box
  /** What the canvas shows. */
  drawn: Picture | null
  /** Whether it has a tooltip. */
  explained: boolean
  /** Its real stage, whatever is forced. */
  real: StageName
  /** Values written last: most cells of a list differ in nothing, and each write costs a style calculation. */
  written: Partial<
    Record<'stage' | 'corners' | 'colour' | 'inset' | 'fit' | 'placeholder' | 'picture' | 'unknown', string>
  >
}

/** Writes a value unless it is there already. */
function writeOnce(slot: SlotView, what: keyof SlotView['written'], value: string, write: (value: string) => void) {
  if (slot.written[what] === value) return
  slot.written[what] = value
  write(value)
}

/** The stages that have no picture. */
export type HoldingStage = Exclude<StageName, 'settled'>

/** What a stage may have of its own; settled has no visual. */
interface StageLook {
  visual?: Visual
  insetDp?: readonly number[]
  cornersDp?: readonly number[]
  colour?: string
  fit?: Slot['fit']
}

/** The closest CSS background size for each fit. */
function sizeWord(fit: Slot['fit']): string {
  return { cover: 'cover', contain: 'contain', fill: '100% 100%', none: 'auto', 'scale-down': 'contain' }[fit]
}

/**
 * One cell as DOM: its slots with placeholder and picture, its text lines. The live list and the stage cards draw with
 * this same code. Lengths in dp are CSS px here; the device scales the whole.
 */
export class CellView {
  readonly element = document.createElement('div')
  private readonly density: number
  private readonly slots: SlotView[]
  private readonly texts: HTMLElement[]
  private readonly cell: Cell
  private readonly assetUrl: (name: string) => string
  private readonly shown: () => number
  private readonly pace: () => number
  private forced: HoldingStage | null = null
  private item: Item = {}
  private geometry: CellGeometry | null = null

  /**
   * `shown`: px on the page for one px of the device, 1 where a cell is drawn at full size; `pace`: how fast arrivals
   * play.
   */
  constructor(
    cell: Cell,
    density: number,
    assetUrl: (name: string) => string,
    shown: () => number = () => 1,
    pace: () => number = () => 1,
  ) {
    this.pace = pace
    this.cell = cell
    this.shown = shown
    this.density = density
    this.assetUrl = assetUrl
    this.element.className = 'tt-cell'
    this.slots = cell.slots.map((settings, number) => this.makeSlot(settings, number))
    this.texts = cell.texts.map((line) => {
      const text = document.createElement('div')
      text.className = 'tt-text'
      text.dir = 'auto'
      text.style.fontSize = `${line.sizeDp}px`
      text.style.lineHeight = String(lineHeight)
      text.style.webkitLineClamp = String(line.lines)
      this.element.append(text)
      return text
    })
  }

  bind(item: Item, geometry: CellGeometry): void {
    this.item = item
    if (geometry !== this.geometry) this.arrange(geometry)
    for (const [i, line] of this.cell.texts.entries()) this.texts[i]!.textContent = textAt(item, line.at) ?? ''
  }

  stage(number: number, stage: StageName): void {
    const slot = this.slots[number]!
    slot.real = stage
    if (this.forced === null) this.showStage(slot, stage)
  }

  /** The tooltip of a slot; null: none. */
  explain(number: number, text: string | null): void {
    const slot = this.slots[number]!
    if (text === null && !slot.explained) return
    slot.explained = text !== null
    if (text !== null) slot.frame.dataset.explain = text
    else delete slot.frame.dataset.explain
  }

  /** Shows one stage in every slot, whatever the real ones; null: the real ones. */
  force(stage: HoldingStage | null): void {
    this.forced = stage
    for (const slot of this.slots) {
      endArrival(slot)
      const shows = stage === null && slot.real === 'settled'
      this.showPicture(slot, shows)
      if (!shows) {
        this.showStage(slot, stage ?? slot.real)
        continue
      }
      this.enter(slot, 'settled')
      this.showPlaceholder(slot, false)
    }
  }

  private showPicture(slot: SlotView, shows: boolean): void {
    writeOnce(slot, 'picture', shows ? 'visible' : 'hidden', (value) => (slot.canvas.style.visibility = value))
  }

  /** One that is not shown is not painted either; with no opacity it would be. */
  private showPlaceholder(slot: SlotView, shows: boolean): void {
    writeOnce(slot, 'placeholder', shows ? '' : 'hidden', (value) => (slot.placeholder.style.visibility = value))
  }

  private showStage(slot: SlotView, stage: StageName): void {
    const { visual } = this.enter(slot, stage)
    this.showPlaceholder(slot, true)
    if (visual) showVisual(slot.placeholder, this.item, this.assetUrl, visual)
  }

  /** Applies a stage's own corners, colour, inset and the fit of a placeholder picture to the slot. */
  private enter(slot: SlotView, stage: StageName): StageLook {
    const { settings, frame, placeholder } = slot
    const look = settings.stages[stage] as StageLook
    writeOnce(slot, 'stage', stage, (value) => frame.setAttribute('data-stage', value))
    const corners = this.cornersOf(settings, stage, look.cornersDp)
    writeOnce(slot, 'corners', corners, (value) => (frame.style.borderRadius = value))
    writeOnce(slot, 'colour', look.colour ?? '', (value) => (frame.style.backgroundColor = value))
    if (stage !== 'settled') {
      const inset = look.insetDp?.map((dp, side) => `${dp - settings.insetDp[side]!}px`).join(' ') ?? ''
      writeOnce(slot, 'inset', inset, (value) => (placeholder.style.inset = value))
    }
    const fit = sizeWord(look.fit ?? settings.fit)
    writeOnce(slot, 'fit', fit, (value) => placeholder.style.setProperty('--fit', value))
    return look
  }

  private cornersOf(settings: Slot, stage: StageName, own: readonly number[] | undefined): string {
    if (stage === 'settled' && settings.shapeAt === 'decode') return '0'
    if (settings.circle) return '50%'
    return (own ?? settings.cornersDp).map((corner) => `${corner}px`).join(' ')
  }

  arriving(number: number, received: number, total: number | null): void {
    const slot = this.slots[number]!
    slot.real = 'arriving'
    if (this.forced !== null) return
    if (slot.written.stage !== 'arriving') this.stage(number, 'arriving')
    const unknown = total === null || total === 0
    writeOnce(slot, 'unknown', unknown ? 'yes' : 'no', (value) => (slot.placeholder.dataset.unknown = value))
    slot.placeholder.style.setProperty('--share', unknown ? '0.25' : String(received / total))
  }

  picture(number: number, picture: Picture, transition: boolean): void {
    const slot = this.slots[number]!
    const { settings } = slot
    this.redraw(number, picture)
    this.explain(number, null)
    slot.real = 'settled'
    if (this.forced !== null) return
    this.showPicture(slot, true)
    this.enter(slot, 'settled')
    endArrival(slot)
    const { type, skip } = settings.transition
    const still = skip.includes('reduced-motion') && lessMotion().matches
    if (!transition || type === 'none' || still) {
      this.showPlaceholder(slot, false)
      return
    }
    arrive(slot, settings.transition, this.pace(), () => this.showPlaceholder(slot, false))
  }

  /** Stops an arrival at so many ms after it began. */
  hold(number: number, ms: number): void {
    const { arrival, placeholder } = this.slots[number]!
    for (const each of [arrival, ...placeholder.getAnimations()]) {
      each?.pause()
      if (each) each.currentTime = ms
    }
  }

  /** Draws a slot's picture again: the page shows the device at another size. */
  redraw(number: number, picture: Picture): void {
    const slot = this.slots[number]!
    const { settings, context, box } = slot
    slot.drawn = picture
    const px = (dp: number) => Math.max(1, Math.round(dp * this.density))
    drawPicture(
      context,
      picture,
      settings,
      { width: px(box.width), height: px(box.height) },
      this.density,
      this.shown(),
    )
  }

  /** The slot goes back to having no picture. */
  clear(number: number): void {
    const slot = this.slots[number]!
    endArrival(slot)
    slot.drawn = null
    this.showPicture(slot, false)
  }

  private makeSlot(settings: Slot, number: number): SlotView {
    const frame = document.createElement('div')
    const placeholder = document.createElement('div')
    const canvas = document.createElement('canvas')
    frame.className = 'tt-slot'
    frame.dataset.slot = settings.id
    placeholder.className = 'tt-placeholder'
    canvas.className = 'tt-picture'
    canvas.style.visibility = 'hidden'
    frame.style.overflow = settings.clip ? 'hidden' : 'visible'
    if (!settings.clip) frame.style.contain = 'layout size style'
    if (settings.shadowDp > 0)
      frame.style.boxShadow = `0 ${settings.shadowDp / 2}px ${settings.shadowDp}px rgb(21 37 47 / 25%)`
    frame.append(placeholder, canvas)
    this.element.append(frame)
    whenRestored(canvas, () => this.restore(number))
    return {
      settings,
      frame,
      placeholder,
      canvas,
      context: canvas.getContext('2d')!,
      box: { x: 0, y: 0, width: 0, height: 0 },
      drawn: null,
      arrival: null,
      leaving: null,
      explained: false,
      real: 'waiting',
      written: { picture: 'hidden' },
    }
  }

  /** Draws what a slot's canvas has lost. */
  private restore(number: number): void {
    const slot = this.slots[number]!
    if (!slot.drawn) return
    // A picture that was closed meanwhile has no width.
    if (slot.drawn.width > 0) {
      this.redraw(number, slot.drawn)
      return
    }
    this.clear(number)
    this.showPlaceholder(slot, true)
  }

  private arrange(geometry: CellGeometry): void {
    this.geometry = geometry
    for (const [i, slot] of this.slots.entries()) {
      slot.box = geometry.slots[i]!
      setBox(slot.frame, slot.box)
    }
    for (const [i, text] of this.texts.entries()) {
      const box = geometry.texts[i]
      text.hidden = !box
      if (box) setBox(text, box)
    }
  }
}

function setBox(element: HTMLElement, box: Box): void {
  element.style.left = `${box.x}px`
  element.style.top = `${box.y}px`
  element.style.width = `${box.width}px`
  element.style.height = `${box.height}px`
}
