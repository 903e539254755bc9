import { z } from 'zod'
import { cellSchema } from './cell-schema.ts'
import { feedSchema } from './feed-schema.ts'
import { amount, choice, fields, group, whole } from './setting.ts'

const layoutSchema = group({
  columns: whole({
    default: 3,
    min: 1,
    max: 24,
    unit: 'columns',
    label: 'Columns',
    explain: 'How many cells there are in a row.',
  }),
  gapDp: amount({ default: 4, min: 0, max: 200, unit: 'dp', label: 'Gap', explain: 'The room between cells.' }),
  paddingDp: amount({
    default: 4,
    min: 0,
    max: 500,
    unit: 'dp',
    label: 'Padding',
    explain: 'The room around the list.',
  }),
  beforeDp: amount({
    default: 0,
    min: 0,
    max: 20_000,
    unit: 'dp',
    label: 'Kept above',
    explain: 'Cells stay attached this far above the screen.',
  }),
  afterDp: amount({
    default: 0,
    min: 0,
    max: 20_000,
    unit: 'dp',
    label: 'Kept below',
    explain: 'Cells are attached this far below the screen.',
  }),
  heldCells: whole({
    default: 0,
    min: 0,
    max: 1000,
    unit: 'cells',
    label: 'Held cells',
    explain: 'Detached cells that stay bound for a quick return.',
  }),
  atTop: choice(['stay', 'follow'], {
    default: 'stay',
    label: 'Inserted on top',
    explain: 'What the very top of the list shows when items come in above it.',
  }),
  entrance: z
    .discriminatedUnion('type', [
      fields({ type: z.literal('none') }),
      fields({ type: z.literal('fade'), ms: z.number().min(0).max(5000).default(200) }),
      fields({ type: z.literal('rise'), ms: z.number().min(0).max(5000).default(200) }),
    ])
    .prefault({ type: 'none' }),
})

export const screenSchema = fields({
  id: z.string().min(1).max(200),
  name: z.string().max(200).default(''),
  feed: feedSchema,
  layout: layoutSchema,
  cells: z.array(cellSchema).min(1).max(20).prefault([{}]),
})
