import { useEffect } from 'react'
import useSWRImmutable from 'swr/immutable'
import type { Item, Project } from '../../../core/project/types.ts'
import type { LoadTrack } from '../../../workers/jobs/track-job.ts'
import { feedWorker } from '../../simulate/worker-client.ts'

/** The load of the sample's picture with these settings, simulated; the last one is shown until then. */
export function useTrack(project: Project, screen: number, slot: number, item: Item): LoadTrack | null {
  // One answer, requested anew whenever its inputs change; with a key each, all former answers would be kept.
  const { data, error, mutate } = useSWRImmutable<LoadTrack, Error>(
    'the track in Cell',
    () => feedWorker.ask('track', { project, screen, item, slot }).result,
    { revalidateOnMount: false },
  )
  useEffect(() => void mutate(), [mutate, project, screen, slot, item])
  if (error) throw error
  return data ?? null
}
