import { blobOf, bytesOf, type Body } from './body.ts'
import { pictureHeader } from './picture-header.ts'
import { decodedSize, maxPixels, type Size, type Target } from '../core/loading/rendition.ts'
import { treat } from './treat.ts'
import type { DecodeAnswer, DecodeJob } from './messages.ts'

/** Enough of a file to find its px in the header, after large metadata too. */
const headerBytes = 262_144

declare const self: DedicatedWorkerGlobalScope

self.onmessage = (event: MessageEvent<DecodeJob>) => void decode(event.data)

async function decode({ id, body, target }: DecodeJob): Promise<void> {
  const start = performance.now()
  const us = () => Math.round((performance.now() - start) * 1000)
  const answer = (message: DecodeAnswer, transfer: Transferable[] = []) => self.postMessage(message, transfer)
  try {
    const header = pictureHeader(await bytesOf(body, headerBytes))
    if (header && header.width * header.height > maxPixels) return answer({ id, ok: false, us: 0, reason: 'too-large' })
    const { source, bitmaps, frameMs } =
      target.moments === 'all' ? await everyFrame(body, target) : await oneFrame(body, target)
    answer(
      { id, ok: true, us: us(), bitmaps, frameMs, sourceWidth: source.width, sourceHeight: source.height },
      bitmaps,
    )
  } catch (error) {
    answer({ id, ok: false, us: us(), reason: error instanceof TooLarge ? 'too-large' : 'undecodable' })
  }
}

class TooLarge extends Error {}

interface Decoded {
  source: Size
  bitmaps: ImageBitmap[]
  frameMs: number
}

async function oneFrame(body: Body, target: Target): Promise<Decoded> {
  const full = await createImageBitmap(blobOf(body))
  const source = { width: full.width, height: full.height }
  return { source, bitmaps: [await applyTarget(full, source, target)], frameMs: 0 }
}

/** All frames of a picture that plays; they are shown at the pace of the first. */
async function everyFrame(body: Body, target: Target): Promise<Decoded> {
  if (!(await ImageDecoder.isTypeSupported(body.type))) return oneFrame(body, target)
  const decoder = new ImageDecoder({ data: await bytesOf(body), type: body.type })
  try {
    await decoder.tracks.ready
    await decoder.completed
    const frameCount = decoder.tracks.selectedTrack?.frameCount ?? 1
    const bitmaps: ImageBitmap[] = []
    let source: Size = { width: 0, height: 0 }
    let frameMs = 0
    for (let frameIndex = 0; frameIndex < frameCount; frameIndex++) {
      const { image } = await decoder.decode({ frameIndex })
      source = { width: image.displayWidth, height: image.displayHeight }
      if (frameIndex === 0) frameMs = (image.duration ?? 100_000) / 1000
      const { width, height } = decodedSize(source, target)
      if (width * height * frameCount > maxPixels) {
        image.close()
        for (const bitmap of bitmaps) bitmap.close()
        throw new TooLarge()
      }
      const full = await createImageBitmap(image)
      image.close()
      bitmaps.push(await applyTarget(full, source, target))
    }
    return { source, bitmaps, frameMs: Math.max(1, frameMs) }
  } finally {
    decoder.close()
  }
}

/** A decoded frame at the wanted px, with its treatments and shape. */
async function applyTarget(full: ImageBitmap, source: Size, target: Target): Promise<ImageBitmap> {
  const size = decodedSize(source, target)
  const plain = size.width === source.width && size.height === source.height ? full : await shrink(full, size)
  const treated = treat(plain, target)
  return treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated
}

async function shrink(full: ImageBitmap, to: Size): Promise<ImageBitmap> {
  const small = await createImageBitmap(full, {
    resizeWidth: to.width,
    resizeHeight: to.height,
    resizeQuality: 'medium',
  })
  full.close()
  return small
}
