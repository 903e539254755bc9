import { z } from 'zod'

/** Headers that the relay alone may set; a project cannot name them. */
const ours = new Set([
  'host',
  'cookie',
  'origin',
  'connection',
  'content-length',
  'transfer-encoding',
  'upgrade',
  'proxy-authorization',
])

/** The headers of a session for the hosts that need them: the value is a secret and is never sent back. */
export const secretHeaders = z
  .array(
    z.object({
      host: z.string().min(1).max(300),
      name: z
        .string()
        .regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}$/)
        .refine((name) => !ours.has(name.toLowerCase())),
      value: z
        .string()
        .max(8000)
        .regex(/^[\t\x20-\x7e\x80-\xff]*$/),
    }),
  )
  .max(20)

/** Hosts that need a header, and after how many seconds what they issued is refused; null: never. */
export const lastingHeaders = z
  .array(z.object({ host: z.string().min(1).max(300), lastsS: z.number().min(0.1).max(86_400).nullable() }))
  .max(50)
