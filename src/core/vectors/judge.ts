import type { VectorOutput } from './protocol.ts'

/** A difference between a loader's answer to a step and the expected one. */
export interface Difference {
  /** Counted from 0. */
  step: number
  /** An answer that is missing; null: none is. */
  expected: VectorOutput | null
  /** An answer that was not expected; null: none. */
  got: VectorOutput | null
}

/** Compares the answers to one step with the expected ones, in any order; null: they are the same. */
export function judgeStep(
  step: number,
  expected: readonly VectorOutput[],
  got: readonly VectorOutput[],
): Difference | null {
  const left = got.map(nameOf)
  for (const output of expected) {
    const at = left.indexOf(nameOf(output))
    if (at < 0)
      return {
        step,
        expected: output,
        got: got.find((each) => !expected.some((one) => nameOf(one) === nameOf(each))) ?? null,
      }
    left.splice(at, 1)
  }
  if (left.length === 0) return null
  return { step, expected: null, got: got.find((each) => nameOf(each) === left[0]) ?? null }
}

/** An answer as a text that is the same for equal ones. */
function nameOf(output: VectorOutput): string {
  return Object.entries(output)
    .sort(([one], [other]) => (one < other ? -1 : 1))
    .map(([name, value]) => `${name}=${value}`)
    .join(' ')
}
