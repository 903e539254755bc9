import { parseProject, type Raw } from './parse.ts'
import { projectSchema } from './project-schema.ts'
import { schemaAt } from './schema-walk.ts'

interface Leaf {
  path: string[]
  before: unknown
  after: unknown
}

type Json = Record<string, unknown>

/**
 * The settings that differ between two project files, one line each: by label and with unit where the schema has them,
 * by the last words of the path elsewhere. Defaults are compared by value, so that a value that is written out and one
 * that is left out are the same. Lists of items and bodies of pictures are reported as a whole.
 */
export function differences(before: Raw, after: Raw): string[] {
  const [one, other] = [parseProject(before), parseProject(after)]
  const [a, b]: [unknown, unknown] = one.ok && other.ok ? [one.project, other.project] : [before, after]
  const leaves: Leaf[] = []
  collect(a, b, [], leaves)
  // Variants that a file offers are not settings: those that apply have been applied.
  return leaves.filter(({ path }) => path[0] !== 'variants').map((leaf) => describe(leaf, b))
}

function collect(a: unknown, b: unknown, path: string[], leaves: Leaf[]): void {
  if (Object.is(a, b)) return
  const whole =
    path.at(-1) === 'items' || path.at(-1) === 'base64' || path.at(-1) === 'steps' || path.at(-1) === 'patch'
  if (!whole && isObject(a) && isObject(b) && a.type === b.type) {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) collect(a[key], b[key], [...path, key], leaves)
    return
  }
  if (!whole && Array.isArray(a) && Array.isArray(b) && a.length === b.length) {
    for (const [i, value] of a.entries()) collect(value, b[i], [...path, String(i)], leaves)
    return
  }
  if (JSON.stringify(a) !== JSON.stringify(b)) leaves.push({ path, before: a, after: b })
}

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Words of a path that say where a setting is, not which. */
const rooms = new Set(['screens', 'cells', 'slots'])

function describe({ path, before, after }: Leaf, project: unknown): string {
  const text = schemaAt(projectSchema, project, path)?.meta() as { label?: string; unit?: string } | undefined
  const name = `${ownerName(path, project)}${
    text?.label ??
    path
      .filter((part) => !/^\d+$/.test(part) && !rooms.has(part))
      .slice(-2)
      .join(' ')
  }`
  const unit =
    text?.unit && !text.label?.toLowerCase().includes(text.unit) && text.unit !== 'share' ? ` ${text.unit}` : ''
  if (path[0] === 'scripts' && path.at(-1) === 'steps')
    return `the gesture “${(project as { scripts?: { name?: string }[] }).scripts?.[Number(path[1])]?.name ?? ''}” differs`
  const [from, to] = [short(before), short(after)]
  return from === to ? `${name} differ` : `${name}: ${from} → ${to}${unit}`
}

/** The screen and the slot of a setting, where there are several; '' where there is one. */
function ownerName(path: readonly string[], project: unknown): string {
  const { screens } = project as { screens?: { id?: string; name?: string; cells?: { slots?: { id?: string }[] }[] }[] }
  if (path[0] !== 'screens' || !screens) return ''
  const screen = screens[Number(path[1])]
  const slots = path[2] === 'cells' && path[4] === 'slots' ? screen?.cells?.[Number(path[3])]?.slots : undefined
  const parts = [
    ...(screens.length > 1 ? [screen?.name || screen?.id] : []),
    ...(slots && slots.length > 1 ? [slots[Number(path[5])]?.id] : []),
  ]
  return parts.map((part) => `${part}, `).join('')
}

const mostChars = 32

function short(value: unknown): string {
  if (value === undefined || value === null) return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value))
    return value.every((each) => typeof each !== 'object')
      ? `[${value.join(', ')}]`.slice(0, mostChars)
      : `${value.length} ${value.length === 1 ? 'entry' : 'entries'}`
  if (isObject(value))
    return typeof value.type === 'string' ? value.type : `{${Object.keys(value).join(', ')}}`.slice(0, mostChars)
  return String(value).slice(0, mostChars)
}
