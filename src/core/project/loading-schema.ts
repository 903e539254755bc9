import { z } from 'zod'
import { amount, amountOrNone, choice, fields, flag, group, whole } from './setting.ts'

const cancel = group({
  when: choice(['recycle', 'zone', 'never'], {
    default: 'recycle',
    label: 'Let go',
    explain: 'When a request that no cell needs any more is cancelled.',
  }),
  zoneRows: whole({
    default: 3,
    min: 0,
    max: 1000,
    unit: 'rows',
    label: 'Zone',
    explain: 'How far beyond the screen a request is kept when letting go by zone.',
  }),
  keepAbove: amount({
    default: 1,
    min: 0,
    max: 1,
    unit: 'share',
    label: 'Keep above',
    explain: 'A transfer of which this share has arrived is finished, not cut off.',
  }),
  whenPaused: choice(['carry-on', 'finish-running', 'let-go'], {
    default: 'finish-running',
    label: 'When paused',
    explain: 'What happens to requests while the screen is paused.',
  }),
  whenLeft: choice(['carry-on', 'finish-running', 'let-go'], {
    default: 'let-go',
    label: 'When left',
    explain: 'What happens to requests when the screen is left.',
  }),
})

const freshness = z.discriminatedUnion('type', [
  fields({ type: z.literal('headers') }),
  fields({ type: z.literal('age'), s: z.number().min(0).max(3.2e8) }),
  fields({ type: z.literal('count'), n: z.int().min(0).max(1_000_000) }),
])

export const loadingSchema = group({
  fetchSlots: whole({
    default: 6,
    min: 1,
    max: 64,
    unit: 'slots',
    label: 'Fetch slots',
    explain: 'How many transfers run at once.',
  }),
  fetchSlotsPerHost: whole({
    default: 6,
    min: 1,
    max: 64,
    unit: 'slots',
    label: 'To one host',
    explain: 'How many transfers run at once to one host.',
  }),
  order: choice(['nearest', 'first-come', 'last-come'], {
    default: 'nearest',
    label: 'Next in line',
    explain: 'Which waiting request of equal class starts first.',
  }),
  agingMs: amount({
    default: 3000,
    min: 1,
    max: 600_000,
    unit: 'ms',
    label: 'Aging',
    explain: 'After each such wait a request moves up one class, so that nothing starves.',
  }),
  decodeWorkers: whole({
    default: 2,
    min: 1,
    max: 16,
    unit: 'workers',
    label: 'Decode workers',
    explain: 'How many pictures are decoded at once.',
  }),
  decodeOn: choice(['workers', 'main'], {
    default: 'workers',
    label: 'Decode on',
    explain: 'In workers, or on the main thread, which is a common mistake.',
  }),
  guard: flag({
    default: true,
    label: 'Stale guard',
    explain: 'A late picture never shows in a cell that has moved on.',
  }),
  resetOnBind: flag({
    default: true,
    label: 'Reset on bind',
    explain: 'A cell bound to a new item goes back to its waiting stage.',
  }),
  share: flag({ default: true, label: 'Share', explain: 'Equal addresses in flight share one fetch.' }),
  standIn: flag({
    default: true,
    label: 'Stand-in',
    explain: 'A picture held at another size is shown until the right one is there.',
  }),
  setup: choice(['app-start', 'first-use', 'per-screen', 'per-bind'], {
    default: 'app-start',
    label: 'Set-up',
    explain: 'When the loader is set up; each time costs the main thread.',
  }),
  cancel,
  memoryMb: amount({
    default: 32,
    min: 0,
    max: 65_536,
    unit: 'MB',
    label: 'Memory',
    explain: 'Room for decoded pictures; 0: no memory tier.',
  }),
  diskMb: amount({
    default: 120,
    min: 0,
    max: 1_048_576,
    unit: 'MB',
    label: 'Disk',
    explain: 'Room for encoded pictures; 0: no disk tier.',
  }),
  diskFreshness: freshness.prefault({ type: 'headers' }),
  ahead: group({
    by: choice(['rows', 'screens'], {
      default: 'rows',
      label: 'Ahead by',
      explain: 'Looking ahead is counted in rows or in screens.',
    }),
    amount: amount({
      default: 2,
      min: 0,
      max: 1000,
      unit: 'rows',
      label: 'Coming up',
      explain: 'How far ahead of the screen pictures are requested.',
    }),
    direction: choice(['travel', 'both'], {
      default: 'travel',
      label: 'Direction',
      explain: 'Only where the list moves to, or both ways.',
    }),
    onlyWhenIdle: flag({
      default: true,
      label: 'Only when idle',
      explain: 'Nothing ahead starts while something on screen waits.',
    }),
    lists: z.array(z.string().max(200)).max(20).default([]),
  }),
  startBelowDpPerS: amountOrNone({
    min: 0,
    max: 1_000_000,
    unit: 'dp/s',
    label: 'Flicking',
    explain: 'Nothing starts while the list moves faster than this.',
  }),
  retry: group({
    attempts: whole({
      default: 2,
      min: 0,
      max: 20,
      unit: 'retries',
      label: 'Retries',
      explain: 'Tries after the first one, where trying again can help.',
    }),
    firstMs: amount({
      default: 500,
      min: 0,
      max: 600_000,
      unit: 'ms',
      label: 'First retry after',
      explain: 'The wait before the first retry.',
    }),
    factor: amount({
      default: 2,
      min: 1,
      max: 10,
      unit: '×',
      label: 'Back-off',
      explain: 'Each further wait is this many times longer.',
    }),
    jitter: amount({
      default: 0.2,
      min: 0,
      max: 1,
      unit: 'share',
      label: 'Jitter',
      explain: 'How much longer or shorter a wait may be, as a share of it.',
    }),
  }),
  timeoutMs: amount({
    default: 15_000,
    min: 1,
    max: 600_000,
    unit: 'ms',
    label: 'Time-out',
    explain: 'A transfer with no byte for this long has failed.',
  }),
  headers: z
    .array(
      fields({
        host: z.string().min(1).max(300),
        name: z.string().regex(/^[A-Za-z0-9!#$%&'*+.^_`|~-]+$/, { error: 'a header name' }),
        scheme: z.string().max(40).default('Bearer'),
        secret: z.string().min(1).max(200),
        lastsS: z.number().min(0.1).max(86_400).nullable().default(null),
      }),
    )
    .max(50)
    .default([]),
  cleartextHosts: z.array(z.string().min(1).max(300)).max(200).default([]),
})
