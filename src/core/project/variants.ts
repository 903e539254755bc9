import { parseProject, type ParseOutcome, type Raw } from './parse.ts'
import { applyPatch, type Patch } from './patch.ts'

/**
 * A file with one of the variants of another applied, parsed again; conditions are effectiveProject’s. The variants are
 * those of the file as it was written: an earlier one may have replaced the list.
 */
export function patchedBy(raw: Raw, name: string, written: Raw = raw): ParseOutcome {
  const variants = Array.isArray(written.variants) ? (written.variants as { name?: string; patch?: unknown }[]) : []
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
