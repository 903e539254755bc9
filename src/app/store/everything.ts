import { unzip, zip, strFromU8, strToU8, type Unzipped, type Zippable } from 'fflate'
import { z } from 'zod'
import type { EncodedLog } from '../../core/log/log-encoding.ts'
import { parseProject } from '../../core/project/parse.ts'
import type { Item } from '../../core/project/types.ts'
import { runWorker } from '../simulate/worker-client.ts'
import { database, type OwnPreset, type StoredRun } from './database.ts'
import { notify } from './project-store.ts'
import { keepItems, packItems, unpackItems } from './shared-items.ts'
import { logOf } from './run-store.ts'
import { bytesOf, readRuns, writeRun } from './stored-runs.ts'

/** The first entry of the zip file that carries everything of one address of the app to another. */
const format = 'tile-tug/everything'
const version = 1
/** A file of more bytes than this is not read. */
const mostBytes = 1_000_000_000

const manifestSchema = z.object({ format: z.literal(format), version: z.number().int().min(1).max(version) })
const projectsSchema = z.array(
  z.object({
    id: z.string().min(1).max(100),
    name: z.string(),
    raw: z.record(z.string(), z.unknown()),
    changed: z.number(),
  }),
)
const feedsSchema = z.array(
  z.object({ project: z.string(), name: z.string(), items: z.array(z.record(z.string(), z.unknown())) }),
)
const presetsSchema = z.array(
  z.object({
    id: z.string(),
    of: z.enum(['policy', 'device', 'network']),
    name: z.string(),
    values: z.record(z.string(), z.unknown()),
  }),
)
const picturesSchema = z.array(z.object({ project: z.string(), id: z.string(), type: z.string(), file: z.string() }))
const runsSchema = z.array(
  z.object({
    folder: z.string(),
    run: z.looseObject({ project: z.string(), raw: z.record(z.string(), z.unknown()) }),
    log: z.looseObject({}),
    chunks: z.number().int().min(0).max(1000),
  }),
)

const text = (value: unknown) => strToU8(JSON.stringify(value))

/** Everything that this browser keeps, but for secrets: projects, runs with their logs, feeds, pictures, presets. */
export async function exportEverything(): Promise<Blob> {
  const files: Zippable = { 'manifest.json': text({ format, version }) }
  const projects = await database.projects.toArray()
  files['projects.json'] = text(
    await Promise.all(
      projects.map(async ({ id, name, raw, changed }) => ({ id, name, raw: await unpackItems(raw), changed })),
    ),
  )
  const runs: z.infer<typeof runsSchema> = []
  for (const { id: project } of projects)
    for (const { id, ...run } of await readRuns(project)) {
      const kept = await logOf(id)
      if (!kept) continue
      const { tables, chunks, ...log } = kept.log
      const folder = `runs/${id}`
      files[`${folder}/tables`] = [tables, { level: 0 }]
      for (const [i, chunk] of chunks.entries()) files[`${folder}/chunk-${i}`] = [chunk, { level: 0 }]
      runs.push({ folder, run: { ...run, kept: kept.kept ?? null }, log, chunks: chunks.length })
    }
  files['runs.json'] = text(runs)
  files['feeds.json'] = text(
    (await database.feeds.toArray()).map(({ project, name, items }) => ({ project, name, items })),
  )
  files['presets.json'] = text(await database.presets.toArray())
  const pictures = await database.pictures.toArray()
  for (const [i, { body }] of pictures.entries())
    files[`pictures/${i}`] = [new Uint8Array(await body.arrayBuffer()), { level: 0 }]
  files['pictures.json'] = text(
    pictures.map(({ project, id, body }, i) => ({ project, id, type: body.type, file: `pictures/${i}` })),
  )
  const packed = await new Promise<Uint8Array>((resolve, reject) =>
    zip(files, { level: 6 }, (error, data) => (error ? reject(error) : resolve(data))),
  )
  return new Blob([packed as Uint8Array<ArrayBuffer>], { type: 'application/zip' })
}

