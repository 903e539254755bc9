import { rowCountOf, type Read, type Varied } from '../core/sweep/vary.ts'
import { badInput } from './fault.ts'

interface VariedRules {
  command: string
  example: string
  read: (text: string) => Read<Varied>
  /** The most combinations. */
  most: number
}

/** The settings of all `--vary` options, each once. */
export function variedOptions(texts: readonly string[], { command, example, read, most }: VariedRules): Varied[] {
  if (texts.length === 0) throw badInput(`${command}: found no --vary, allowed: one or more such as --vary ${example}`)
  const varied = texts.map((text) => {
    const outcome = read(text)
    if (!outcome.ok) throw badInput(`--vary ${outcome.message}`)
    return outcome.value
  })
  const twice = varied.find(({ path }, i) => varied.findIndex((each) => each.path === path) !== i)
  if (twice) throw badInput(`--vary ${twice.path}: is varied twice; allowed: each setting once`)
  const count = rowCountOf(varied)
  if (count > most) throw badInput(`--vary: makes ${count} combinations; at most ${most} are tried`)
  return varied
}

/** Each value once, the others at their first: every value is checked, but not every combination. */
export function oneOfEach(varied: readonly Varied[]): { path: string; value: unknown }[][] {
  const first = varied.map(({ path, values }) => ({ path, value: values[0] }))
  return varied.flatMap(({ path, values }, i) => values.map((value) => first.with(i, { path, value })))
}
