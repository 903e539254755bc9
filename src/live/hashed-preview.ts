import { LRUCache } from 'lru-cache'
import type { PreviewAnswer, PreviewJob } from '../workers/messages.ts'

/** A preview of a few bytes that is in the feed beside the address. */
export type HashedAs = PreviewJob['as']

/** The drawn preview; null: the text is no such hash. */
export interface Preview {
  /**
   * A data address: a background that has it is painted in the next frame, in pictures of the list too. One with a blob
   * address is loaded first, and nothing else can load it.
   */
  url: string
  /** Time to decode the pixels, off the main thread, ms. */
  ms: number
}

/** The number of drawn previews that are kept; some 2 kB each. */
const most = 500
const drawn = new LRUCache<string, { preview: Preview | null }>({ max: most })
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

/** Resolves when all previews that are being drawn are there. */
export async function previewsDrawn(): Promise<void> {
  await Promise.all([...waiting.values()].map(({ done }) => new Promise((drawn) => done.push(drawn))))
}

function drawer(): Worker {
  if (worker) return worker
  worker = new Worker(new URL('../workers/preview-worker.ts', import.meta.url), { type: 'module' })
  worker.onmessage = ({ data }: MessageEvent<PreviewAnswer>) => {
    const found = [...waiting].find(([, each]) => each.id === data.id)
    if (!found) return
    const [key, { done }] = found
    waiting.delete(key)
    const preview = data.ok ? { url: data.url, ms: data.us / 1000 } : null
    drawn.set(key, { preview })
    for (const each of done) each(preview)
  }
  // A worker that could not be loaded draws none; the next hash tries with a new one.
  worker.onerror = () => {
    worker = null
    for (const { done } of waiting.values()) for (const each of done) each(null)
    waiting.clear()
  }
  return worker
}
