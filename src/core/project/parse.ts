import type { z } from 'zod'
import { crossCheck } from './cross-check.ts'
import { toPointer } from './pointer-text.ts'
import { isLargeItems, LargeItems } from './large-items.ts'
import { migrate } from './migrations.ts'
import { partialSlot, projectFormat, projectSchema, projectVersion } from './project-schema.ts'
import { resolveSlots } from './resolve.ts'
import { allowed, unwrap, branchesAt, chosen, defOf, memberOf, schemaAt } from './schema-walk.ts'
import type { Project } from './types.ts'

export type Raw = Record<string, unknown>

export interface Parsed {
  ok: true
  /** The file as it was written, migrated to this version: what is edited and saved. */
  raw: Raw
  /** The same with every default filled in and every slot resolved: what is run. */
  project: Project
  warnings: string[]
}

/** One problem: its JSON Pointer, what was found and what is allowed; and how many more there are. */
export type ParseOutcome = Parsed | { ok: false; message: string }

/** Parses a project that has been read as JSON already. */
export function parseProject(value: unknown): ParseOutcome {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return problem('', value, 'an object, the project')
  const file = value as Raw
  if (file.format !== projectFormat) return problem('/format', file.format, `"${projectFormat}"`)
  if (typeof file.version !== 'number' || !Number.isInteger(file.version) || file.version < 1)
    return problem('/version', file.version, `a whole number from 1 to ${projectVersion}`)
  if (file.version > projectVersion)
    return {
      ok: false,
      message: `/version: found ${file.version}, which is newer than this version of Tile Tug reads (${projectVersion}); open it with a newer one`,
    }
  const raw = migrate(file)
  const apart = checkSets(raw)
  if (apart) return apart
  const resolved = resolveSlots(raw)
  const apartItems = new LargeItems(resolved)
  const outcome = projectSchema.safeParse(apartItems.without)
  if (!outcome.success) return issueText(projectSchema, resolved, outcome.error.issues)
  const project = outcome.data
  apartItems.putBack(project)
  if (project.script === null) project.script = project.scripts[0]?.name ?? null
  const misfit = crossCheck(project)
  if (misfit) return problem(misfit.at, misfit.found, misfit.allowed)
  const warnings: string[] = []
  collectUnknown(projectSchema, raw, '', warnings)
  return { ok: true, raw, project, warnings }
}

const problem = (pointer: string, found: unknown, what: string, more = 0): { ok: false; message: string } => ({
  ok: false,
  message: `${pointer === '' ? 'the file' : pointer}: found ${shown(found)}, allowed: ${what}${more > 0 ? ` (and ${more} more)` : ''}`,
})

function shown(value: unknown): string {
  if (value === undefined) return 'nothing'
  if (value === Infinity || value === -Infinity) return 'a number too large to hold'
  const text = JSON.stringify(value) ?? String(value)
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}

function issueText(schema: z.ZodType, value: unknown, issues: readonly z.core.$ZodIssue[], prefix: string[] = []) {
  const issue = issues[0]!
  const path = deepest(issue)
  const found = path.reduce<unknown>(
    (at, key) => (typeof at === 'object' && at !== null ? (at as Record<PropertyKey, unknown>)[key] : undefined),
    value,
  )
  const at = schemaAt(schema, value, path)
  const own = issue.code === 'invalid_format' && !issue.message.startsWith('Invalid') ? issue.message : null
  const isTuple = at !== null && defOf(unwrap(at)).type === 'tuple'
  const short =
    issue.code === 'too_small' && issue.origin === 'array' && !isTuple ? `a list of at least ${issue.minimum}` : null
  const long =
    issue.code === 'too_big' && issue.origin !== 'number' && issue.origin !== 'int' && !isTuple
      ? `at most ${issue.maximum} ${issue.origin === 'array' ? 'in the list' : 'characters'}`
      : null
  const empty = issue.code === 'too_small' && issue.origin === 'string' ? 'text that is not empty' : null
  const what = own ?? short ?? long ?? empty ?? (at ? allowed(at) : (branchesAt(schema, value, path) ?? issue.message))
  return problem(toPointer([...prefix, ...path]), found, what, issues.length - 1)
}

function deepest(issue: z.core.$ZodIssue): PropertyKey[] {
  const inner = issue.code === 'invalid_key' || issue.code === 'invalid_element' ? issue.issues[0] : undefined
  return inner ? [...issue.path, ...inner.path] : [...issue.path]
}

function checkSets(raw: Raw): { ok: false; message: string } | null {
  const pictures = raw.pictures as { defaults?: unknown; sets?: unknown } | undefined
  if (typeof pictures !== 'object' || pictures === null) return null
  const parts: [string[], unknown][] = [[['pictures', 'defaults'], pictures.defaults]]
  if (typeof pictures.sets === 'object' && pictures.sets !== null)
    for (const [name, set] of Object.entries(pictures.sets)) parts.push([['pictures', 'sets', name], set])
  for (const [path, value] of parts) {
    if (value === undefined) continue
    const outcome = partialSlot.safeParse(value)
    if (!outcome.success) return issueText(partialSlot, value, outcome.error.issues, path)
  }
  return null
}

function collectUnknown(schema: z.ZodType, value: unknown, pointer: string, into: string[]): void {
  if (typeof value !== 'object' || value === null || isLargeItems(value)) return
  const def = defOf(chosen(schema, value))
  for (const [key, inner] of Object.entries(value)) {
    if (def.type === 'unknown') return
    const at = `${pointer}${toPointer([key])}`
    const member = memberOf(schema, value, key)
    if (member) collectUnknown(member, inner, at, into)
    else if (def.type === 'object' && into.length < 100) into.push(`${at}: unknown field, kept as it is`)
  }
}
