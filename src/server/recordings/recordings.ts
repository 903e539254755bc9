import { randomBytes } from 'node:crypto'
import { createReadStream, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs'
import { appendFile } from 'node:fs/promises'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type { Context } from 'koa'
import PQueue from 'p-queue'
import { z } from 'zod'
import { appEvent, appHead } from '../../core/evidence/app-event.ts'
import { recordingBody, type RecordingOrder } from '../bodies.ts'
import { Recording } from './recording.ts'

/** The most recordings that are held at once; the oldest that has ended makes room. */
const most = 20
/** Files of recordings that are kept. */
const mostFiles = 40
const tickMs = 100
const idPattern = /^[\w-]{12,40}$/

/** A line of the file in which a recording is kept. */
const keptLine = z.union([
  z.object({ order: recordingBody, beganAt: z.number() }),
  z.object({
    batch: z.object({
      atMs: z.number(),
      head: appHead.nullable(),
      rttMs: z.number().nullable(),
      events: z.array(appEvent),
      skipped: z.number(),
    }),
  }),
  z.object({ line: appEvent }),
  z.object({ endedMs: z.number() }),
])

/** The recordings of this server. Each is kept in a file too, as it comes, so that a server that ends loses nothing. */
export class Recordings {
  private readonly folder: string | null
  private readonly recordings = new Map<string, Recording>()
  private readonly writing = new PQueue({ concurrency: 1 })
  private readonly ticking: NodeJS.Timeout
  /** Recordings being read back now: a second call meanwhile waits for the same read. */
  private readonly reading = new Map<string, Promise<Recording | null>>()

  constructor(folder: string | null) {
    this.folder = folder
    if (folder !== null) mkdirSync(folder, { recursive: true })
    this.ticking = setInterval(() => {
      for (const recording of this.recordings.values()) if (recording.endedMs === null) recording.collect()
    }, tickMs)
    this.ticking.unref()
  }

  /** null: the most that can be recorded at once are being recorded. */
  create(order: RecordingOrder): Recording | null {
    if (this.recordings.size >= most) {
      const ended = [...this.recordings.values()].find(({ endedMs }) => endedMs !== null)
      if (!ended) return null
      this.recordings.delete(ended.id)
    }
    this.makeRoomOnDisk()
    const id = randomBytes(12).toString('base64url')
    const beganAt = Date.now()
    const recording = new Recording(id, order, beganAt, (line) => this.keep(id, line))
    this.keep(id, { order, beganAt })
    this.recordings.set(id, recording)
    return recording
  }

  list(): Recording[] {
    return [...this.recordings.values()]
  }

  async of(ctx: Pick<Context, 'throw'>, id: string): Promise<Recording> {
    const known = this.recordings.get(id) ?? (await this.foundOnDisk(id))
    return known ?? ctx.throw(404, 'there is no such recording; start another')
  }

  /** One that is in memory already: for requests that must be answered at once. */
  held(id: string): Recording | null {
    return this.recordings.get(id) ?? null
  }

  /** The server ends, with all of its connections: what was under way is over, and is kept as such. */
  async close(): Promise<void> {
    clearInterval(this.ticking)
    for (const recording of this.recordings.values()) recording.cutOff()
    await this.written()
  }

  /** Resolves when everything received is in its file, or is known not to be. */
  written(): Promise<void> {
    return this.writing.onIdle()
  }

  private keep(id: string, line: object): void {
    if (this.folder === null) return
    const file = this.fileOf(id)
    void this.writing
      .add(() => appendFile(file, `${JSON.stringify(line)}\n`))
      .catch((error: unknown) => {
        const recording = this.recordings.get(id)
        const why = (error as NodeJS.ErrnoException).code ?? String(error)
        if (recording) recording.trouble = `what arrives is not kept on disk (${why}): it is lost when the server ends`
      })
  }

  private fileOf(id: string): string {
    return join(this.folder!, `${id}.ndjson`)
  }

  private foundOnDisk(id: string): Promise<Recording | null> {
    const known = this.reading.get(id)
    if (known) return known
    const reading = this.readBack(id).finally(() => this.reading.delete(id))
    this.reading.set(id, reading)
    return reading
  }

  /** Recordings of an earlier server. */
  private async readBack(id: string): Promise<Recording | null> {
    if (this.folder === null || !idPattern.test(id)) return null
    let recording: Recording | null = null
    try {
      for await (const text of createInterface({ input: createReadStream(this.fileOf(id)) })) {
        const read = keptLine.safeParse(parsed(text))
        // The last line may be incomplete: the server ended while it was written.
        if (!read.success) continue
        const line = read.data
        if ('order' in line) recording ??= new Recording(id, line.order, line.beganAt, (more) => this.keep(id, more))
        else if (!recording) continue
        else if ('batch' in line) recording.takeRead(line.batch, line.batch.atMs)
        else if ('line' in line) recording.takeLine(line.line)
        else recording.endedMs = line.endedMs
      }
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null
      throw error
    }
    if (recording) this.recordings.set(id, recording)
    return recording
  }

  private makeRoomOnDisk(): void {
    if (this.folder === null) return
    const { folder } = this
    const files = readdirSync(folder)
      .filter((name) => name.endsWith('.ndjson'))
      .map((name) => ({ name, at: statSync(join(folder, name)).mtimeMs }))
      .sort((one, other) => one.at - other.at)
    // Those that have received nothing for the longest time go.
    for (const { name } of files.slice(0, Math.max(0, files.length + 1 - mostFiles)))
      if (!this.recordings.has(name.slice(0, -7))) rmSync(join(folder, name), { force: true })
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
