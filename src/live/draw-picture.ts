import { drawnSize, type Size } from '../core/loading/rendition.ts'
import type { Slot } from '../core/project/types.ts'
import type { Picture } from './live-decoder.ts'

/**
 * Draws a decoded picture into a slot's canvas: fit, position and treatments as the slot says. Sizes are in the
 * slot's own px; `shown` is how many px of the canvas stand for one of them, so that a device that is drawn
 * smaller than it is does not scale every picture anew in every frame.
 */
export function drawPicture(canvas: HTMLCanvasElement, picture: Picture, slot: Slot, size: Size, density: number, shown: number): void {
  const widthPx = Math.max(1, Math.round(size.width * shown))
  const heightPx = Math.max(1, Math.round(size.height * shown))
  if (canvas.width !== widthPx || canvas.height !== heightPx) {
    canvas.width = widthPx
    canvas.height = heightPx
  }
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, widthPx, heightPx)
  context.imageSmoothingQuality = 'medium'
  context.filter = filterOf(slot, density * shown)
  const drawn = drawnSize(picture, size, slot.fit)
  const [across, down] = slot.position
  const left = (size.width - drawn.width) * across
  const top = (size.height - drawn.height) * down
  context.drawImage(picture, left * shown, top * shown, drawn.width * shown, drawn.height * shown)
  context.filter = 'none'
  for (const treatment of slot.treatments) {
    if (treatment.type !== 'tint') continue
    context.globalCompositeOperation = 'source-atop'
    context.globalAlpha = treatment.amount
    context.fillStyle = treatment.colour
    context.fillRect(0, 0, widthPx, heightPx)
    context.globalAlpha = 1
    context.globalCompositeOperation = 'source-over'
  }
}

function filterOf(slot: Slot, density: number): string {
  const words = slot.treatments.map((treatment) => {
    switch (treatment.type) {
      case 'grayscale':
        return `grayscale(${treatment.amount})`
      case 'blur':
        return `blur(${treatment.radiusDp * density}px)`
      case 'tint':
        return ''
    }
  })
  return words.join(' ').trim() || 'none'
}
