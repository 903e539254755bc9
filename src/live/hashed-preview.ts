import { LRUCache } from 'lru-cache'
import type { PreviewAnswer, PreviewJob } from '../workers/messages.ts'

/** A preview of a few bytes that is in the feed beside the address. */
export type HashedAs = PreviewJob['as']

/** The drawn preview; null: the text is no such hash. */
export interface Preview {
  /** A blob address of the picture. */
  url: string
  /** The decoded picture: while it is held, a background with its address is painted in the very next frame. */
  image: HTMLImageElement
  /** Time to decode the pixels, off the main thread, ms. */
  ms: number
}

/** The number of drawn previews that are kept; some 2 kB each. */
const most = 500
const drawn = new LRUCache<string, { preview: Preview | null }>({
  max: most,
  dispose: ({ preview }) => preview && URL.revokeObjectURL(preview.url),
})
/** Hashes that are being drawn, with all callers that wait for them. */
const waiting = new Map<string, { id: number; done: ((preview: Preview | null) => void)[] }>()
let worker: Worker | null = null
let lastId = 0

/**
 * The preview of a hash, if it has been drawn: available at once, so that a cell that is bound again does not flash.
 */
export const drawnPreview = (as: HashedAs, text: string): Preview | null | undefined =>
  drawn.get(`${as} ${text}`)?.preview

/** Draws the preview of a hash in a worker, once; null: the text is no such hash. */
export function drawPreview(as: HashedAs, text: string): Promise<Preview | null> {
  const key = `${as} ${text}`
  const known = drawn.get(key)
  if (known) return Promise.resolve(known.preview)
  return new Promise((done) => {
    const asked = waiting.get(key)
    if (asked) {
      asked.done.push(done)
      return
    }
    const id = ++lastId
    waiting.set(key, { id, done: [done] })
    drawer().postMessage({ id, as, text } satisfies PreviewJob)
  })
}

function drawer(): Worker {
  if (worker) return worker
  worker = new Worker(new URL('../workers/preview-worker.ts', import.meta.url), { type: 'module' })
  worker.onmessage = ({ data }: MessageEvent<PreviewAnswer>) => void receive(data)
  // A worker that could not be loaded draws none; the next hash tries with a new one.
  worker.onerror = () => {
    worker = null
    for (const { done } of waiting.values()) for (const each of done) each(null)
    waiting.clear()
  }
  return worker
}

async function receive(answer: PreviewAnswer): Promise<void> {
  const preview = answer.ok ? await decoded(answer.picture, answer.us / 1000) : null
  const found = [...waiting].find(([, each]) => each.id === answer.id)
  if (!found) {
    if (preview) URL.revokeObjectURL(preview.url)
    return
  }
  const [key, { done }] = found
  waiting.delete(key)
  drawn.set(key, { preview })
  for (const each of done) each(preview)
}

async function decoded(picture: Blob, ms: number): Promise<Preview> {
  const image = new Image()
  image.src = URL.createObjectURL(picture)
  // One that cannot be decoded leaves its place empty, as any background does.
  await image.decode().catch(() => undefined)
  return { url: image.src, image, ms }
}
