import { numberAt, textAt } from '../feed/json-pointer.ts'
import type { Cell, Item, Layout, Slot, StageName, TextLine } from '../project/types.ts'

/** A rectangle inside a cell, dp. */
export interface Box {
  x: number
  y: number
  width: number
  height: number
}

export interface CellGeometry {
  heightDp: number
  slots: Box[]
  texts: Box[]
}

/** Line height over letter height, and the mean advance of a letter over its height: estimates for any font. */
export const lineHeight = 1.3
const letterWidth = 0.52
const gapDp = 8

/**
 * Lays a cell out at a width: pictures first in their arrangement, texts in the room that is left. `ratioOf`
 * gives the width ÷ height of a slot's picture once it is known (null before), for slots sized by it; `stageOf`
 * the stage that a slot is in, for slots whose stages have frames of their own.
 */
export function layOutCell(
  cell: Cell,
  widthDp: number,
  item: Item,
  ratioOf: (slot: number) => number | null,
  stageOf: (slot: number) => StageName = settled,
): CellGeometry {
  const fixed = cell.height.type === 'fixed' ? cell.height.dp : null
  const beside = cell.arrangement === 'picture-start' || cell.arrangement === 'picture-end'
  const room = { width: widthDp, height: fixed }
  const slots: Box[] = []
  let x = 0
  let y = 0
  for (const [index, slot] of cell.slots.entries()) {
    const size = frameOf(slot, stageOf(index)) ?? slotSize(slot, room, item, ratioOf(index), beside)
    slots.push(inside({ x: beside ? x : 0, y: beside ? 0 : y, ...size }, slot.insetDp))
    if (beside) x += size.width + gapDp
    else y += size.height + (index < cell.slots.length - 1 ? gapDp / 2 : 0)
  }
  const lines = cell.arrangement === 'picture-only' ? [] : cell.texts
  const textX = beside ? x : 0
  const textWidth = Math.max(0, widthDp - textX)
  const start = cell.arrangement === 'picture-top' ? y + gapDp / 2 : 0
  const texts = placeTexts(lines, item, textX, start, textWidth)
  const textEnd = texts.reduce((end, box, i) => Math.max(end, box.y + box.height + lines[i]!.spareDp), 0)
  const pictureEnd = slots.reduce((end, box, i) => Math.max(end, box.y + box.height + cell.slots[i]!.insetDp[2]), 0)
  const heightDp = fixed ?? Math.max(1, pictureEnd, textEnd)
  if (cell.arrangement === 'picture-end') mirror(slots, texts, widthDp)
  if (beside) centreTexts(texts, heightDp, textEnd)
  if (cell.arrangement === 'picture-under') sinkTexts(texts, heightDp, textEnd)
  return { heightDp, slots, texts }
}

/** The width of a cell in a list of so many columns on a screen of a width, dp. */
export const cellWidthOf = (
  { columns, gapDp, paddingDp }: Pick<Layout, 'columns' | 'gapDp' | 'paddingDp'>,
  screenDp: number,
) => Math.max(1, (screenDp - 2 * paddingDp - (columns - 1) * gapDp) / columns)

/** A frame reduced by its insets (top, right, bottom, left, as in CSS). */
function inside(
  { x, y, width, height }: Box,
  [top, right, bottom, left]: readonly [number, number, number, number],
): Box {
  return {
    x: x + left,
    y: y + top,
    width: Math.max(0, width - left - right),
    height: Math.max(0, height - top - bottom),
  }
}

const settled = (): StageName => 'settled'

/** The frame that a slot has in one stage alone; null: the slot's own. */
function frameOf(slot: Slot, stage: StageName): { width: number; height: number } | null {
  const { frame } = slot.stages[stage]
  return frame ? { width: frame.widthDp, height: frame.heightDp } : null
}

/** Whether some stage of some slot has a frame of its own, so that a cell may change its size as pictures arrive. */
export const hasStageFrames = (cell: Cell) =>
  cell.slots.some((slot) =>
    Object.values(slot.stages).some(
      (look) => typeof look === 'object' && look !== null && 'frame' in look && look.frame !== undefined,
    ),
  )

/** Whether the geometry of a kind's cells depends on the item at all; if not, one serves for every row. */
export function isUniform(cell: Cell): boolean {
  const sized = cell.slots.some((slot) => slot.size.type === 'aspect-at' || slot.size.type === 'from-picture')
  const textual =
    cell.height.type === 'content' && cell.arrangement !== 'picture-only' && cell.texts.some((line) => line.lines > 1)
  return !sized && !textual && !hasStageFrames(cell)
}

function slotSize(
  slot: Slot,
  room: { width: number; height: number | null },
  item: Item,
  ratio: number | null,
  beside: boolean,
): { width: number; height: number } {
  const { size } = slot
  const across = beside && room.height !== null ? room.height : room.width
  switch (size.type) {
    case 'fixed':
      return { width: size.widthDp, height: size.heightDp }
    case 'fill':
      return beside ? { width: across, height: across } : { width: room.width, height: room.height ?? room.width }
    case 'share':
      return beside
        ? { width: room.width * size.of, height: room.height ?? room.width * size.of }
        : { width: room.width, height: (room.height ?? room.width) * size.of }
    case 'aspect':
      return sized(across, size.ratio, beside && room.height !== null)
    case 'aspect-at': {
      const width = numberAt(item, size.width)
      const height = numberAt(item, size.height)
      return sized(across, width !== null && height !== null ? width / height : 1, beside && room.height !== null)
    }
    case 'from-picture':
      return sized(across, ratio ?? 1, beside && room.height !== null)
  }
}

const sized = (across: number, ratio: number, byHeight: boolean) =>
  byHeight ? { width: across * ratio, height: across } : { width: across, height: across / ratio }

function placeTexts(lines: readonly TextLine[], item: Item, x: number, start: number, width: number): Box[] {
  let y = start
  return lines.map((line) => {
    const count = Math.min(line.lines, estimatedLines(textAt(item, line.at) ?? '', line.sizeDp, width))
    const box = { x, y, width, height: Math.max(1, count) * line.sizeDp * lineHeight }
    y += box.height + line.spareDp
    return box
  })
}

/** How many lines a text takes at a letter size and width, by the mean width of a letter. */
function estimatedLines(text: string, sizeDp: number, widthDp: number): number {
  const perLine = Math.max(1, Math.floor(widthDp / (sizeDp * letterWidth)))
  return Math.max(1, Math.ceil(text.length / perLine))
}

function mirror(slots: Box[], texts: Box[], width: number): void {
  for (const box of slots) box.x = width - box.x - box.width
  for (const box of texts) box.x = 0
}

function centreTexts(texts: Box[], height: number, end: number): void {
  for (const box of texts) box.y += Math.max(0, (height - end) / 2)
}

function sinkTexts(texts: Box[], height: number, end: number): void {
  for (const box of texts) {
    box.y += Math.max(0, height - end - gapDp)
    box.x += gapDp
    box.width = Math.max(0, box.width - 2 * gapDp)
  }
}
