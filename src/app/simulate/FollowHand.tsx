import { useEffect } from 'react'
import { followHand } from './follow-hand.ts'

/** Shows nothing: while it is there, each change of the project is simulated. */
export default function FollowHand({ screen }: { screen: number }) {
  useEffect(() => followHand(screen), [screen])
  return null
}
