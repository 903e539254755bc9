import { cellWidthOf, layOutCell } from '../core/layout/cell-geometry.ts'
import type { PlayedCell, PlayedScreen, PlayedSlot } from '../core/profile/views/playback.ts'
import type { Item, Project, Screen } from '../core/project/types.ts'
import { assetUrls } from './asset-urls.ts'
import { CellView } from './cell-view.ts'
import { previewsDrawn } from './hashed-preview.ts'
import type { Picture } from './live-decoder.ts'

/** A picture to show: which rendition of the run, for which item's slot, at how many px. */
export interface WantedPicture {
  rendition: number
  item: Item
  kind: number
  slot: number
  px: { width: number; height: number }
}

interface PlayedOptions {
  project: Project
  screen: Screen
  itemOf: (key: string, index: number) => Item
  /** Null: it is no longer available. */
  pictureOf: (wanted: WantedPicture) => Promise<Picture | null>
  /** px on the page for one px of the device. */
  shown: () => number
}

interface Drawn {
  view: CellView
  key: string
  geometry: string
  /** The rendition in each slot, and what it shows besides. */
  slots: { rendition: number | null; look: string }[]
}

/** The list of a run that is played back, drawn by the code of the live cells. */
export class PlayedList {
  readonly element = document.createElement('div')
  private readonly options: PlayedOptions
  private readonly drawn = new Map<number, Drawn>()
  private readonly pictures = new Map<string, Promise<Picture | null>>()
  private readonly assetUrl: (name: string) => string
  private pending: Promise<unknown>[] = []
  /** Pictures that were shown then and are no longer available: placeholders are shown instead. */
  readonly missing = new Set<string>()

  constructor(options: PlayedOptions) {
    this.options = options
    this.assetUrl = assetUrls(options.project.assets)
    this.element.className = 'tt-list'
  }

  /** Draws a screen; resolves when its pictures and previews are there too. */
  async show(screen: PlayedScreen): Promise<void> {
    this.pending = []
    const seen = new Set(screen.cells.map(({ cell }) => cell))
    for (const [cell, { view }] of this.drawn) if (!seen.has(cell)) view.element.style.visibility = 'hidden'
    for (const cell of screen.cells) this.draw(cell, this.columnOf(cell, screen))
    this.element.style.transform = `translate3d(0, ${-screen.top}px, 0)`
    await Promise.all([...this.pending, previewsDrawn()])
  }

  /** Closes what was decoded for it. */
  async close(): Promise<void> {
    this.element.remove()
    for (const picture of await Promise.all(this.pictures.values())) if (picture instanceof ImageBitmap) picture.close()
    this.pictures.clear()
  }

  private columnOf(cell: PlayedCell, screen: PlayedScreen): number {
    const { columns } = this.options.screen.layout
    if (cell.column !== null) return cell.column
    if (Math.floor(cell.index / columns) === cell.row) return cell.index % columns
    // Items that no kind fits take no room: those of a row keep their order.
    return screen.cells.filter((each) => each.row === cell.row && each.index < cell.index).length
  }

  private draw(cell: PlayedCell, column: number): void {
    const { project, screen, itemOf, shown } = this.options
    const template = screen.cells[cell.kind]!
    let drawn = this.drawn.get(cell.cell)
    if (!drawn) {
      const view = new CellView(template, project.device.density, this.assetUrl, shown)
      view.element.dataset.cell = String(cell.cell)
      this.drawn.set(cell.cell, (drawn = { view, key: '', geometry: '', slots: [] }))
      this.element.append(view.element)
    }
    const { view } = drawn
    const item = itemOf(cell.key, cell.index)
    const widthDp = cellWidthOf(screen.layout, project.device.widthDp)
    const geometry = layOutCell(
      template,
      widthDp,
      item,
      () => null,
      (slot) => cell.slots[slot]?.stage ?? 'absent',
    )
    const place = JSON.stringify(geometry)
    if (drawn.key !== cell.key || drawn.geometry !== place) {
      view.bind(item, geometry)
      view.element.dataset.index = String(cell.index)
      if (drawn.key !== cell.key) drawn.slots = []
      drawn.key = cell.key
      drawn.geometry = place
    }
    const { style } = view.element
    style.visibility = 'visible'
    style.width = `${widthDp}px`
    style.height = `${cell.height}px`
    style.transform = `translate(${screen.layout.paddingDp + column * (widthDp + screen.layout.gapDp)}px, ${cell.top}px)`
    for (const number of template.slots.keys()) {
      const box = geometry.slots[number]!
      const px = (dp: number) => Math.max(1, Math.round(dp * project.device.density))
      this.drawSlot(drawn, number, cell.slots[number] ?? { stage: 'absent', rendition: null, received: 0, total: 0 }, {
        item,
        kind: cell.kind,
        slot: number,
        px: { width: px(box.width), height: px(box.height) },
      })
    }
  }

  private drawSlot(drawn: Drawn, number: number, slot: PlayedSlot, place: Omit<WantedPicture, 'rendition'>): void {
    const look = `${slot.stage} ${slot.rendition} ${slot.received} ${slot.total}`
    const before = drawn.slots[number]
    if (before?.look === look) return
    const { rendition } = slot
    drawn.slots[number] = { rendition, look }
    const { view } = drawn
    if (rendition === null) {
      view.clear(number)
      if (slot.stage === 'arriving') view.arriving(number, slot.received, slot.total === 0 ? null : slot.total)
      else view.stage(number, slot.stage)
      return
    }
    if (before?.rendition === rendition) return
    const still = () => drawn.slots[number]?.look === look
    this.pending.push(
      this.pictureOf({ ...place, rendition }).then((picture) => {
        if (!still()) return
        if (picture) view.picture(number, picture, false)
        else {
          view.clear(number)
          view.stage(number, 'waiting')
        }
      }),
    )
  }

  private pictureOf(wanted: WantedPicture): Promise<Picture | null> {
    const name = `${wanted.rendition} ${wanted.px.width} ${wanted.px.height}`
    let picture = this.pictures.get(name)
    if (!picture) {
      picture = this.options.pictureOf(wanted).then((found) => {
        if (!found) this.missing.add(name)
        return found
      })
      this.pictures.set(name, picture)
    }
    return picture
  }
}
