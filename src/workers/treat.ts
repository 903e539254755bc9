import { drawnSize, type Making, type Size, type Target } from '../core/loading/rendition.ts'

type Context = OffscreenCanvasRenderingContext2D
type Drawn = ImageBitmap | OffscreenCanvas

function canvasOf({ width, height }: Size): Context {
  return new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
}

/**
 * Applies treatments in their order and then the shape to a picture, once, at decode. Returns the picture itself when
 * there is nothing to apply.
 */
export function treat(picture: Drawn, target: Target): Drawn {
  let context: Context | null = null
  for (const each of target.making) {
    const from: Drawn = context ? context.canvas : picture
    switch (each.type) {
      case 'tint':
        context ??= copy(picture)
        tint(context, each.colour, each.amount)
        break
      case 'grayscale':
        context = filtered(from, `grayscale(${each.amount})`)
        break
      case 'blur':
        context = filtered(from, `blur(${each.radiusPx}px)`)
        break
      case 'shape':
        context = shaped(from, target, each)
    }
  }
  return context ? context.canvas : picture
}

function filtered(from: Drawn, filter: string): Context {
  const next = canvasOf(from)
  next.filter = filter
  next.drawImage(from, 0, 0)
  next.filter = 'none'
  return next
}

function copy(picture: Drawn): Context {
  const context = canvasOf(picture)
  context.drawImage(picture, 0, 0)
  return context
}

function tint(context: Context, colour: string, amount: number): void {
  context.globalCompositeOperation = 'source-atop'
  context.globalAlpha = amount
  context.fillStyle = colour
  context.fillRect(0, 0, context.canvas.width, context.canvas.height)
  context.globalAlpha = 1
  context.globalCompositeOperation = 'source-over'
}

/** The picture as the slot shows it, cut to its shape. */
function shaped(from: Drawn, target: Target, shape: Extract<Making, { type: 'shape' }>): Context {
  const context = canvasOf(target)
  const [across, down] = shape.position
  const { width, height } = target
  context.beginPath()
  if (shape.circle) context.ellipse(width / 2, height / 2, width / 2, height / 2, 0, 0, 2 * Math.PI)
  else context.roundRect(0, 0, width, height, [...shape.cornersPx])
  context.clip()
  const drawn = drawnSize({ width: from.width, height: from.height }, target, target.fit)
  context.imageSmoothingQuality = 'medium'
  context.drawImage(from, (width - drawn.width) * across, (height - drawn.height) * down, drawn.width, drawn.height)
  return context
}