/** Imports everything of such a file, beside what is here; a project that is here already comes as a copy. */
export async function importEverything(file: File): Promise<void> {
  if (file.size > mostBytes) throw new Error(`it has ${file.size} bytes; at most ${mostBytes} are read`)
  const files = await new Promise<Unzipped>((resolve, reject) => {
    void file
      .arrayBuffer()
      .then((bytes) => unzip(new Uint8Array(bytes), (error, data) => (error ? reject(error) : resolve(data))), reject)
  }).catch((error: unknown) => {
    throw new Error(`it is not a zip that can be read (${error instanceof Error ? error.message : String(error)})`)
  })
  const read = <T>(name: string, schema: z.ZodType<T>): T => {
    const entry = files[name]
    if (!entry) throw new Error(`it has no ${name}: it is not an export of everything from Tile Tug`)
    let value: unknown
    try {
      value = JSON.parse(strFromU8(entry))
    } catch {
      throw new Error(`${name} in it is not JSON`)
    }
    const parsed = schema.safeParse(value)
    if (parsed.success) return parsed.data
    const issue = parsed.error.issues[0]!
    throw new Error(`${name}: /${issue.path.map(String).join('/')}: ${issue.message}`)
  }
  read('manifest.json', manifestSchema)
  const projects = read('projects.json', projectsSchema)
  for (const { name, raw } of projects) {
    const parsed = parseProject(raw)
    if (!parsed.ok) throw new Error(`the project “${name}” in it cannot be read: ${parsed.message}`)
  }
  const runs = read('runs.json', runsSchema)
  const feeds = read('feeds.json', feedsSchema)
  const presets = read('presets.json', presetsSchema)
  const pictures = read('pictures.json', picturesSchema)
  // All is read before anything is written: of a damaged file nothing is imported.
  const logs = await Promise.all(runs.map((run) => readLog(run, files)))
  /** The id that each project has here. */
  const ids = new Map<string, string>()
  for (const { id, name, raw, changed } of projects) {
    const taken = (await database.projects.get(id)) !== undefined
    const now = taken ? crypto.randomUUID() : id
    ids.set(id, now)
    const title = taken ? `${name} (imported)` : name
    const packed = packItems(taken ? { ...raw, name: title } : raw)
    await database.transaction('rw', database.projects, database.shared, async () => {
      await keepItems(packed.lists)
      await database.projects.put({ id: now, rev: 1, name: title, raw: packed.raw, changed })
    })
  }
  for (const [i, { run }] of runs.entries()) {
    const project = ids.get(run.project)
    if (project === undefined) continue
    const { kept, ...rest } = run as unknown as Omit<StoredRun, 'id'> & { kept: string | null }
    const stored = { ...logs[i]!, kept }
    await writeRun({ ...rest, project, bytes: bytesOf({ run: 0, ...stored }) }, stored, null)
  }
  for (const { project, name, items } of feeds) {
    const id = ids.get(project)
    if (id !== undefined) await database.feeds.put({ id: `${id} ${name}`, project: id, name, items: items as Item[] })
  }
  await database.presets.bulkPut(presets as OwnPreset[])
  for (const { project, id, type, file: place } of pictures) {
    const now = ids.get(project)
    const bytes = files[place]
    if (now === undefined || !bytes) continue
    const name = id.slice(project.length + 1)
    await database.pictures.put({
      id: `${now} ${name}`,
      project: now,
      body: new Blob([bytes as Uint8Array<ArrayBuffer>], { type }),
    })
  }
  notify(
    `${file.name}: ${count(projects.length, 'project')} and ${count(runs.length, 'run')} were brought in. They are in the project menu.`,
  )
}

/** A run's log out of such a file, with its map: that is made from the log again, and not trusted to a file. */
async function readLog({ folder, log, chunks }: z.infer<typeof runsSchema>[number], files: Unzipped) {
  const part = (name: string) => {
    const entry = files[`${folder}/${name}`]
    if (!entry) throw new Error(`it has no ${folder}/${name}: a part of a run is missing`)
    return entry
  }
  const encoded = {
    ...log,
    tables: part('tables'),
    chunks: Array.from({ length: chunks }, (_, i) => part(`chunk-${i}`)),
  } as unknown as EncodedLog
  try {
    const { map } = await runWorker.ask('describe', { log: encoded, against: null }).result
    return { log: encoded, map }
  } catch (error) {
    throw new Error(`the run in ${folder} cannot be read (${error instanceof Error ? error.message : String(error)})`, {
      cause: error,
    })
  }
}

const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`
