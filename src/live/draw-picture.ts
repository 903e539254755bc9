import { drawnSize, type Size } from '../core/loading/rendition.ts'
import { hasShape } from '../core/list/pictures.ts'
import type { Slot } from '../core/project/types.ts'
import type { Picture } from './live-decoder.ts'

/** How often each canvas has been drawn: what was made of it stands as long as that is the same. */
export const drawings = new WeakMap<HTMLCanvasElement, number>()

/**
 * Draws a decoded picture into a slot's canvas: fit and position as the slot says; treatments were made at decode.
 * Sizes are in the slot's own px; `shown` is how many px of the canvas stand for one of them, so that a device that
 * is drawn smaller than it is does not scale every picture anew in every frame. A slot that does not clip gets a
 * canvas as large as what is drawn, laid over its neighbours.
 */
export function drawPicture(
  canvas: HTMLCanvasElement,
  picture: Picture,
  slot: Slot,
  size: Size,
  density: number,
  shown: number,
): void {
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
  const { style } = canvas
  style.inset = over ? 'auto' : ''
  style.left = over ? `${room.left / density}px` : ''
  style.top = over ? `${room.top / density}px` : ''
  style.width = over ? `${room.width / density}px` : ''
  style.height = over ? `${room.height / density}px` : ''
  const context = canvas.getContext('2d')!
  drawings.set(canvas, (drawings.get(canvas) ?? 0) + 1)
  // What was there before goes with it.
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
