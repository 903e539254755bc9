import patches from 'fast-json-patch'
import { parseProject, type ParseOutcome, type Raw } from './parse.ts'

type Patch = Parameters<typeof patches.applyPatch>[1]

/** The project with one of its variants applied (JSON Patch, RFC 6902), parsed anew; conditions are effectiveProject’s. */
export function patchedBy(raw: Raw, name: string): ParseOutcome {
  const variants = Array.isArray(raw.variants) ? (raw.variants as { name?: string; patch?: unknown }[]) : []
  const index = variants.findIndex((variant) => variant.name === name)
  const variant = variants[index]
  if (!variant) {
    const names = variants.map((each) => each.name).join(' | ')
    return {
      ok: false,
      message: `/variants: no variant is named "${name}"; allowed: ${names || 'none, the list is empty'}`,
    }
  }
  const patched = applyPatch(raw, (variant.patch ?? []) as Patch)
  if (!patched.ok) return { ok: false, message: `/variants/${index}/patch${patched.message}` }
  const outcome = parseProject(patched.raw)
  return outcome.ok ? outcome : { ok: false, message: `/variants/${index}, when applied: ${outcome.message}` }
}

export type Patched = { ok: true; raw: Raw } | { ok: false; message: string }

/** Applies a JSON Patch to a copy of the file. Missing objects on the way of a replace are made: they stand for defaults. */
export function applyPatch(raw: Raw, patch: Patch): Patched {
  const copy = patches.deepClone(raw) as Raw
  for (const [index, step] of patch.entries()) {
    try {
      const inList = step.op === 'replace' || step.op === 'add' ? makeParents(copy, step.path) : false
      const lenient = step.op === 'replace' && !inList ? { ...step, op: 'add' as const } : step
      patches.applyOperation(copy, lenient, true, true)
    } catch (error) {
      const why = error instanceof Error ? error.message.split('\n')[0] : String(error)
      return { ok: false, message: `/${index}: ${step.op} ${step.path} cannot be applied (${why})` }
    }
  }
  return { ok: true, raw: copy }
}

/** Makes the objects and first list members on the way of a path; says whether its last parent is a list. */
function makeParents(root: Raw, path: string): boolean {
  const keys = path
    .split('/')
    .slice(1)
    .map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'))
  let at: Record<string, unknown> = root
  for (const [index, key] of keys.slice(0, -1).entries()) {
    if (key === '__proto__') return false
    const isNext = !Array.isArray(at) || Number(key) === at.length
    if (at[key] === undefined && isNext) at[key] = keys[index + 1] === '0' ? [] : {}
    const next = at[key]
    if (typeof next !== 'object' || next === null) return false
    at = next as Record<string, unknown>
  }
  const last = keys.at(-1)!
  if (Array.isArray(at) && at.length === 0 && last === '0') at[0] = {}
  return Array.isArray(at)
}
