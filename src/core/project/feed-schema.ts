import { z } from 'zod'
import { choice, fields, group, pointerOrNone, whole } from './setting.ts'

const item = z.record(z.string(), z.unknown())

const source = z.discriminatedUnion('type', [
  fields({ type: z.literal('inline'), items: z.array(item).max(1_000_000).default([]) }),
  fields({
    type: z.literal('url'),
    url: z.string().min(1).max(8000),
    itemsAt: z.string().default(''),
    nextAt: z.string().nullable().default(null),
  }),
  fields({ type: z.literal('origin'), feed: z.string().min(1).max(200) }),
  fields({ type: z.literal('file'), name: z.string().min(1).max(1000) }),
])

export const feedSchema = group({
  source: source.default({ type: 'inline', items: [] }),
  key: pointerOrNone('/id', {
    label: 'Key',
    explain: 'The field that identifies an item; its position never does.',
  }),
  kind: pointerOrNone(null, {
    label: 'Kind',
    explain: 'The field that names an item’s kind of cell; none: one kind for all.',
  }),
  repeat: group({
    times: whole({
      default: 1,
      min: 1,
      max: 100_000,
      unit: '×',
      label: 'Repeat',
      explain: 'How often the feed is repeated, with new keys, to make a long list.',
    }),
    addresses: choice(['same', 'distinct'], {
      default: 'same',
      label: 'Repeated addresses',
      explain: 'Whether a repeated item has the same picture or one of its own.',
    }),
  }),
  pageAheadRows: whole({
    default: 10,
    min: 0,
    max: 1000,
    unit: 'rows',
    label: 'Next page',
    explain: 'The next page is requested this many rows before the end.',
  }),
  base: z.string().max(8000).nullable().default(null),
  sameIgnoring: z.array(z.string().max(200)).max(100).default([]),
})
