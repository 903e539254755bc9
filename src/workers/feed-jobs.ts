import { readFeed, type FeedRead } from '../core/feed/read-feed.ts'
import { pictureHeader } from './picture-header.ts'
import type { PickedPicture, SimulateJob } from './messages.ts'

/** Reads a picked, pasted or fetched feed; texts are UTF-8, or UTF-16 with a mark that says so. */
export async function readFeedJob(
  job: Extract<SimulateJob, { do: 'read-feed' }>,
  progress: (share: number) => void,
): Promise<FeedRead> {
  const bytes = new Uint8Array(await job.body.arrayBuffer())
  progress(0.2)
  const text = decode(bytes)
  if (text === null)
    return { ok: false, message: 'the text is neither UTF-8 nor marked as UTF-16; save it as UTF-8 and open it again' }
  progress(0.4)
  const read = readFeed(job.name, text, job.wishes)
  progress(1)
  return read
}

/** Enough of a file to find its px in the header, behind large metadata too. */
const headerBytes = 262_144

/** Looks into the headers of picked files; what is neither a picture nor a video is left out. Null: cancelled. */
export async function readPicturesJob(
  job: Extract<SimulateJob, { do: 'read-pictures' }>,
  hooks: { cancelled: () => boolean; progress: (share: number) => void },
): Promise<PickedPicture[] | null> {
  const found: PickedPicture[] = []
  for (const [done, { name, body }] of job.files.entries()) {
    if (hooks.cancelled()) return null
    const size = pictureHeader(new Uint8Array(await body.slice(0, headerBytes).arrayBuffer()))
    if (size || /^(video\/|image\/svg)/.test(body.type))
      found.push({ name, bytes: body.size, width: size?.width ?? null, height: size?.height ?? null })
    hooks.progress((done + 1) / job.files.length)
  }
  return found
}

function decode(bytes: Uint8Array<ArrayBuffer>): string | null {
  const utf16 =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : null
  try {
    return new TextDecoder(utf16 ?? 'utf-8', { fatal: true }).decode(bytes)
  } catch {
    return null
  }
}
