import { z } from 'zod'
import { clauses, vectorOutput } from './protocol.ts'

/** The result of a case, as `vectors run --json` prints it. */
const caseResult = z.object({
  id: z.string(),
  clause: z.enum(clauses),
  why: z.string(),
  ok: z.boolean(),
  /** The first step (counted from 0) whose answer differs. */
  difference: z
    .object({ step: z.int().min(0), expected: vectorOutput.nullable(), got: vectorOutput.nullable() })
    .nullable(),
  /** Why there is no answer. */
  trouble: z.string().nullable(),
})
export type CaseResult = z.output<typeof caseResult>

export const vectorResults = z.object({ project: z.string(), results: z.array(caseResult).max(10_000) })

/** The difference in a failed case, in a sentence. */
export function failureText({ difference, trouble }: Pick<CaseResult, 'difference' | 'trouble'>): string {
  if (trouble !== null) return trouble
  const { step, expected, got } = difference!
  const format = (output: object | null) => (output === null ? 'nothing more' : JSON.stringify(output))
  return `step ${step + 1}: expected ${format(expected)}, got ${format(got)}`
}
