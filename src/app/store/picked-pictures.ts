import { database } from './database.ts'
import { keep } from './storage.ts'

const idOf = (project: string, name: string) => `${project} ${name}`

/** Pictures that wait for room; they are used all the same. */
const unkept = new Map<string, Blob>()

/** Keeps pictures that were picked from this machine, for this browser alone. */
export async function keepPictures(project: string, files: readonly { name: string; body: Blob }[]): Promise<void> {
  const entries = files.map(({ name, body }) => ({ id: idOf(project, name), project, body }))
  for (const { id, body } of entries) unkept.set(id, body)
  await keep(`pictures ${project}`, `${files.length} picked pictures`, async () => {
    await database.pictures.bulkPut(entries)
    for (const { id } of entries) unkept.delete(id)
  })
}

/** Gives a project's picked picture by its name; null: it is not in this browser. */
export const pickedOf = (project: string) => async (name: string) => {
  const id = idOf(project, name)
  return unkept.get(id) ?? (await database.pictures.get(id))?.body ?? null
}
