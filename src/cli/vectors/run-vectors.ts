import { judgeStep } from '../../core/vectors/judge.ts'
import type { VectorCase, VectorFile } from '../../core/vectors/protocol.ts'
import type { CaseResult } from '../../core/vectors/results.ts'
import { LoaderProcess } from './loader-process.ts'

/** Drives a loader through cases; a loader that fails or crashes has failed the case, and the next one begins. */
export async function runVectors(
  file: VectorFile,
  cases: readonly VectorCase[],
  [command, ...args]: readonly [string, ...string[]],
): Promise<CaseResult[]> {
  const loader = new LoaderProcess(command, args)
  const results: CaseResult[] = []
  let settle = 0
  try {
    for (const each of cases) {
      loader.begin({ case: each.id, policy: { ...file.policy, ...each.policy } })
      const result: CaseResult = {
        id: each.id,
        clause: each.clause,
        why: each.why,
        ok: true,
        difference: null,
        trouble: null,
      }
      for (const [number, step] of each.steps.entries()) {
        const answer = await loader.send(step, ++settle)
        if ('trouble' in answer) {
          Object.assign(result, { ok: false, trouble: `step ${number + 1}: ${answer.trouble}` })
          break
        }
        const difference = judgeStep(number, each.expect[number] ?? [], answer.outputs)
        if (!difference || !result.ok) continue
        // The remaining steps are sent all the same: the next case begins where this one ends.
        Object.assign(result, { ok: false, difference })
      }
      results.push(result)
    }
  } finally {
    loader.stop()
  }
  return results
}
