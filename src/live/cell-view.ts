import { textAt, valueAt } from '../core/feed/json-pointer.ts'
import type { Box, CellGeometry } from '../core/layout/cell-geometry.ts'
import { lineHeight } from '../core/layout/cell-geometry.ts'
import type { Cell, Item, Slot, StageName, Visual } from '../core/project/types.ts'
import { drawPicture } from './draw-picture.ts'
import type { Picture } from './live-decoder.ts'

interface SlotView {
  settings: Slot
  frame: HTMLElement
  placeholder: HTMLElement
  canvas: HTMLCanvasElement
  box: Box
  arrival: Animation | null
}

const easings = { linear: 'linear', 'ease-in': 'ease-in', 'ease-out': 'ease-out', 'ease-in-out': 'ease-in-out' } as const

/**
 * One cell as DOM: its slots with placeholder and picture, its text lines. The live list and the stage strip
 * draw with this same code. Lengths in dp are CSS px here; the device scales the whole.
 */
export class CellView {
  readonly element = document.createElement('div')
  private readonly density: number
  private readonly slots: SlotView[]
  private readonly texts: HTMLElement[]
  private readonly cell: Cell
  private readonly assetUrl: (name: string) => string
  private readonly shown: () => number
  private item: Item = {}
  private geometry: CellGeometry | null = null

  /** `shown`: px on the page for one px of the device, 1 where a cell is drawn to the px. */
  constructor(cell: Cell, density: number, assetUrl: (name: string) => string, shown: () => number = () => 1) {
    this.cell = cell
    this.shown = shown
    this.density = density
    this.assetUrl = assetUrl
    this.element.className = 'tt-cell'
    this.slots = cell.slots.map((settings) => this.makeSlot(settings))
    this.texts = cell.texts.map((line) => {
      const text = document.createElement('div')
      text.className = 'tt-text'
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
    const look = slot.settings.stages[stage] as { visual?: Visual }
    slot.frame.dataset.stage = stage
    slot.placeholder.style.opacity = '1'
    if (look.visual) this.showVisual(slot, look.visual)
  }

  arriving(number: number, received: number, total: number | null): void {
    const slot = this.slots[number]!
    if (slot.frame.dataset.stage !== 'arriving') this.stage(number, 'arriving')
    slot.placeholder.style.setProperty('--share', total === null || total === 0 ? '0.25' : String(received / total))
  }

  picture(number: number, picture: Picture, transition: boolean): void {
    const slot = this.slots[number]!
    const { settings, canvas } = slot
    this.redraw(number, picture)
    canvas.style.visibility = 'visible'
    slot.frame.dataset.stage = 'settled'
    slot.arrival?.cancel()
    slot.arrival = null
    const { type, ms, fromScale, easing, beneath } = settings.transition
    if (!transition || type === 'none') {
      slot.placeholder.style.opacity = '0'
      return
    }
    const from: Keyframe = type === 'fade-grow' ? { opacity: 0, transform: `scale(${fromScale})` } : { opacity: 0 }
    slot.arrival = canvas.animate([from, { opacity: 1, transform: 'none' }], { duration: ms, easing: easings[easing], fill: 'backwards' })
    if (beneath === 'goes') slot.placeholder.style.opacity = '0'
    else {
      const leaving = beneath === 'fades' ? slot.placeholder.animate([{ opacity: 1 }, { opacity: 0 }], { duration: ms, fill: 'forwards' }) : null
      slot.arrival.onfinish = () => {
        slot.placeholder.style.opacity = '0'
        leaving?.cancel()
      }
    }
  }

  /** Draws a slot's picture again as it stands: the page shows the device at another size. */
  redraw(number: number, picture: Picture): void {
    const { settings, canvas, box } = this.slots[number]!
    const px = (dp: number) => Math.max(1, Math.round(dp * this.density))
    drawPicture(canvas, picture, settings, { width: px(box.width), height: px(box.height) }, this.density, this.shown())
  }

  /** The slot goes back to having no picture. */
  clear(number: number): void {
    const slot = this.slots[number]!
    slot.arrival?.cancel()
    slot.arrival = null
    slot.canvas.style.visibility = 'hidden'
  }

  private makeSlot(settings: Slot): SlotView {
    const frame = document.createElement('div')
    const placeholder = document.createElement('div')
    const canvas = document.createElement('canvas')
    frame.className = 'tt-slot'
    frame.dataset.slot = settings.id
    placeholder.className = 'tt-placeholder'
    canvas.className = 'tt-picture'
    canvas.style.visibility = 'hidden'
    frame.style.overflow = settings.clip ? 'hidden' : 'visible'
    frame.style.borderRadius = settings.circle ? '50%' : settings.cornersDp.map((corner) => `${corner}px`).join(' ')
    if (settings.shadowDp > 0) frame.style.boxShadow = `0 ${settings.shadowDp / 2}px ${settings.shadowDp}px rgb(21 37 47 / 25%)`
    frame.append(placeholder, canvas)
    this.element.append(frame)
    return { settings, frame, placeholder, canvas, box: { x: 0, y: 0, width: 0, height: 0 }, arrival: null }
  }

  private arrange(geometry: CellGeometry): void {
    this.geometry = geometry
    for (const [i, slot] of this.slots.entries()) {
      slot.box = geometry.slots[i]!
      lay(slot.frame, slot.box)
    }
    for (const [i, text] of this.texts.entries()) {
      const box = geometry.texts[i]
      text.hidden = !box
      if (box) lay(text, box)
    }
  }

  private showVisual(slot: SlotView, visual: Visual): void {
    const { placeholder } = slot
    placeholder.dataset.visual = visual.type === 'drawn' ? visual.shape : visual.type
    placeholder.style.background = ''
    switch (visual.type) {
      case 'colour':
        placeholder.style.background = visual.colour
        return
      case 'item-colour': {
        const colour = valueAt(this.item, visual.at)
        placeholder.style.background = typeof colour === 'string' && /^#[0-9a-f]{6}$/i.test(colour) ? colour : ''
        return
      }
      case 'picture':
        placeholder.style.background = `center / cover url("${this.assetUrl(visual.asset)}")`
        return
      case 'ring':
        placeholder.style.setProperty('--share', '0')
        return
      case 'space':
      case 'drawn':
      case 'preview':
      case 'skeleton':
        return
    }
  }
}

function lay(element: HTMLElement, box: Box): void {
  element.style.left = `${box.x}px`
  element.style.top = `${box.y}px`
  element.style.width = `${box.width}px`
  element.style.height = `${box.height}px`
}
