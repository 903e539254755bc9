import { drawnSize } from '../core/loading/rendition.ts'
import type { Slot } from '../core/project/types.ts'
import type { Picture } from './live-decoder.ts'

/** Draws a decoded picture into a slot's canvas: fit, position and treatments as the slot says. */
export function drawPicture(canvas: HTMLCanvasElement, picture: Picture, slot: Slot, widthPx: number, heightPx: number, density: number): void {
  if (canvas.width !== widthPx || canvas.height !== heightPx) {
    canvas.width = widthPx
    canvas.height = heightPx
  }
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, widthPx, heightPx)
  context.filter = filterOf(slot, density)
  const drawn = drawnSize(picture, { width: widthPx, height: heightPx }, slot.fit)
  const [across, down] = slot.position
  context.drawImage(picture, (widthPx - drawn.width) * across, (heightPx - drawn.height) * down, drawn.width, drawn.height)
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
