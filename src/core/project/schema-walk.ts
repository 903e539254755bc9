import type { z } from 'zod'

interface Def {
  type: string
  innerType?: z.ZodType
  shape?: Record<string, z.ZodType>
  element?: z.ZodType
  items?: z.ZodType[]
  options?: z.ZodType[]
  discriminator?: string
  valueType?: z.ZodType
  values?: unknown[]
  entries?: Record<string, string>
}

export const defOf = (schema: z.ZodType) => schema.def as unknown as Def

/** Unwraps defaults and options down to the schema that says what is allowed. */
export function unwrap(schema: z.ZodType): z.ZodType {
  const { innerType, type } = defOf(schema)
  return innerType !== undefined && type !== 'nullable' ? unwrap(innerType) : schema
}

/** The schema of one member of an object, list or union, chosen by the value where a union has to be. */
export function memberOf(schema: z.ZodType, value: unknown, key: PropertyKey): z.ZodType | null {
  const inner = chosen(schema, value)
  const def = defOf(inner)
  // A field may be named like a method that every object has.
  if (def.shape) return Object.hasOwn(def.shape, key) ? def.shape[String(key)]! : null
  if (def.items) return def.items[Number(key)] ?? null
  return def.element ?? def.valueType ?? null
}

/** The branch of a discriminated union that the value names; the schema itself elsewhere. */
export function chosen(schema: z.ZodType, value: unknown): z.ZodType {
  let inner = unwrap(schema)
  while (defOf(inner).type === 'nullable') inner = unwrap(defOf(inner).innerType!)
  const { options, discriminator } = defOf(inner)
  if (!options || !discriminator || typeof value !== 'object' || value === null) return inner
  const name = (value as Record<string, unknown>)[discriminator]
  const branch = options.find((option) => {
    const literal = defOf(option).shape?.[discriminator]
    return literal !== undefined && defOf(literal).values?.includes(name)
  })
  return branch ? unwrap(branch) : inner
}

export function schemaAt(schema: z.ZodType, root: unknown, path: readonly PropertyKey[]): z.ZodType | null {
  let at: z.ZodType | null = schema
  let value = root
  for (const key of path) {
    if (at === null) return null
    at = memberOf(at, value, key)
    value = typeof value === 'object' && value !== null ? (value as Record<PropertyKey, unknown>)[key] : undefined
  }
  return at
}

/** Describes what a schema allows: "a whole number from 1 to 64", "nearest | first-come". */
export function allowed(schema: z.ZodType): string {
  const inner = unwrap(schema)
  const def = defOf(inner)
  switch (def.type) {
    case 'nullable':
      return `${allowed(def.innerType!)} or null`
    case 'number': {
      const { minValue, maxValue, format } = inner as unknown as {
        minValue: number | null
        maxValue: number | null
        format: string | null
      }
      const whole = format === 'safeint' ? 'a whole number' : 'a number'
      return `${whole}${minValue === null ? '' : ` from ${minValue}`}${maxValue === null ? '' : ` to ${maxValue}`}`
    }
    case 'enum':
      return Object.values(def.entries!).join(' | ')
    case 'literal':
      return def.values!.map((value) => JSON.stringify(value)).join(' | ')
    case 'boolean':
      return 'true | false'
    case 'string':
      return 'text'
    case 'array':
      return 'a list'
    case 'tuple':
      return `a list of ${def.items!.length}`
    case 'object':
    case 'record':
      return 'an object'
    case 'union':
      return def.discriminator
        ? `an object whose ${def.discriminator} is ${branchNames(def).join(' | ')}`
        : def.options!.map(allowed).join(' | ')
    default:
      return 'another value'
  }
}

/** The names of a union's branches, when the value at the path's end names none of them; null elsewhere. */
export function branchesAt(schema: z.ZodType, root: unknown, path: readonly PropertyKey[]): string | null {
  const union = schemaAt(schema, root, path.slice(0, -1))
  if (union === null) return null
  let inner = unwrap(union)
  while (defOf(inner).type === 'nullable') inner = unwrap(defOf(inner).innerType!)
  const def = defOf(inner)
  return def.discriminator !== undefined && def.discriminator === path.at(-1) ? branchNames(def).join(' | ') : null
}

const branchNames = (def: Def) =>
  def.options!.flatMap((option) => defOf(defOf(option).shape![def.discriminator!]!).values!.map(String))
