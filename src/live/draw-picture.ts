import { drawnSize, type Size } from '../core/loading/rendition.ts'
import { hasShape } from '../core/list/pictures.ts'
import type { Slot } from '../core/project/types.ts'
import type { Picture } from './live-decoder.ts'

/** Canvases that are laid over their neighbours now. */
const laidOver = new WeakSet<HTMLCanvasElement>()

/** How often each canvas has been drawn: copies made of it stay valid as long as that is the same. */
export const drawings = new WeakMap<HTMLCanvasElement, number>()

/**
 * Draws a decoded picture into a slot's canvas by the slot's fit and position; treatments were made at decode. Sizes
 * are in the slot's own px; `shown` is how many px of the canvas stand for one of them, so that a device that is drawn
 * smaller does not scale every picture again in every frame. A slot that does not clip gets a canvas as large as the
 * drawn picture, laid over its neighbours.
 */
export function drawPicture(
  context: CanvasRenderingContext2D,
  picture: Picture,
  slot: Slot,
  size: Size,
  density: number,
  shown: number,
): void {
  const { canvas } = context
  const cut = slot.shapeAt === 'decode' && hasShape(slot)
  const drawn = drawnSize(picture, size, cut ? 'fill' : (slot.stages.settled.fit ?? slot.fit))
  const [across, down] = slot.position
  const left = (size.width - drawn.width) * across
  const top = (size.height - drawn.height) * down
  const over = !slot.clip && (drawn.width > size.width || drawn.height > size.height)
  const room = over
    ? {
        left: Math.min(0, left),
        top: Math.min(0, top),
        width: Math.max(size.width, drawn.width),
        height: Math.max(size.height, drawn.height),
      }
    : { left: 0, top: 0, ...size }
  const widthPx = Math.max(1, Math.round(room.width * shown))
  const heightPx = Math.max(1, Math.round(room.height * shown))
  if (canvas.width !== widthPx || canvas.height !== heightPx) {
    canvas.width = widthPx
    canvas.height = heightPx
  }
  if (over || laidOver.has(canvas)) layOver(canvas, over ? room : null, density)
  drawings.set(canvas, (drawings.get(canvas) ?? 0) + 1)
  // The former content goes with it.
  context.globalCompositeOperation = 'copy'
  context.imageSmoothingQuality = 'medium'
  context.drawImage(
    picture,
    (left - room.left) * shown,
    (top - room.top) * shown,
    drawn.width * shown,
    drawn.height * shown,
  )
}

/** Gives a canvas the size of a picture that is larger than its slot; null: the slot's size again. */
function layOver(
  canvas: HTMLCanvasElement,
  room: { left: number; top: number; width: number; height: number } | null,
  density: number,
): void {
  const { style } = canvas
  const dp = (px: number | undefined) => (px === undefined ? '' : `${px / density}px`)
  style.inset = room ? 'auto' : ''
  style.left = dp(room?.left)
  style.top = dp(room?.top)
  style.width = dp(room?.width)
  style.height = dp(room?.height)
  if (room) laidOver.add(canvas)
  else laidOver.delete(canvas)
}
