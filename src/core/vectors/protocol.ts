import { z } from 'zod'

export const vectorsFormat = 'tile-tug/vectors'
/** What cases are about, in the order in which they are reported. */
export const clauses = ['slots', 'order', 'share', 'cancel', 'keep', 'guard', 'retry', 'scope', 'memory'] as const
export type Clause = (typeof clauses)[number]

/** The rules that a loader is given; a case may have some of its own. */
export const vectorPolicy = z.object({
  fetchSlots: z.int().min(1).max(64),
  order: z.enum(['nearest', 'first-come', 'last-come']),
  /** Every so many ms in the queue lift a request one class. */
  agingMs: z.number().min(1),
  cancel: z.enum(['recycle', 'never']),
  keepAbove: z.number().min(0).max(1),
  share: z.boolean(),
  guard: z.boolean(),
  /** What happens to requests when the screen is left. */
  whenLeft: z.enum(['carry-on', 'finish-running', 'let-go']),
  retry: z.object({ attempts: z.int().min(0).max(20), firstMs: z.number().min(0), factor: z.number().min(1) }),
})
export type VectorPolicy = z.output<typeof vectorPolicy>

const doings = [
  'bind',
  'recycle',
  'place',
  'leave',
  'return',
  'close',
  'responded',
  'progress',
  'received',
  'failed',
  'decoded',
  'tick',
] as const

/** An event for a loader at an instant, ms. */
export const vectorStep = z.object({
  at: z.number().min(0),
  do: z.enum(doings),
  cell: z.int().min(0).optional(),
  address: z.string().optional(),
  /** 0 on screen, 1 coming up, 2 held or just left, 3 all else. */
  class: z.int().min(0).max(3).optional(),
  /** Distance from the centre of attention: less is nearer. */
  distance: z.number().min(0).optional(),
  bytes: z.int().min(0).optional(),
  total: z.int().min(0).optional(),
  reason: z.string().optional(),
  status: z.int().optional(),
  retryAfterS: z.number().min(0).optional(),
})
export type VectorStep = z.output<typeof vectorStep>

/** A loader's answers, in its order. */
export const vectorOutput = z.union([
  z.object({ start: z.string() }),
  z.object({ cancel: z.string() }),
  z.object({ decode: z.string() }),
  z.object({ show: z.string(), cell: z.int() }),
  z.object({ fail: z.int(), reason: z.string() }),
])
export type VectorOutput = z.output<typeof vectorOutput>

export const vectorCase = z.object({
  id: z.string().min(1),
  clause: z.enum(clauses),
  why: z.string(),
  policy: vectorPolicy.partial().optional(),
  steps: z.array(vectorStep).min(1).max(1000),
  /** The answers to each step; the order within one is free. */
  expect: z.array(z.array(vectorOutput)),
})
export type VectorCase = z.output<typeof vectorCase>

export const vectorFile = z.object({
  format: z.literal(vectorsFormat),
  version: z.literal(1),
  project: z.string(),
  policy: vectorPolicy,
  cases: z.array(vectorCase).max(10_000),
})
export type VectorFile = z.output<typeof vectorFile>
