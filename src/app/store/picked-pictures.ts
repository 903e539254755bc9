import { database } from './database.ts'

const idOf = (project: string, name: string) => `${project} ${name}`

/** Keeps pictures that were picked from this machine, for this browser alone. */
export async function keepPictures(project: string, files: readonly { name: string; body: Blob }[]): Promise<void> {
  await database.pictures.bulkPut(files.map(({ name, body }) => ({ id: idOf(project, name), project, body })))
}

/** Gives a project's picked picture by its name; null: it is not in this browser. */
export const pickedOf = (project: string) => async (name: string) =>
  (await database.pictures.get(idOf(project, name)))?.body ?? null
