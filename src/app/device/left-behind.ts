import type { Visit } from '../../core/project/types.ts'
import type { LeftBehind } from '../../live/live-options.ts'
import { createStore } from '../store/external-store.ts'
import { notify } from '../store/project-store.ts'

/** What a project's drives have left in each tier for later visits, bytes. */
const sizes = createStore({ memory: 0, disk: 0 })
export const useLeft = sizes.use

let held: { project: string; left: LeftBehind } | null = null

const leftOf = (project: string) => (held?.project === project ? held.left : null)
const diskClient = () => import('../../live/disk-client.ts')

/**
 * What a visit finds: what the project's last drive has left, else what is on disk from before this page was opened.
 * From then on it belongs to the run.
 */
export async function takeLeft(project: string, visit: Visit): Promise<LeftBehind | null> {
  if (visit === 'first') return null
  const disk = await (await diskClient()).keptOnDisk(project)
  const left = leftOf(project)
  if (disk.length === 0 && left === null) notify('Nothing is kept from an earlier visit: this one begins like a first.')
  // A restarted app has an empty memory.
  if (left === null || visit === 'restarted') forgetMemory()
  const given = leftOf(project) ?? { tiers: { disk, memory: [] }, pictures: [] }
  held = null
  return given
}

/** A drive is over: what it leaves replaces what was there. */
export async function leave(project: string, left: LeftBehind): Promise<void> {
  forgetMemory()
  held = { project, left }
  await lookAtTiers(project)
}

/** Reports again what the tiers hold for later visits. */
export async function lookAtTiers(project: string): Promise<void> {
  const left = leftOf(project)
  const disk = left?.tiers.disk ?? (await (await diskClient()).keptOnDisk(project))
  const sum = (entries: readonly { bytes: number }[]) => entries.reduce((total, { bytes }) => total + bytes, 0)
  sizes.set({ memory: sum(left?.tiers.memory ?? []), disk: sum(disk) })
}

/** Empties a tier that earlier drives have filled. */
export async function clearTier(project: string, tier: 'memory' | 'disk'): Promise<void> {
  if (tier === 'memory') forgetMemory()
  else {
    try {
      await (await diskClient()).clearDisk(project)
    } catch (error) {
      notify((error as Error).message)
      return
    }
    if (held) held.left = { ...held.left, tiers: { ...held.left.tiers, disk: [] } }
  }
  await lookAtTiers(project)
}

function forgetMemory(): void {
  if (!held) return
  const { pictures, tiers } = held.left
  for (const each of pictures)
    for (const picture of [each?.picture, ...(each?.frames ?? [])]) if (picture instanceof ImageBitmap) picture.close()
  held.left = { tiers: { ...tiers, memory: [] }, pictures: [] }
}
