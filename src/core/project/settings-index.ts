import type { z } from 'zod'
import { projectSchema } from './project-schema.ts'
import { unwrap, defOf, schemaAt } from './schema-walk.ts'

/** The description of a setting, read from the one schema: for labels, limits and help. */
export interface Setting {
  label: string
  explain: string
  unit: string
  min: number
  max: number
  options: string[]
  default: unknown
}

const known = new Map<string, Setting>()

/** The setting at a JSON Pointer of a project, such as `/loading/fetchSlots` or `/screens/2/layout/columns`. */
export function settingAt(path: string): Setting {
  // All members of a list have one schema.
  const place = path.replace(/\/\d+(?=\/|$)/g, '/0')
  let setting = known.get(place)
  if (!setting) known.set(place, (setting = read(place)))
  return setting
}

/** An option that may be left out, as in the app's defaults, is described by the setting within. */
function describedSchema(schema: z.ZodType): z.ZodType {
  const { type, innerType } = defOf(schema)
  return type === 'optional' && schema.meta() === undefined && innerType ? describedSchema(innerType) : schema
}

function read(path: string): Setting {
  const schema = schemaAt(projectSchema, {}, path.split('/').slice(1))
  if (!schema) throw new Error(`there is no setting at ${path}`)
  const said = describedSchema(schema)
  const text = said.meta() as { label?: string; explain?: string; unit?: string } | undefined
  let inner = unwrap(schema)
  while (defOf(inner).type === 'nullable') inner = unwrap(defOf(inner).innerType!)
  const { minValue, maxValue } = inner as unknown as { minValue?: number | null; maxValue?: number | null }
  const { entries } = defOf(inner)
  return {
    label: text?.label ?? path,
    explain: text?.explain ?? '',
    unit: text?.unit ?? '',
    min: minValue ?? 0,
    max: maxValue ?? Infinity,
    options: entries ? Object.values(entries) : [],
    default: (said as z.ZodType & { def: { defaultValue?: unknown } }).def.defaultValue,
  }
}
