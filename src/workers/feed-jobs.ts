import { readFeed, type FeedRead } from '../core/feed/read-feed.ts'
import type { SimulateJob } from './messages.ts'

/** Reads a picked, pasted or fetched feed; texts are UTF-8, or UTF-16 with a mark that says so. */
export async function readFeedJob(job: Extract<SimulateJob, { do: 'read-feed' }>, progress: (share: number) => void): Promise<FeedRead> {
  const bytes = new Uint8Array(await job.body.arrayBuffer())
  progress(0.2)
  const text = decode(bytes)
  if (text === null) return { ok: false, message: 'the text is neither UTF-8 nor marked as UTF-16; save it as UTF-8 and open it again' }
  progress(0.4)
  const read = readFeed(job.name, text, job.wishes)
  progress(1)
  return read
}

function decode(bytes: Uint8Array<ArrayBuffer>): string | null {
  const utf16 = bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : null
  try {
    return new TextDecoder(utf16 ?? 'utf-8', { fatal: true }).decode(bytes)
  } catch {
    return null
  }
}
