import { addressOf, type Address } from '../../../core/feed/address.ts'
import { failWords } from '../../../core/loading/fail-words.ts'
import { refusalOf } from '../../../core/loading/refusal.ts'
import { decodedSize } from '../../../core/loading/rendition.ts'
import type { Item, Screen, Slot } from '../../../core/project/types.ts'
import { baseOf, targetOf } from '../../../core/list/pictures.ts'
import { treat } from '../../../workers/treat.ts'
import { localBody } from '../../../live/local-body.ts'
import { OriginClient, type SessionHeader } from '../../../live/origin-client.ts'
import { needsPage, pageDecode } from '../../../live/page-decode.ts'
import { pickedOf } from '../../store/picked-pictures.ts'
import { headersOf } from '../../store/secrets.ts'
import type { ProjectState } from '../../store/project-store.ts'

/** The session in which samples are requested, and the headers that it was opened with. */
let origin: { headers: string; client: Promise<OriginClient> } | null = null

/** Why a picture is unavailable. */
class NoSample extends Error {}

/**
 * Loads and decodes an item's picture at the size that the slot wants; null when it has no address. Throws NoSample
 * with the reason when it is unavailable.
 */
export async function samplePicture(
  state: Pick<ProjectState, 'id' | 'project'>,
  screen: Screen,
  slot: Slot,
  item: Item,
  px: { width: number; height: number },
): Promise<ImageBitmap | null> {
  const { density } = state.project.device
  const address = addressOf(item, slot, { widthPx: px.width, heightPx: px.height, density }, baseOf(screen))
  if (address.class === 'absent' || address.class === 'empty') return null
  return pictureAt(state, address, slot, px)
}

/**
 * The picture at an address, decoded as a slot of so many px wants it. Throws NoSample with the reason when it is
 * unavailable.
 */
export async function pictureAt(
  state: Pick<ProjectState, 'id' | 'project'>,
  address: Address,
  slot: Slot,
  px: { width: number; height: number },
): Promise<ImageBitmap> {
  const body = await bodyAt(state, address)
  const target = targetOf(slot, px, state.project.device.density)
  try {
    if (needsPage(body.type)) return (await pageDecode(body, target)).bitmap
    const full = await createImageBitmap(body)
    const made = decodedSize(full, target)
    const treated = treat(await createImageBitmap(full, { resizeWidth: made.width, resizeHeight: made.height }), target)
    return treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated
  } catch {
    throw new NoSample('what came is not a picture that can be decoded')
  }
}

async function bodyAt({ id, project }: Pick<ProjectState, 'id' | 'project'>, address: Address): Promise<Blob> {
  if (/^(data|packaged|local):/.test(address.href)) {
    const body = await localBody(address.href, project.assets, pickedOf(id))
    if (!body) throw new NoSample(`nothing is kept under ${address.href.slice(0, 60)}`)
    return body
  }
  if (address.class !== 'good' && address.class !== 'cleartext')
    throw new NoSample(`its address cannot be used (${address.class})`)
  // A sample is what the app would get: what the app may not request is not requested here either.
  const refused = refusalOf(address.href, address.host, project.loading, project.device.granted)
  if (refused !== null) throw new NoSample(failWords[refused]!)
  const client = await sessionWith(await headersOf(project.loading))
  if (!client.serves(address.host))
    throw new NoSample(`${address.host} is not among the hosts that the server was started for`)
  const reply = await client.ask(address.href, {})
  if (!reply.ok) throw new NoSample(`${address.host} answers with status ${reply.status}`)
  return reply.blob()
}

/** A session that sends these headers. A server that was away for the last sample may be there for the next. */
function sessionWith(headers: readonly SessionHeader[]): Promise<OriginClient> {
  const text = JSON.stringify(headers)
  if (origin?.headers === text) return origin.client
  const wanted = {
    headers: text,
    client: OriginClient.unpaced(headers).catch((error: unknown) => {
      if (origin === wanted) origin = null
      throw error
    }),
  }
  origin = wanted
  return wanted.client
}
