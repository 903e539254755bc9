import type { Project } from '../../project/types.ts'
import type { Profile } from '../profile.ts'
import { pictureRules } from './picture-rules.ts'
import { requestRules } from './request-rules.ts'
import { aheadRules } from './ahead-rules.ts'
import { tierRules } from './tier-rules.ts'
import { frameRules } from './frame-rules.ts'
import type { Suspicion } from './suspicion.ts'

const rules = [...pictureRules, ...requestRules, ...aheadRules, ...tierRules, ...frameRules]

/** Everything that a run suggests, in no order; none of it is proven yet. */
export function suspicionsOf(profile: Profile, project: Project): Suspicion[] {
  const number = Math.max(
    0,
    project.screens.findIndex(({ id }) => id === profile.facts.log.head.screen),
  )
  const screen = project.screens[number]
  if (!screen) return []
  const subject = { ...profile, project, screen, at: `/screens/${number}` }
  return rules.flatMap((rule) => rule(subject) ?? [])
}
