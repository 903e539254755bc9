import { dequal } from 'dequal'
import { database } from './database.ts'
import { keep } from './storage.ts'

const idOf = (project: string, name: string) => `${project} ${name}`

/** Pictures that wait for room in storage; they are usable meanwhile. */
const unkept = new Map<string, Blob>()

/**
 * Keeps pictures that were picked from this machine, for this browser alone. Returns the name under which each is kept:
 * a number is added where the name is taken by another picture, which an undo would need.
 */
export async function keepPictures(
  project: string,
  files: readonly { name: string; body: Blob }[],
): Promise<Map<string, string>> {
  const names = new Map<string, string>()
  for (const { name, body } of files) names.set(name, await nameToKeep(project, name, body))
  const entries = files.map(({ name, body }) => ({ id: idOf(project, names.get(name)!), project, body }))
  for (const { id, body } of entries) unkept.set(id, body)
  await keep(`pictures ${project}`, `${files.length} picked pictures`, async () => {
    await database.pictures.bulkPut(entries)
    for (const { id } of entries) unkept.delete(id)
  })
  return names
}

async function nameToKeep(project: string, name: string, body: Blob): Promise<string> {
  const kept = pickedOf(project)
  for (let number = 1; ; number++) {
    const free = number === 1 ? name : `${name} (${number})`
    // A picture that a failing storage does not return cannot be lost either.
    const other = await kept(free).catch(() => null)
    if (!other || (await isSame(other, body))) return free
  }
}

async function isSame(one: Blob, other: Blob): Promise<boolean> {
  if (one.size !== other.size) return false
  const [bytes, others] = await Promise.all([one.arrayBuffer(), other.arrayBuffer()])
  return dequal(new Uint8Array(bytes), new Uint8Array(others))
}

/** A project's picked picture by its name; null: it is not in this browser. */
export const pickedOf = (project: string) => async (name: string) => {
  const id = idOf(project, name)
  return unkept.get(id) ?? (await database.pictures.get(id))?.body ?? null
}
