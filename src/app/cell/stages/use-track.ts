import { useEffect, useState } from 'react'
import type { Item, Project } from '../../../core/project/types.ts'
import type { LoadTrack } from '../../../workers/track-job.ts'
import { Cancelled, feedWorker } from '../../simulate/worker-client.ts'

/** The load of the sample's picture as these settings would have it, simulated; the last one stands until then. */
export function useTrack(project: Project, screen: number, slot: number, item: Item): LoadTrack | null {
  const [track, setTrack] = useState<LoadTrack | null>(null)
  useEffect(() => {
    let stands = true
    feedWorker.ask({ do: 'track', project, screen, item, slot }).result.then(
      (answer) => stands && answer.is === 'track' && setTrack(answer.track),
      (error: unknown) => {
        if (stands && !(error instanceof Cancelled)) throw error
      },
    )
    return () => {
      stands = false
    }
  }, [project, screen, slot, item])
  return track
}
