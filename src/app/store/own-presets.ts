import { useLiveQuery } from 'dexie-react-hooks'
import { database, type OwnPreset } from './database.ts'
import { keep } from './storage.ts'

/** The presets of your own, by name; undefined while they are read. `of`: null where there can be none. */
export function useOwnPresets(of: OwnPreset['of'] | null): OwnPreset[] | undefined {
  return useLiveQuery(() => (of === null ? [] : readOwnPresets(of)), [of])
}

/** The same, read once. */
export const readOwnPresets = (of: OwnPreset['of']): Promise<OwnPreset[]> =>
  database.presets.where('of').equals(of).sortBy('name')

/** Keeps values under a name; the same name replaces the former. */
export async function keepPreset(of: OwnPreset['of'], name: string, values: Record<string, unknown>): Promise<void> {
  await keep(`preset ${of} ${name}`, `the preset “${name}”`, async () => {
    await database.presets.put({ id: `${of} ${name}`, of, name, values })
  })
}

export async function dropPreset(preset: OwnPreset): Promise<void> {
  await database.presets.delete(preset.id)
}
