import { decode as decodeBlurhash, isBlurhashValid } from 'blurhash'
import { thumbHashToRGBA } from 'thumbhash'
import type { PreviewAnswer, PreviewJob } from './messages.ts'

/** The longer side at which a blurhash is drawn, px: it holds no more than a few waves. */
const side = 32

declare const self: DedicatedWorkerGlobalScope

self.onmessage = (event: MessageEvent<PreviewJob>) => void draw(event.data)

async function draw({ id, as, text }: PreviewJob): Promise<void> {
  const start = performance.now()
  try {
    const { width, height, pixels } = as === 'blurhash' ? fromBlurhash(text) : fromThumbhash(text)
    const us = Math.round((performance.now() - start) * 1000)
    const canvas = new OffscreenCanvas(width, height)
    canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(pixels), width, height), 0, 0)
    const url = new FileReaderSync().readAsDataURL(await canvas.convertToBlob())
    self.postMessage({ id, ok: true, us, url } satisfies PreviewAnswer)
  } catch (error) {
    self.postMessage({
      id,
      ok: false,
      why: error instanceof Error ? error.message : String(error),
    } satisfies PreviewAnswer)
  }
}

interface Pixels {
  width: number
  height: number
  pixels: ArrayLike<number>
}

function fromBlurhash(text: string): Pixels {
  const { result, errorReason } = isBlurhashValid(text)
  if (!result) throw new Error(errorReason ?? 'it is not a blurhash')
  return { width: side, height: side, pixels: decodeBlurhash(text, side, side) }
}

/** `text`: base64 of the hash's bytes. */
function fromThumbhash(text: string): Pixels {
  const bytes = Uint8Array.from(atob(text), (character) => character.charCodeAt(0))
  // Five bytes of head, followed by at least the waves of lightness.
  if (bytes.length < 8 || bytes.length > 64) throw new Error('it is not a thumbhash')
  const { w, h, rgba } = thumbHashToRGBA(bytes)
  return { width: w, height: h, pixels: rgba }
}
