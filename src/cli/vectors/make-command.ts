import { makeVectors } from '../../core/vectors/make-vectors.ts'
import { badInput } from '../fault.ts'
import { loadProject, wholeNumber } from '../load-project.ts'
import { writeText } from '../write-text.ts'

export interface MakeOptions {
  cases: string
  seed: string
  out?: string
}

/** `tug vectors make`: conformance cases from a project's rules. */
export async function makeCommand(file: string, { cases, seed, out }: MakeOptions): Promise<void> {
  if (out === undefined) throw badInput('vectors make: --out V.json is missing')
  const { project } = await loadProject(file, undefined)
  const made = makeVectors(
    project,
    wholeNumber('--cases', cases, 1, 10_000),
    wholeNumber('--seed', seed, 0, 4_294_967_295),
  )
  await writeText('--out', out, `${JSON.stringify(made, null, 1)}\n`)
  process.stderr.write(`${made.cases.length} cases in ${out}\n`)
}
