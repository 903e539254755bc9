import junit, { type Builder } from 'junit-report-builder'
import { clauses, vectorFile, type Clause } from '../../core/vectors/protocol.ts'
import { failureText, type CaseResult } from '../../core/vectors/results.ts'
import { CommandEnd, badInput } from '../fault.ts'
import { readText } from '../read-text.ts'
import { writeText } from '../write-text.ts'
import { runVectors } from './run-vectors.ts'

export interface RunVectorsOptions {
  clause?: string
  junit?: string
  json?: boolean
}

/** `tug vectors run`: drives a loader of your own; exit 1 when a case fails. */
export async function runVectorsCommand(
  file: string,
  command: readonly string[],
  { clause, junit: out, json }: RunVectorsOptions,
): Promise<void> {
  if (command.length === 0) throw badInput('vectors run: the command of the loader is missing; it goes after --')
  const vectors = await readVectors(file)
  const wanted = clause === undefined ? null : clausesOf(clause)
  const cases = vectors.cases.filter((each) => wanted?.includes(each.clause) ?? true)
  if (cases.length === 0) throw badInput(`${file}: no case of ${clause ?? 'any clause'} is in it`)
  const results = await runVectors(vectors, cases, command as [string, ...string[]])
  if (out !== undefined) await writeText('--junit', out, junitOf(results))
  process.stdout.write(json ? `${JSON.stringify({ project: vectors.project, results }, null, 2)}\n` : tableOf(results))
  const failed = results.filter(({ ok }) => !ok).length
  if (failed > 0) throw new CommandEnd(1, `${failed} of ${results.length} cases failed`)
}

async function readVectors(file: string) {
  let value: unknown
  try {
    value = JSON.parse(await readText(file))
  } catch (error) {
    if (error instanceof CommandEnd) throw error
    throw badInput(`${file}: is not JSON (${(error as Error).message})`)
  }
  const version = (value as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > 1)
    throw badInput(`${file}: /version: found ${version}, which is newer than this version reads (1)`)
  const read = vectorFile.safeParse(value)
  if (read.success) return read.data
  const { path, message } = read.error.issues[0]!
  throw badInput(`${file}: /${path.join('/')}: ${message}`)
}

function clausesOf(text: string): Clause[] {
  return text.split(',').map((name) => {
    const found = clauses.find((each) => each === name.trim())
    if (!found) throw badInput(`--clause: found "${name}", allowed: ${clauses.join(', ')}`)
    return found
  })
}

function tableOf(results: readonly CaseResult[]): string {
  return clauses
    .flatMap((clause) => {
      const own = results.filter((each) => each.clause === clause)
      if (own.length === 0) return []
      const failed = own.filter(({ ok }) => !ok)
      return [
        `${clause}: ${own.length - failed.length} of ${own.length} passed\n`,
        ...failed.map((each) => `  FAILED ${each.id}: ${each.why}\n    ${failureText(each)}\n`),
      ]
    })
    .join('')
}

function junitOf(results: readonly CaseResult[]): string {
  // The package is CommonJS: its default is the builder itself, which its types do not say.
  const builder = (junit as unknown as Builder).newBuilder()
  for (const clause of clauses) {
    const own = results.filter((each) => each.clause === clause)
    if (own.length === 0) continue
    const suite = builder.testSuite().name(clause)
    for (const each of own) {
      const test = suite.testCase().className(clause).name(each.id)
      if (!each.ok) test.failure(`${each.why} ${failureText(each)}`)
    }
  }
  return builder.build()
}
