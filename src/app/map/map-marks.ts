import type { Mark } from './map-words.ts'

/** Draws the ends of requests of one class: a shape for each outcome, so many px from its middle to its edge. */
export function drawMarks(
  context: CanvasRenderingContext2D,
  mark: Mark,
  at: readonly [number, number][],
  size: number,
): void {
  const outline = mark === 'cross' || mark === 'tick' || mark === 'ring' || mark === 'loop'
  context.lineWidth = 1.3
  context.beginPath()
  for (const [x, y] of at) addMark(context, mark, x, y, size)
  if (outline) context.stroke()
  else context.fill()
}

function addMark(context: CanvasRenderingContext2D, mark: Mark, x: number, y: number, r: number): void {
  switch (mark) {
    case 'diamond':
      context.moveTo(x, y - r)
      context.lineTo(x + r, y)
      context.lineTo(x, y + r)
      context.lineTo(x - r, y)
      context.closePath()
      return
    case 'triangle':
      context.moveTo(x, y - r)
      context.lineTo(x + r, y + r * 0.8)
      context.lineTo(x - r, y + r * 0.8)
      context.closePath()
      return
    case 'square':
      context.rect(x - r * 0.8, y - r * 0.8, r * 1.6, r * 1.6)
      return
    case 'cross':
      context.moveTo(x - r * 0.8, y - r * 0.8)
      context.lineTo(x + r * 0.8, y + r * 0.8)
      context.moveTo(x + r * 0.8, y - r * 0.8)
      context.lineTo(x - r * 0.8, y + r * 0.8)
      return
    case 'tick':
      context.moveTo(x, y - r)
      context.lineTo(x, y + r)
      return
    case 'ring':
      context.moveTo(x + r, y)
      context.arc(x, y, r, 0, 7)
      return
    case 'loop':
      context.moveTo(x + r, y)
      context.arc(x, y, r, 0, 4.8)
      return
  }
}
