import type { Loading } from '../../core/project/types.ts'
import type { SessionHeader } from '../../live/origin-client.ts'
import { database } from './database.ts'
import { createStore } from './external-store.ts'
import { keep } from './storage.ts'

/** Increased when a secret is kept or forgotten: it is not part of the project, but of the device's requests. */
const changes = createStore(0)
export const useSecretChanges = changes.use

/** Secrets live in this browser alone, by name; a project file names them and never holds them. */
export async function keepSecret(name: string, value: string): Promise<void> {
  await keep(`secret ${name}`, `the secret “${name}”`, async () => {
    await database.secrets.put({ name, value })
  })
  changes.set(changes.get() + 1)
}

export async function forgetSecret(name: string): Promise<void> {
  await database.secrets.delete(name)
  changes.set(changes.get() + 1)
}

/** The project's headers with their secrets, as far as those are known in this browser. */
export async function headersOf(loading: Loading): Promise<SessionHeader[]> {
  const found = await Promise.all(
    loading.headers.map(async ({ host, name, scheme, secret }) => {
      const stored = await database.secrets.get(secret)
      return stored ? [{ host, name, value: scheme === '' ? stored.value : `${scheme} ${stored.value}` }] : []
    }),
  )
  return found.flat()
}
