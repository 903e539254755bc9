import { knownItems } from '../../core/feed/known-items.ts'
import { readFeed, type FeedRead, type FeedOptions } from '../../core/feed/read-feed.ts'
import type { Item, Project } from '../../core/project/types.ts'
import { checkFeed, type FeedCheck } from '../../core/simulate/feed-check.ts'
import { pictureHeader } from '../picture-header.ts'
import { stopIfCancelled, type JobHooks } from './job.ts'

export interface ReadFeedOrder {
  name: string
  body: Blob
  options: FeedOptions
}

/** Reads a picked, pasted or fetched feed; texts are UTF-8, or UTF-16 with a byte order mark. */
export async function readFeedJob(job: ReadFeedOrder, { progress }: Pick<JobHooks, 'progress'>): Promise<FeedRead> {
  const bytes = new Uint8Array(await job.body.arrayBuffer())
  progress(0.2)
  const text = decode(bytes)
  if (text === null)
    return { ok: false, message: 'the text is neither UTF-8 nor marked as UTF-16; save it as UTF-8 and open it again' }
  progress(0.4)
  const read = readFeed(job.name, text, job.options)
  progress(1)
  return read
}

/** Enough of a file to find its px in the header, after large metadata too. */
const headerBytes = 262_144

/** A picked file that is a picture or a video; px are null where its header does not have them. */
export interface PickedPicture {
  name: string
  bytes: number
  width: number | null
  height: number | null
}

/** Reads the headers of picked files; files that are neither a picture nor a video are left out. */
export async function readPicturesJob(
  job: { files: { name: string; body: Blob }[] },
  hooks: JobHooks,
): Promise<PickedPicture[]> {
  const found: PickedPicture[] = []
  for (const [done, { name, body }] of job.files.entries()) {
    stopIfCancelled(hooks)
    const size = pictureHeader(new Uint8Array(await body.slice(0, headerBytes).arrayBuffer()))
    if (size || /^(video\/|image\/svg)/.test(body.type))
      found.push({ name, bytes: body.size, width: size?.width ?? null, height: size?.height ?? null })
    hooks.progress((done + 1) / job.files.length)
  }
  return found
}

/** Checks every address of a screen before anything loads. `items`: null where the project has them. */
export function checkFeedJob(job: {
  project: Project
  screen: number
  items: readonly Item[] | null
  relay: readonly string[] | null
}): FeedCheck {
  const screen = job.project.screens[job.screen]!
  return checkFeed(job.project, screen, job.items ?? knownItems(screen.feed) ?? [], job.relay)
}

/** By the byte order mark; UTF-8 without one. */
function encodingOf([first, second]: Uint8Array): string {
  if (first === 0xff && second === 0xfe) return 'utf-16le'
  return first === 0xfe && second === 0xff ? 'utf-16be' : 'utf-8'
}

function decode(bytes: Uint8Array<ArrayBuffer>): string | null {
  try {
    return new TextDecoder(encodingOf(bytes), { fatal: true }).decode(bytes)
  } catch {
    return null
  }
}
