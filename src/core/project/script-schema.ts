import { z } from 'zod'
import { fields } from './setting.ts'

/** The most items of one edit. */
export const mostOwnItems = 1000

const ms = z.number().min(0).max(3_600_000)
const speed = z.number().min(1).max(1_000_000)
const plain = <const N extends string>(name: N) => fields({ do: z.literal(name) })

const step = z.discriminatedUnion('do', [
  fields({ do: z.literal('wait'), ms }),
  fields({ do: z.literal('drag'), dp: z.number().min(-1e8).max(1e8), ms }),
  fields({
    do: z.literal('flick'),
    dpPerS: z.number().min(-1_000_000).max(1_000_000),
  }),
  fields({
    do: z.literal('to'),
    where: z.union([z.enum(['start', 'end']), z.int().min(0).max(1_000_000_000)]),
    dpPerS: speed,
  }),
  fields({ do: z.literal('jump'), row: z.int().min(0).max(1_000_000_000) }),
  plain('leave'),
  plain('return'),
  fields({ do: z.literal('open'), screen: z.string().min(1), item: z.int().min(0).default(0) }),
  plain('back'),
  plain('background'),
  plain('foreground'),
  plain('rotate'),
  plain('offline'),
  plain('online'),
  plain('pressure'),
  plain('collect'),
  fields({ do: z.literal('load'), address: z.string().max(8000), px: z.int().min(1).max(16_384) }),
  fields({
    do: z.literal('edit'),
    op: z.enum(['insert', 'remove', 'move', 'update', 'refresh']),
    at: z.int().min(0).default(0),
    count: z.int().min(1).max(100_000).default(1),
    to: z.int().min(0).default(0),
    // The inserted items, or the values of an update; without it items there are copied, or counted up.
    items: z.array(z.record(z.string(), z.unknown())).min(1).max(mostOwnItems).optional(),
  }),
])

export const scriptSchema = fields({
  name: z.string().min(1).max(200),
  steps: z.array(step).max(10_000).default([]),
})

export const everydayScript = {
  name: 'Flick down and back',
  steps: [
    { do: 'wait', ms: 800 },
    { do: 'flick', dpPerS: 9000 },
    { do: 'wait', ms: 1500 },
    { do: 'flick', dpPerS: -9000 },
  ],
}
