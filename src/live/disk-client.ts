import type { DiskEntry } from '../core/loading/disk-tier.ts'
import type { Body } from '../workers/body.ts'
import type { DiskChange } from '../workers/disk-store.ts'
import type { FromDisk, ToDisk } from '../workers/messages.ts'

/** How long a store may take to answer, ms: it first writes what a drive has left. */
const answerMs = 10_000
/** Changes wait for others for so long, ms: while pictures pour in, each message would take of a frame. */
const togetherMs = 100

/** What is called when changes were lost, by the number of the run. */
const runs = new Map<number, (error: string) => void>()
const reads = new Map<number, ((body: Body | null) => void)[]>()
const lists = new Map<number, (entries: DiskEntry[] | null) => void>()
let batch: { place: string; done: (body: Body | null) => void }[] = []
let changes: DiskChange[] = []
let changing: ReturnType<typeof setTimeout> | undefined
let worker: Worker | null = null
let last = 0

/** Returns a number for further changes; `lost` is called for those that could not be made. */
export function openDisk(lost: (error: string) => void): number {
  runs.set(++last, lost)
  return last
}

/** Changes of this number are not reported any more; pending ones are made now. */
export function closeDisk(disk: number): void {
  runs.delete(disk)
  if (worker) post({ type: 'flush' })
}

/** Changes the disk: in the order of the calls, also after the run that makes them has ended. */
export function changeDisk(change: DiskChange): void {
  if (changes.push(change) === 1) changing = setTimeout(sendChanges, togetherMs)
}

/** Reads a body; null: there is none. Reads of one frame are sent together. */
export function readDisk(place: string, done: (body: Body | null) => void): void {
  if (batch.push({ place, done }) > 1) return
  queueMicrotask(() => {
    const asked = batch
    batch = []
    reads.set(
      ++last,
      asked.map((each) => each.done),
    )
    post({ type: 'read', id: last, places: asked.map((each) => each.place) })
  })
}

/** The index of an owner's entries once all earlier changes are made, least recently written first. */
export async function keptOnDisk(whose: string): Promise<DiskEntry[]> {
  // A store that does not answer keeps nothing; the runs themselves report that they cannot use it.
  return (await listOf(whose)) ?? []
}

/** The same; null: the store does not answer. */
function listOf(whose: string): Promise<DiskEntry[] | null> {
  const id = ++last
  return new Promise((resolve) => {
    const answer = (entries: DiskEntry[] | null) => {
      lists.delete(id)
      clearTimeout(late)
      resolve(entries)
    }
    const late = setTimeout(() => answer(null), answerMs)
    lists.set(id, answer)
    post({ type: 'kept', id, whose })
  })
}

/** Deletes an owner's entries. Throws when they cannot be deleted. */
export async function clearDisk(whose: string): Promise<void> {
  let lost: string | null = null
  const disk = openDisk((error) => (lost = error))
  changeDisk({ type: 'clear', disk, whose })
  // Answered when it has been emptied.
  if ((await listOf(whose)) === null) lost ??= 'it does not answer'
  closeDisk(disk)
  if (lost !== null) throw new Error(`The disk tier cannot be emptied (${lost}).`)
}

/** What is asked of the disk is asked after all changes before it. */
function post(message: ToDisk): void {
  sendChanges()
  worker ??= open()
  worker.postMessage(message)
}

function sendChanges(): void {
  clearTimeout(changing)
  if (changes.length === 0) return
  worker ??= open()
  worker.postMessage({ type: 'changes', changes } satisfies ToDisk)
  changes = []
}

/** One worker for all runs of the page: database work is not part of a frame. */
function open(): Worker {
  const opened = new Worker(new URL('../workers/disk-worker.ts', import.meta.url), { type: 'module' })
  opened.onmessage = ({ data }: MessageEvent<FromDisk>) => {
    if (data.type === 'failed') runs.get(data.disk)?.(data.error)
    else if (data.type === 'kept') lists.get(data.id)?.(data.entries)
    else {
      const waiting = reads.get(data.id)!
      reads.delete(data.id)
      for (const [i, done] of waiting.entries()) done(data.bodies[i]!)
    }
  }
  // A worker that could not be loaded, or has failed, has nothing; the next call tries with a new one.
  opened.onerror = () => {
    opened.terminate()
    worker = null
    for (const lost of [...runs.values()]) lost('its worker has failed')
    for (const answer of [...lists.values()]) answer(null)
    const waiting = [...reads.values()].flat()
    reads.clear()
    for (const done of waiting) done(null)
  }
  return opened
}
