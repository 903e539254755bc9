import { addressOf } from '../../core/feed/address.ts'
import { decodedSize } from '../../core/loading/rendition.ts'
import type { Item, Screen, Slot } from '../../core/project/types.ts'
import { baseOf, madeAtDecode } from '../../core/run/pictures.ts'
import { treat } from '../../workers/treat.ts'
import { OriginClient } from '../../live/origin-client.ts'

let origin: Promise<OriginClient> | null = null

/** Loads and decodes an item's picture at the size that the slot wants; null when it has none that can be. */
export async function samplePicture(screen: Screen, slot: Slot, item: Item, px: { width: number; height: number }, density: number): Promise<ImageBitmap | null> {
  const address = addressOf(item, slot, { widthPx: px.width, heightPx: px.height, density }, baseOf(screen))
  origin ??= OriginClient.unpaced()
  const client = await origin
  if (!client.serves(address.host)) return null
  const { url, release } = client.take(address.href)
  try {
    const reply = await fetch(url)
    if (!reply.ok) return null
    const full = await createImageBitmap(await reply.blob())
    const target = { ...px, fit: slot.fit, decodeAt: slot.decodeAt, made: madeAtDecode(slot, density) }
    const made = decodedSize(full, target)
    const treated = treat(await createImageBitmap(full, { resizeWidth: made.width, resizeHeight: made.height }), target)
    return treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated
  } finally {
    release()
  }
}
