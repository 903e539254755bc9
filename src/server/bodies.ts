import type { Context } from 'koa'
import { z } from 'zod'
import { networkSchema } from '../core/project/world-schema.ts'
import { lastingHeaders, secretHeaders } from './relay/secret-headers.ts'

/** The request for a new origin session. */
export const sessionBody = z.object({
  network: networkSchema,
  seed: z.int().min(0).max(4_294_967_295).default(1),
  headers: secretHeaders.default([]),
  lasting: lastingHeaders.default([]),
})

/** Transfers that are let go, by number. */
export const letGoBody = z.object({ transfers: z.array(z.int()).max(100_000) })

/** The host whose credentials are renewed, with its headers as they are known now. */
export const renewBody = z.object({ host: z.string(), headers: secretHeaders.default([]) })

/** The request for a recording of a real app. */
export const recordingBody = z.object({
  name: z.string().max(200).default(''),
  upstream: z.union([
    z.literal('origin'),
    z.string().regex(/^https?:\/\/[^/?#@\s]+$/, {
      error: '"origin", or the address of a host such as https://img.example.com',
    }),
  ]),
  network: networkSchema.optional(),
  seed: z.int().min(0).max(4_294_967_295).default(1),
  faults: networkSchema.unwrap().shape.faults.optional(),
})
export type RecordingOrder = z.output<typeof recordingBody>

/** A mark that the user sets during a recording. */
export const markBody = z.object({ text: z.string().max(2000).default('mark') })

/**
 * The body of a request; 400 when it is not valid. Its contents are not repeated in the error: they may be a secret.
 */
export function readBody<Schema extends z.ZodType>(ctx: Context, schema: Schema): z.output<Schema> {
  const read = schema.safeParse(ctx.request.body ?? {})
  if (read.success) return read.data
  const { path, message } = read.error.issues[0]!
  return ctx.throw(400, `/${path.map(String).join('/')}: ${message}`)
}
