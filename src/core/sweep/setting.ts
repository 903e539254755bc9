import { z } from 'zod'
import { valueAt } from '../feed/json-pointer.ts'
import { effectiveOf, type Effective } from '../project/conditions.ts'
import { applyPatch, type Patch } from '../project/patch.ts'
import { parseProject, type Raw } from '../project/parse.ts'
import { devicePresets, networkPresets, policyPresets, type Preset } from '../project/presets.ts'

/**
 * One setting at one value: a JSON Pointer into the project file; or `device`, `network` or `policy`, whose value is
 * the name of a built-in preset or one of your own.
 */
export interface Setting {
  path: string
  value: unknown
}

/** A preset that no project file knows by its name: it brings its values along. */
const ownPreset = z.object({ name: z.string().min(1), values: z.record(z.string(), z.unknown()) })

/** A setting's value as text, for files and views; of a preset its name. */
export function valueText({ path, value }: Setting): string {
  if (typeof value === 'string') return value
  const own = ownPreset.safeParse(isWhole(path) ? value : null)
  return own.success ? own.data.name : JSON.stringify(value)
}

type Outcome<T> = ({ ok: true } & T) | { ok: false; message: string }

/** What can be varied as a whole: where its values go, and the built-in ones. */
const whole = {
  device: { at: '/device', presets: devicePresets },
  network: { at: '/network', presets: networkPresets },
  policy: { at: '/loading', presets: policyPresets },
} as const satisfies Record<string, { at: string; presets: readonly Preset<object>[] }>
export type Whole = keyof typeof whole

export const isWhole = (path: string): path is Whole => Object.hasOwn(whole, path)

/** The names that `device`, `network` or `policy` can have for a project: the built-in ones, and the project's own. */
export function namesOf(what: Whole, raw: Raw): string[] {
  const own = ownNameOf(what, raw)
  const ready = whole[what].presets.map(({ name }) => name)
  return own === null || ready.includes(own) ? ready : [own, ...ready]
}

function ownNameOf(what: Whole, raw: Raw): string | null {
  const parsed = parseProject(raw)
  if (!parsed.ok || what === 'policy') return null
  return parsed.project[what].name
}

/** The project file with some settings at other values; the error of an invalid value says what is allowed. */
export function withSettings(raw: Raw, settings: readonly Setting[]): Outcome<{ raw: Raw }> {
  let now = raw
  for (const { path, value } of settings) {
    const patch = patchFor(path, value, raw)
    if (!patch.ok) return patch
    const patched = applyPatch(now, patch.patch)
    if (!patched.ok) return { ok: false, message: `${path}: is not a place in the project (${patched.message})` }
    now = patched.raw
  }
  return { ok: true, raw: now }
}

/** The same, parsed, with the variants that apply by themselves and the one that is named. */
export function projectWith(raw: Raw, settings: readonly Setting[]): Outcome<Effective> {
  const named = settings.find(({ path }) => path === 'variant')?.value
  const varied = withSettings(
    raw,
    settings.filter(({ path }) => path !== 'variant'),
  )
  if (!varied.ok) return varied
  const parsed = parseProject(varied.raw)
  if (!parsed.ok) return parsed
  const lost = settings.find(
    ({ path }) =>
      path.startsWith('/') &&
      (valueAt(parsed.project, path) === undefined ||
        // Unknown settings are kept in the file and warned about: the path itself, or what contains it.
        parsed.warnings.some((warning) => `${path}/`.startsWith(`${warning.split(':')[0]}/`))),
  )
  if (lost) return { ok: false, message: `${lost.path}: names no setting of this project` }
  return effectiveOf(parsed, typeof named === 'string' && named !== '' ? named : null)
}

function patchFor(path: string, value: unknown, raw: Raw): Outcome<{ patch: Patch }> {
  if (path.startsWith('/') && path.length > 1) return { ok: true, patch: [{ op: 'replace', path, value }] }
  if (!isWhole(path))
    return {
      ok: false,
      message: `${path}: found no JSON Pointer, allowed: one such as /loading/fetchSlots, or ${Object.keys(whole).join(', ')}, variant`,
    }
  const { at, presets } = whole[path]
  if (value === ownNameOf(path, raw) && !presets.some(({ name }) => name === value)) return { ok: true, patch: [] }
  const ready = presets as readonly Preset<object>[]
  const own = ownPreset.safeParse(value)
  const keys = Object.keys(ready[0]!.values)
  const strange = own.success ? Object.keys(own.data.values).find((key) => !keys.includes(key)) : undefined
  if (strange !== undefined)
    return { ok: false, message: `${path}: found the value "${strange}" in a preset, allowed: ${keys.join(', ')}` }
  const preset = own.success ? own.data : ready.find(({ name }) => name === value)
  if (!preset)
    return {
      ok: false,
      message: `${path}: found ${JSON.stringify(value)}, allowed: ${namesOf(path, raw).join(', ')}`,
    }
  const named = path === 'policy' ? [] : [{ op: 'replace' as const, path: `${at}/name`, value: preset.name }]
  return {
    ok: true,
    patch: [
      ...named,
      ...Object.entries(preset.values).map(([key, each]) => ({
        op: 'replace' as const,
        path: `${at}/${key}`,
        value: each as unknown,
      })),
    ],
  }
}
