import { z } from 'zod'
import { slotOptions } from './cell-schema.ts'
import { loadingSchema } from './loading-schema.ts'
import { screenSchema } from './screen-schema.ts'
import { everydayScript, scriptSchema } from './script-schema.ts'
import { fields, group } from './setting.ts'
import { deviceSchema, networkSchema } from './world-schema.ts'

export const projectFormat = 'tile-tug/project'
export const projectVersion = 1

/** The options in `pictures.defaults` and in a named set; checked here, merged raw in resolve.ts. */
export const partialSlot = z.looseObject(slotOptions).partial()

const asset = fields({
  name: z.string().min(1).max(200),
  type: z.string().regex(/^image\/[a-z0-9.+-]+$/, { error: 'an image type such as image/png' }),
  base64: z.base64().max(12_000_000),
})

const operation = z.discriminatedUnion('op', [
  fields({ op: z.literal('add'), path: z.string(), value: z.unknown() }),
  fields({ op: z.literal('replace'), path: z.string(), value: z.unknown() }),
  fields({ op: z.literal('test'), path: z.string(), value: z.unknown() }),
  fields({ op: z.literal('remove'), path: z.string() }),
  fields({ op: z.literal('move'), path: z.string(), from: z.string() }),
  fields({ op: z.literal('copy'), path: z.string(), from: z.string() }),
])

const variant = fields({
  name: z.string().min(1).max(200),
  when: z.enum(['metered', 'weak-device', 'low-memory']).nullable().default(null),
  patch: z.array(operation).max(1000).default([]),
})

const budget = fields({
  metric: z.string().min(1).max(100),
  min: z.number().optional(),
  max: z.number().optional(),
  visit: z.enum(['first', 'restarted', 'again']).default('first'),
  screen: z.string().optional(),
  relativeTo: z.literal('baseline').optional(),
})

/** The project file, version 1 (formats.md). Every field but the first four has a default. */
export const projectSchema = fields({
  format: z.literal(projectFormat),
  version: z.literal(projectVersion),
  name: z.string().min(1).max(200),
  seed: z.int().min(0).max(4_294_967_295).default(7),
  assets: z.array(asset).max(200).default([]),
  pictures: group({
    defaults: partialSlot.prefault({}),
    sets: z.record(z.string(), partialSlot).default({}),
  }),
  screens: z.array(screenSchema).min(1).max(50),
  loading: loadingSchema,
  device: deviceSchema,
  network: networkSchema,
  scripts: z
    .array(scriptSchema)
    .max(200)
    .prefault([everydayScript as never]),
  script: z.string().max(200).nullable().default(null),
  variants: z.array(variant).max(100).default([]),
  budgets: z.array(budget).max(200).default([]),
})
