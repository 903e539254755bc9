import { z } from 'zod'

export const appEventsFormat = 'tile-tug/app-events'

/** The head line of app events. */
export const appHead = z.object({
  format: z.literal(appEventsFormat),
  version: z.literal(1),
  app: z.string().max(200).optional(),
  refreshHz: z.number().min(1).max(1000).optional(),
  density: z.number().min(0.1).max(20).optional(),
  widthDp: z.number().min(1).max(20_000).optional(),
  heightDp: z.number().min(1).max(20_000).optional(),
  clockMs: z.number().optional(),
})
export type AppHead = z.output<typeof appHead>

const t = z.number()
const address = z.string().min(1).max(8192)
const cell = z.union([z.int(), z.string().max(200)])
const key = z.union([z.string().max(1000), z.number()])
const bytes = z.number().min(0).max(1e12)
const span = z.number().min(0).max(4_290_000)
const side = z.number().min(0).max(1_000_000)
const text = z.string().max(2000)
const event = <Name extends string, Shape extends z.ZodRawShape>(name: Name, shape: Shape) =>
  z.object({ t, event: z.literal(name), ...shape })

/** The events that an app can send; any subset is valid. Times in ms on the app's monotonic clock, lengths in dp. */
export const appEvent = z.discriminatedUnion('event', [
  event('frame', {
    presentedMs: z.number(),
    dueMs: z.number().optional(),
    workMs: span.optional(),
    beginMs: z.number().optional(),
  }),
  event('scroll', { topDp: z.number().min(-1e6).max(1e9) }),
  event('create', { cell, kind: z.union([z.int(), z.string().max(200)]).optional() }),
  event('bind', {
    cell,
    row: z.int().min(0).max(2_000_000_000),
    key: key.optional(),
    address: address.optional(),
    heightDp: z.number().min(0).max(1e6).optional(),
  }),
  event('recycle', { cell }),
  event('want', { address, priority: z.union([z.number(), z.string().max(200)]).optional() }),
  event('start', { address }),
  event('received', { address, bytes }),
  event('cancel', { address, bytes: bytes.optional() }),
  event('fail', { address, reason: z.string().max(200).default('failed') }),
  event('decode', { address, ms: span, widthPx: side.default(0), heightPx: side.default(0) }),
  // An app that reports deliveries reports all of them; for others, each picture that is shown was delivered.
  event('deliver', { address, tier: z.string().max(40), cell: cell.optional() }),
  // `late`: for what the cell was bound to before, or for an earlier request of its own.
  event('show', { cell, address, tier: z.string().max(40).optional(), late: z.boolean().optional() }),
  event('memory', { mb: z.number().min(0).max(1e7) }),
  event('mark', { text }),
  // Events that a recording adds: the responses that its base has written.
  event('response', {
    address,
    status: z.int().min(0).max(999),
    bytes,
    aborted: z.boolean(),
    firstByteMs: z.number().nullable(),
    endMs: z.number().nullable(),
  }),
])
export type AppEvent = z.output<typeof appEvent>
export type AppEventName = AppEvent['event']

export const appEventNames = appEvent.options.map((each) => each.shape.event.value) as AppEventName[]
