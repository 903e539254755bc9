import { projectFormat, projectVersion } from '../../core/project/project-schema.ts'
import { database, type StoredProject, sweepName } from './database.ts'
import { addStep } from './history.ts'
import { addProject, currentProject, edit, openStored } from './project-store.ts'
import { flush, forgetProject } from './saving.ts'
import { dropUnusedItems, keepItems, namesIn, unpackItems } from './shared-items.ts'
import { keep, tryAgain } from './storage.ts'
import { copyRuns } from './stored-runs.ts'
import { loadDemo } from './demo.ts'

/** A project as the list of all shows it. */
export interface ListedProject {
  id: string
  name: string
  changed: number
  runs: number
  /** Approximate size in storage with all that belongs to it, bytes. */
  bytes: number
}

/** A project with one empty list, to begin from. */
const empty = {
  format: projectFormat,
  version: projectVersion,
  name: 'New project',
  screens: [{ id: 'list', name: 'List', cells: [{ slots: [{ id: 'main' }] }] }],
}

export const addDemo = async () => addProject(await loadDemo(), null)
export const addEmpty = () => addProject(empty, null)

/** Every project of this browser with its size, the most recently changed first. */
export async function listProjects(): Promise<ListedProject[]> {
  const [projects, runs, feeds, pictures, shared] = await Promise.all([
    database.projects.orderBy('changed').reverse().toArray(),
    database.runs.toArray(),
    database.feeds.toArray(),
    database.pictures.toArray(),
    database.shared.toArray(),
  ])
  const listBytes = new Map(shared.map(({ id, items }) => [id, JSON.stringify(items).length]))
  const sum = <T>(all: readonly T[], of: (one: T) => number) => all.reduce((total, one) => total + of(one), 0)
  return projects.map(({ id, name, changed, raw }) => {
    const own = runs.filter(({ project }) => project === id)
    return {
      id,
      name,
      changed,
      runs: own.length,
      bytes:
        JSON.stringify(raw).length +
        sum(namesIn(raw), (list) => listBytes.get(list) ?? 0) +
        sum(own, ({ bytes }) => bytes ?? 0) +
        sum(
          feeds.filter(({ project }) => project === id),
          ({ items }) => JSON.stringify(items).length,
        ) +
        sum(
          pictures.filter(({ project }) => project === id),
          ({ body }) => body.size,
        ),
    }
  })
}

/** Gives a project another name, whether it is open or not. */
export async function renameProject(id: string, name: string): Promise<void> {
  const title = name.trim()
  if (title === '') return
  if (currentProject()?.id === id) {
    edit('rename the project', [{ op: 'replace', path: '/name', value: title }])
    await flush()
    return
  }
  const stored = await database.projects.get(id)
  if (!stored || stored.name === title) return
  const put = (value: string) => async () => {
    const now = await database.projects.get(id)
    if (now)
      await database.projects.put({
        ...now,
        rev: now.rev + 1,
        name: value,
        raw: { ...now.raw, name: value },
        changed: Date.now(),
      })
  }
  const rename = async (value: string) => {
    await keep(`name of ${id}`, 'the name of a project', put(value))
  }
  await rename(title)
  addStep({
    name: `rename “${stored.name}”`,
    project: null,
    undo: () => rename(stored.name),
    redo: () => rename(title),
  })
}

/** A second project with the same file and the same runs; it is opened. */
export async function duplicateProject(id: string): Promise<void> {
  await flush()
  const stored = await database.projects.get(id)
  if (!stored) return
  const raw = await unpackItems(stored.raw)
  await addProject({ ...raw, name: `${stored.name} (copy)` }, null)
  await copyRuns(id, currentProject()!.id)
}

/**
 * Deletes a project with all that belongs to it, as a step that can be undone. When it is open, another one is opened.
 */
export async function deleteProject(id: string): Promise<void> {
  await flush()
  const stored = await database.projects.get(id)
  if (!stored) return
  const owned = await ownedBy(stored)
  const remove = async () => {
    forgetProject(id)
    await database.transaction('rw', tables(), async () => {
      await database.projects.delete(id)
      await database.runs.bulkDelete(owned.runs.map((run) => run.id))
      await database.runLogs.bulkDelete(owned.runs.map((run) => run.id))
      await database.feeds.where('project').equals(id).delete()
      await database.pictures.where('project').equals(id).delete()
      await database.memory.delete(sweepName(id))
    })
    await dropUnusedItems()
    if (currentProject()?.id === id) {
      const next = await database.projects.orderBy('changed').last()
      if (next) await openStored(next.id)
      else await addDemo()
    }
    await tryAgain()
  }
  const bringBack = async () => {
    await keep(`project ${id}`, `the project “${stored.name}”`, () =>
      database.transaction('rw', tables(), async () => {
        await keepItems(owned.lists)
        await database.projects.put(stored)
        await database.runs.bulkPut(owned.runs)
        await database.runLogs.bulkPut(owned.logs)
        await database.feeds.bulkPut(owned.feeds)
        await database.pictures.bulkPut(owned.pictures)
        if (owned.sweep) await database.memory.put(owned.sweep)
      }),
    )
    await openStored(id)
  }
  await remove()
  addStep({
    name: `delete the project “${stored.name}”`,
    notice: `The project “${stored.name}” was deleted`,
    project: null,
    undo: bringBack,
    redo: remove,
  })
}

const tables = () => [
  database.projects,
  database.runs,
  database.runLogs,
  database.feeds,
  database.pictures,
  database.shared,
  database.memory,
]

/** What is deleted with a project. Runs are taken as they are kept, their lists of items beside them. */
async function ownedBy({ id, raw }: StoredProject) {
  const [runs, feeds, pictures, sweep] = await Promise.all([
    database.runs.where('project').equals(id).toArray(),
    database.feeds.where('project').equals(id).toArray(),
    database.pictures.where('project').equals(id).toArray(),
    database.memory.get(sweepName(id)),
  ])
  const logs = (await database.runLogs.bulkGet(runs.map((run) => run.id))).filter((log) => log !== undefined)
  const files = [raw, ...runs.map((run) => run.raw)]
  const names = [...new Set(files.flatMap(namesIn))]
  const lists = (await database.shared.bulkGet(names)).filter((list) => list !== undefined)
  return { runs, logs, feeds, pictures, lists, sweep }
}
