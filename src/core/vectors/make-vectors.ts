import type { Project } from '../project/types.ts'
import { VectorEngine } from './engine.ts'
import { vectorsFormat, type VectorFile, type VectorPolicy, type VectorStep } from './protocol.ts'
import { random, scripted, type Situation } from './situations.ts'

/** The rules of a project’s loader, as vectors state them. */
function policyOf({ loading }: Project): VectorPolicy {
  const { fetchSlots, order, agingMs, cancel, share, guard, retry } = loading
  const { attempts, firstMs, factor } = retry
  return {
    fetchSlots,
    order,
    agingMs,
    // A zone is counted in rows: a loader that only hears of cells sees them recycled later.
    cancel: cancel.when === 'never' ? 'never' : 'recycle',
    keepAbove: cancel.keepAbove,
    share,
    guard,
    whenLeft: cancel.whenLeft,
    retry: { attempts, firstMs, factor },
  }
}

/** Cases from a project’s rules, smallest first, with what our own engine answers. */
export function makeVectors(project: Project, most: number, seed: number): VectorFile {
  const policy = policyOf(project)
  const made = scripted(policy).toSorted((one, other) => one.steps.length - other.steps.length)
  const opened = (own: Partial<VectorPolicy>) => {
    const engine = new VectorEngine({ ...policy, ...own })
    return (step: VectorStep) => engine.step(step)
  }
  const situations = [...made, ...random(Math.max(0, most - made.length), seed, policy, opened)].slice(0, most)
  return {
    format: vectorsFormat,
    version: 1,
    project: project.name,
    policy,
    cases: situations.map((situation) => ({ ...situation, expect: answersOf(situation, policy) })),
  }
}

function answersOf({ policy: own, steps }: Situation, policy: VectorPolicy) {
  const engine = new VectorEngine({ ...policy, ...own })
  return steps.map((step) => engine.step(step))
}
