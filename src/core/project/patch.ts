import patches from 'fast-json-patch'
import { isLargeItems } from './large-items.ts'
import type { Raw } from './parse.ts'

export type Patch = Parameters<typeof patches.applyPatch>[1]
export type Patched = { ok: true; raw: Raw } | { ok: false; message: string }

/** Bounds of a patch: operations, characters made by copies, depth. */
const mostOperations = 1000
const mostCopied = 16_000_000
const mostDepth = 100

/**
 * Applies a JSON Patch (RFC 6902) and returns a new file; the given one is unchanged, and what no operation touches is
 * shared by both. Missing objects on the path of a replace are created: they stand for defaults.
 */
export function applyPatch(raw: Raw, patch: Patch): Patched {
  if (!Array.isArray(patch)) return { ok: false, message: `: found ${typeof patch}, allowed: a list of operations` }
  if (patch.length > mostOperations)
    return { ok: false, message: `: found ${patch.length} operations, allowed: at most ${mostOperations}` }
  let root: unknown = raw
  let copied = 0
  for (const [index, step] of patch.entries()) {
    try {
      const own = unshare(root, keysOf(step.path))
      root = step.op === 'move' ? unshare(own, keysOf(step.from)) : own
      if (step.op === 'copy') {
        copied += sizeOf(patches.getValueByPointer(root, step.from), mostCopied - copied)
        if (copied > mostCopied) return problem(index, step, `its copies have more than ${mostCopied} characters`)
      }
      const inList = step.op === 'replace' || step.op === 'add' ? makeParents(root as Raw, step.path) : false
      const lenient = step.op === 'replace' && !inList && step.path !== '' ? { ...step, op: 'add' as const } : step
      root = patches.applyOperation(root, lenient, true, true).newDocument
    } catch (error) {
      return problem(index, step, error instanceof Error ? error.message.split('\n')[0]! : String(error))
    }
  }
  if (isTooDeep(root, mostDepth)) return { ok: false, message: `: what it makes is nested deeper than ${mostDepth}` }
  if (typeof root !== 'object' || root === null || Array.isArray(root))
    return { ok: false, message: ': what it makes is not an object, the project' }
  return { ok: true, raw: root as Raw }
}

const problem = (index: number, { op, path }: { op: string; path: string }, why: string): Patched => ({
  ok: false,
  message: `/${index}: ${op} ${path} cannot be applied (${why})`,
})

const keysOf = (path: unknown): string[] =>
  typeof path === 'string'
    ? path
        .split('/')
        .slice(1)
        .map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'))
    : []

/** The same value, with copies of the objects and lists that an operation on a path changes. */
function unshare(value: unknown, keys: readonly string[]): unknown {
  if (typeof value !== 'object' || value === null || keys.length === 0) return value
  const copy = Array.isArray(value) ? [...(value as unknown[])] : { ...value }
  const [key, ...rest] = keys
  const members = copy as Record<string, unknown>
  if (Object.hasOwn(members, key!)) members[key!] = unshare(members[key!], rest)
  return copy
}

/** Creates the objects and first list members on a path; returns whether its last parent is a list. */
function makeParents(root: Raw, path: string): boolean {
  const keys = keysOf(path)
  if (keys.length === 0) return false
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

/** The approximate number of characters of a value as JSON, up to `most`. */
function sizeOf(value: unknown, most: number): number {
  let size = 0
  const open: unknown[] = [value]
  while (open.length > 0 && size <= most) {
    const next = open.pop()
    size += typeof next === 'string' ? next.length + 2 : 4
    if (typeof next !== 'object' || next === null) continue
    for (const [key, inner] of Object.entries(next)) {
      if (!Array.isArray(next)) size += key.length
      open.push(inner)
    }
  }
  return size
}

function isTooDeep(value: unknown, left: number): boolean {
  // Long lists of items were checked when they were read.
  if (typeof value !== 'object' || value === null || isLargeItems(value)) return false
  if (left === 0) return true
  return Object.values(value).some((inner) => isTooDeep(inner, left - 1))
}
