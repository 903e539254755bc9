import type { Slot } from '../../../core/project/types.ts'

/** What the edges of a slot's frame snap to while they are dragged, dp. */
export interface Room {
  width: number
  /** The cell's own height where it is fixed. */
  height: number | null
  beside: boolean
}

const round = (value: number, digits: number) => Number(value.toFixed(digits))

/** The size of a slot whose frame was dragged to so many dp; its type is kept where that can express it. */
export function sizeFor(
  size: Slot['size'],
  frame: { widthDp: number; heightDp: number },
  dragged: 'width' | 'height',
  room: Room,
): Slot['size'] {
  const { widthDp, heightDp } = frame
  if (size.type === 'aspect') {
    const byHeight = room.beside && room.height !== null
    if (byHeight === (dragged === 'width') && widthDp > 0 && heightDp > 0)
      return { ...size, ratio: Math.min(100, Math.max(0.01, round(widthDp / heightDp, 3))) }
  }
  if (size.type === 'share' && room.beside && dragged === 'width')
    return { ...size, of: Math.min(1, Math.max(0.01, round(widthDp / room.width, 3))) }
  return { type: 'fixed', widthDp: round(widthDp, 1), heightDp: round(heightDp, 1) }
}

/** Lengths that a dragged edge snaps to: a square, the whole width, other stages' frames, every 16 dp. */
export function snapsFor(others: readonly number[], most: number): number[] {
  const grid = Array.from({ length: Math.floor(most / 16) }, (_, i) => (i + 1) * 16)
  return [...new Set([...others.map((each) => round(each, 1)), ...grid])].filter((each) => each > 0 && each <= most)
}
