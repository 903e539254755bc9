import type { ProjectState } from '../store/project-store.ts'
import { useFollowHand } from './follow-hand.ts'

/** Shows nothing: while it is there, each change of the project is simulated. */
export default function FollowHand({ state, screen }: { state: ProjectState | null; screen: number }) {
  useFollowHand(state, screen)
  return null
}
