import { pictureHeader } from '../core/formats/picture-header.ts'
import { decodedSize, maxPixels } from '../core/loading/rendition.ts'
import { treat } from './treat.ts'
import type { DecodeAnswer, DecodeJob } from './messages.ts'

/** Enough of a file to find its px in the header, behind large metadata too. */
const headerBytes = 262_144

declare const self: DedicatedWorkerGlobalScope

self.onmessage = (event: MessageEvent<DecodeJob>) => void decode(event.data)

async function decode({ id, body, target }: DecodeJob): Promise<void> {
  const start = performance.now()
  const us = () => Math.round((performance.now() - start) * 1000)
  const answer = (message: DecodeAnswer, transfer: Transferable[] = []) => self.postMessage(message, transfer)
  try {
    const header = pictureHeader(new Uint8Array(await body.slice(0, headerBytes).arrayBuffer()))
    if (header && header.width * header.height > maxPixels) return answer({ id, ok: false, us: 0, reason: 'too-large' })
    const full = await createImageBitmap(body)
    const source = { width: full.width, height: full.height }
    const made = decodedSize(source, target)
    const plain = made.width === source.width && made.height === source.height ? full : await shrink(full, made)
    const treated = treat(plain, target)
    const bitmap = treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated
    answer({ id, ok: true, us: us(), bitmap, sourceWidth: source.width, sourceHeight: source.height }, [bitmap])
  } catch {
    answer({ id, ok: false, us: us(), reason: 'undecodable' })
  }
}

async function shrink(full: ImageBitmap, to: { width: number; height: number }): Promise<ImageBitmap> {
  const small = await createImageBitmap(full, { resizeWidth: to.width, resizeHeight: to.height, resizeQuality: 'medium' })
  full.close()
  return small
}
