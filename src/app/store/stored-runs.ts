import type { Raw } from '../../core/project/parse.ts'
import { database, type StoredLog, type StoredRun } from './database.ts'
import { keepItems, packItems, unpackItems } from './shared-items.ts'

/** Approximate size of a log and its map in storage, bytes. */
export function bytesOf(kept: StoredLog): number {
  let sum = kept.log.tables.length + (kept.kept?.length ?? 0)
  for (const chunk of kept.log.chunks) sum += chunk.length
  const { map } = kept
  for (const part of [map.lines, map.channel, map.drips, map.holes] as object[])
    for (const column of Object.values(part)) if (ArrayBuffer.isView(column)) sum += column.byteLength
  return sum
}

/** Writes a run and its log; `id` null: it gets the next number. Throws the errors of storage. */
export async function writeRun(
  run: Omit<StoredRun, 'id'>,
  log: Omit<StoredLog, 'run'>,
  id: number | null,
): Promise<number> {
  const packed = packItems(run.raw)
  return database.transaction('rw', database.runs, database.runLogs, database.shared, async () => {
    await keepItems(packed.lists)
    const entry = { ...run, raw: packed.raw }
    const taken = id !== null && (await database.runs.get(id)) !== undefined
    const now = await database.runs.add(id === null || taken ? entry : ({ ...entry, id } as StoredRun))
    await database.runLogs.put({ ...log, run: now })
    return now
  })
}

/** The runs of a project as they are kept, oldest first, with their items. */
export async function readRuns(project: string): Promise<StoredRun[]> {
  const found = await database.runs.where('project').equals(project).sortBy('id')
  return Promise.all(found.map(withItems))
}

export async function readLatestRun(project: string): Promise<StoredRun | undefined> {
  const found = await database.runs.where('project').equals(project).last()
  return found && withItems(found)
}

/** A run whose items are gone is still a run: its log and figures do not need them. */
async function withItems(run: StoredRun): Promise<StoredRun> {
  const raw = await unpackItems(run.raw).catch((): Raw => run.raw)
  return raw === run.raw ? run : { ...run, raw }
}

/** Gives another project the same runs. */
export async function copyRuns(from: string, to: string): Promise<void> {
  const runs = await database.runs.where('project').equals(from).sortBy('id')
  for (const { id, ...run } of runs)
    await database.transaction('rw', database.runs, database.runLogs, async () => {
      const log = await database.runLogs.get(id)
      const now = await database.runs.add({ ...run, project: to })
      if (log) await database.runLogs.put({ ...log, run: now })
    })
}
