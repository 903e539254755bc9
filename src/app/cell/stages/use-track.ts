import useSWRImmutable from 'swr/immutable'
import type { Item, Project } from '../../../core/project/types.ts'
import type { LoadTrack } from '../../../workers/jobs/track-job.ts'
import { identityOf } from '../../simulate/identity.ts'
import { feedWorker } from '../../simulate/worker-client.ts'

/** The load of the sample's picture as these settings would have it, simulated; the last one stands until then. */
export function useTrack(project: Project, screen: number, slot: number, item: Item): LoadTrack | null {
  const { data, error } = useSWRImmutable<LoadTrack, Error>(
    ['track', identityOf(project), screen, slot, identityOf(item)],
    () => feedWorker.ask('track', { project, screen, item, slot }).result,
    { keepPreviousData: true },
  )
  if (error) throw error
  return data ?? null
}
