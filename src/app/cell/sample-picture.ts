import { addressOf } from '../../core/feed/address.ts'
import { isMadeUp, madeUpPage } from '../../core/feed/made-up.ts'
import { decodedSize } from '../../core/loading/rendition.ts'
import type { Item, Project, Screen, Slot } from '../../core/project/types.ts'
import { baseOf } from '../../core/run/pictures.ts'
import { OriginClient } from '../../live/origin-client.ts'
import { currentDevice } from '../shell/device-store.ts'

let origin: Promise<OriginClient> | null = null

/** An item of the screen's feed to show a cell with; an empty one when none is known yet. */
export function sampleItem(screen: Screen): Item {
  const { source } = screen.feed
  if (source.type === 'inline') return source.items[0] ?? {}
  if (source.type === 'origin' && isMadeUp(source.feed)) return madeUpPage(source.feed, 1)!.items[7]!
  return currentDevice().items?.[0] ?? {}
}

/** Loads and decodes an item's picture at the size that the slot wants; null when it has none that can be. */
export async function samplePicture(project: Project, screen: Screen, slot: Slot, item: Item, px: { width: number; height: number }): Promise<ImageBitmap | null> {
  const { density } = project.device
  const address = addressOf(item, slot, { widthPx: px.width, heightPx: px.height, density }, baseOf(screen))
  origin ??= OriginClient.open({ ...project.network, downKbps: 10_000_000, rttMs: 0, jitterMs: 0, thinkMs: 0, faults: [], offline: [] }, 1)
  const client = await origin
  if (!client.serves(address.host)) return null
  const { url, release } = client.take(address.href)
  try {
    const reply = await fetch(url)
    if (!reply.ok) return null
    const full = await createImageBitmap(await reply.blob())
    const made = decodedSize(full, { ...px, fit: slot.fit, decodeAt: slot.decodeAt, made: '' })
    return await createImageBitmap(full, { resizeWidth: made.width, resizeHeight: made.height })
  } finally {
    release()
  }
}
