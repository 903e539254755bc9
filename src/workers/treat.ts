import { drawnSize, type Size, type Target } from '../core/loading/rendition.ts'

type Context = OffscreenCanvasRenderingContext2D
type Drawn = ImageBitmap | OffscreenCanvas

function canvasOf({ width, height }: Size): Context {
  return new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
}

/**
 * What is made of a picture at decode, once: treatments in their order, then its shape. `made` is the target's own
 * word for it (core/run/pictures.ts), lengths in px. Returns the picture itself when there is nothing to make.
 */
export function treat(picture: Drawn, target: Target): Drawn {
  const words = target.made === '' ? [] : target.made.split(' ')
  if (words.length === 0) return picture
  let context: Context | null = null
  for (const word of words) {
    const [name, ...values] = word.split(':') as [string, ...string[]]
    if (name === 'tint') {
      context ??= copy(picture)
      tint(context, values[0]!, Number(values[1]))
    } else {
      const from: Drawn = context ? context.canvas : picture
      const size = { width: from.width, height: from.height }
      if (name === 'corners') context = shaped(from, size, target, values[0]!)
      else {
        const next = canvasOf(size)
        next.filter = name === 'blur' ? `blur(${values[0]!}px)` : `grayscale(${values[0]!})`
        next.drawImage(from, 0, 0)
        next.filter = 'none'
        context = next
      }
    }
  }
  return context!.canvas
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

/** The picture as the slot shows it, cut to its shape: `circle@x,y` or four corners in px, `@` the position. */
function shaped(from: Drawn, size: Size, target: Target, word: string): Context {
  const context = canvasOf(target)
  const [shape, position] = word.split('@') as [string, string]
  const [across, down] = position.split(',').map(Number) as [number, number]
  const { width, height } = target
  context.beginPath()
  if (shape === 'circle') context.ellipse(width / 2, height / 2, width / 2, height / 2, 0, 0, 2 * Math.PI)
  else context.roundRect(0, 0, width, height, shape.split(',').map(Number))
  context.clip()
  const drawn = drawnSize(size, target, target.fit)
  context.imageSmoothingQuality = 'medium'
  context.drawImage(from, (width - drawn.width) * across, (height - drawn.height) * down, drawn.width, drawn.height)
  return context
}
