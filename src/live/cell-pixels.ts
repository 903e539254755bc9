import type { CellGeometry } from '../core/layout/cell-geometry.ts'
import type { Cell, Item, Project } from '../core/project/types.ts'
import { assetUrls } from './asset-urls.ts'
import { drawings } from './draw-picture.ts'
import { CellView } from './cell-view.ts'
import type { Picture } from './live-decoder.ts'

interface CellLook {
  project: Project
  cell: Cell
  item: Item
  widthDp: number
  geometry: CellGeometry
  /** The picture of each slot; null where its item has none. */
  pictures: readonly (Picture | null)[]
}

/**
 * The px of a settled cell, drawn by the code that draws the live ones and laid out by the browser; RGBA at the
 * device's density.
 */
export async function cellPixels({ project, cell, item, widthDp, geometry, pictures }: CellLook): Promise<ImageData> {
  const { density } = project.device
  const view = new CellView(cell, density, assetUrls(project.assets))
  view.element.style.width = `${widthDp}px`
  view.element.style.height = `${geometry.heightDp}px`
  view.bind(item, geometry)
  for (const number of cell.slots.keys()) {
    const picture = pictures[number]
    view.stage(number, picture ? 'waiting' : 'absent')
    if (picture) view.picture(number, picture, false)
  }
  const width = Math.max(1, Math.round(widthDp * density))
  const height = Math.max(1, Math.round(geometry.heightDp * density))
  return pixelsOf(view.element, { widthDp, heightDp: geometry.heightDp, width, height })
}

/** The px of a whole list as its window shows it; `scale`: px for one dp. */
export function listPixels(
  window: HTMLElement,
  { widthDp, heightDp, scale }: { widthDp: number; heightDp: number; scale: number },
): Promise<ImageData> {
  return pixelsOf(window, {
    widthDp,
    heightDp,
    width: Math.round(widthDp * scale),
    height: Math.round(heightDp * scale),
  })
}

async function pixelsOf(
  element: HTMLElement,
  size: { widthDp: number; heightDp: number; width: number; height: number },
): Promise<ImageData> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(asSvg(element, size))}`
  await image.decode()
  const context = new OffscreenCanvas(size.width, size.height).getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0)
  return context.getImageData(0, 0, size.width, size.height)
}

/** A cell as one self-contained picture: its markup, the page's styles, its canvases as pictures. */
function asSvg(
  element: HTMLElement,
  size: { widthDp: number; heightDp: number; width: number; height: number },
): string {
  const copy = element.cloneNode(true) as HTMLElement
  // Wherever it is in the page, it begins at the corner of its picture.
  Object.assign(copy.style, { position: 'relative', left: '0', top: '0' })
  const canvases = [...element.querySelectorAll('canvas')]
  for (const [i, canvas] of [...copy.querySelectorAll('canvas')].entries()) {
    const image = document.createElement('img')
    image.className = canvas.className
    image.style.cssText = canvas.style.cssText
    image.src = dataUrlOf(canvases[i]!)
    canvas.replaceWith(image)
  }
  const style = document.createElement('style')
  style.textContent = `${ownStyles()}\n*{animation:none!important}`
  const serializer = new XMLSerializer()
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${size.width}" height="${size.height}" viewBox="0 0 ${size.widthDp} ${size.heightDp}">` +
    `<foreignObject width="${size.widthDp}" height="${size.heightDp}">${serializer.serializeToString(style)}${serializer.serializeToString(copy)}</foreignObject></svg>`
  )
}

const known = new WeakMap<HTMLCanvasElement, { drawn: number; url: string }>()

/** A canvas as a picture in a text; from moment to moment most are the same. */
function dataUrlOf(canvas: HTMLCanvasElement): string {
  const drawn = drawings.get(canvas)
  const before = known.get(canvas)
  if (before && before.drawn === drawn) return before.url
  const url = canvas.toDataURL()
  if (drawn !== undefined) known.set(canvas, { drawn, url })
  return url
}

let styles: { sheets: number; text: string } | null = null

/**
 * The rules that apply to a cell: ours, and those for every element of a type. The many of the components would be
 * parsed again for each picture.
 */
function ownStyles(): string {
  const sheets = document.styleSheets.length
  if (styles?.sheets !== sheets) {
    const rules = [...document.styleSheets].flatMap((sheet) => [...sheet.cssRules].map((rule) => rule.cssText))
    const isOwn = (rule: string) => rule.includes('.tt-') || !/[.@]/.test(rule.slice(0, rule.indexOf('{')))
    styles = { sheets, text: rules.filter(isOwn).join('\n') }
  }
  return styles.text
}
