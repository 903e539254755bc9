import { z } from 'zod'
import { amount, choice, fields, flag, four, group, pointer, pointerOrNone, whole, words } from './setting.ts'

const colour = z.string().regex(/^#[0-9a-fA-F]{6}$/, { error: 'a colour such as #E6DFCF' })

const dp = z.number().min(0).max(10_000)
const fit = ['cover', 'contain', 'fill', 'none', 'scale-down'] as const

/**
 * One of several addresses of a picture, and its width there: in px, or a field of the item. Without either it is the
 * largest.
 */
const sizedAddress = fields({
  at: pointer(),
  widthPx: z.int().min(1).max(65_536).optional(),
  widthAt: pointer().optional(),
})

const address = z.discriminatedUnion('type', [
  fields({ type: z.literal('pointer'), at: pointer() }),
  fields({ type: z.literal('template'), template: z.string().min(1).max(4000) }),
  fields({ type: z.literal('table'), at: pointer(), table: z.record(z.string(), z.string()) }),
  fields({ type: z.literal('packaged'), name: z.string().min(1) }),
  fields({
    type: z.literal('sizes'),
    choices: z.array(sizedAddress).min(1).max(12),
    smallFirst: z.boolean().default(false),
  }),
])

const size = z.discriminatedUnion('type', [
  fields({ type: z.literal('fixed'), widthDp: dp, heightDp: dp }),
  fields({ type: z.literal('fill') }),
  fields({ type: z.literal('share'), of: z.number().gt(0).max(1) }),
  fields({ type: z.literal('aspect'), ratio: z.number().gt(0).max(100) }),
  fields({ type: z.literal('aspect-at'), width: pointer(), height: pointer() }),
  fields({ type: z.literal('from-picture') }),
])

const treatment = z.discriminatedUnion('type', [
  fields({ type: z.literal('grayscale'), amount: z.number().min(0).max(1).default(1) }),
  fields({ type: z.literal('blur'), radiusDp: z.number().min(0).max(100).default(8) }),
  fields({ type: z.literal('tint'), colour: colour.default('#15252F'), amount: z.number().min(0).max(1).default(0.3) }),
])

const media = z.discriminatedUnion('type', [
  fields({ type: z.literal('still') }),
  fields({ type: z.literal('animated'), play: z.enum(['always', 'on-screen', 'first-frame']).default('on-screen') }),
  fields({ type: z.literal('poster'), offsetMs: z.number().min(0).max(36_000_000).default(0) }),
])

const decodeAt = z.discriminatedUnion('type', [
  fields({ type: z.literal('slot') }),
  fields({ type: z.literal('original') }),
  fields({ type: z.literal('fixed'), px: z.int().min(1).max(16_384) }),
])

const visual = z.discriminatedUnion('type', [
  fields({ type: z.literal('space') }),
  fields({ type: z.literal('colour'), colour: colour.default('#E6DFCF') }),
  fields({ type: z.literal('item-colour'), at: pointer().default('/colour') }),
  fields({ type: z.literal('drawn'), shape: z.enum(['tile-outline', 'cracked-tile']).default('tile-outline') }),
  fields({ type: z.literal('picture'), asset: z.string().min(1) }),
  fields({
    type: z.literal('preview'),
    at: pointer(),
    as: z.enum(['data', 'blurhash', 'thumbhash']).default('data'),
  }),
  fields({ type: z.literal('skeleton') }),
  fields({ type: z.literal('ring') }),
])

const look = {
  frame: fields({ widthDp: dp, heightDp: dp }).optional(),
  insetDp: z.tuple([dp, dp, dp, dp]).optional(),
  fit: z.enum(fit).optional(),
  cornersDp: z.tuple([dp, dp, dp, dp]).optional(),
  colour: colour.optional(),
}

const stages = group({
  absent: group({ visual: visual.prefault({ type: 'drawn', shape: 'tile-outline' }), ...look }),
  waiting: group({ visual: visual.prefault({ type: 'skeleton' }), ...look }),
  arriving: group({ visual: visual.prefault({ type: 'ring' }), ...look }),
  settled: group({ ...look }),
  failed: group({
    visual: visual.prefault({ type: 'drawn', shape: 'cracked-tile' }),
    ...look,
    retry: flag({ default: true, label: 'Offer retry', explain: 'A failed picture can be requested again by a tap.' }),
    fallbacks: z.array(z.string().max(8000)).max(8).default([]),
  }),
})

const transition = group({
  type: choice(['none', 'fade', 'fade-grow'], {
    default: 'fade',
    label: 'Arrival',
    explain: 'How a picture that has just arrived appears.',
  }),
  ms: amount({ default: 200, min: 0, max: 5000, unit: 'ms', label: 'Lasts', explain: 'How long the arrival lasts.' }),
  fromScale: amount({
    default: 0.85,
    min: 0,
    max: 2,
    unit: '×',
    label: 'Grow from',
    explain: 'The size the picture starts from when it grows.',
  }),
  easing: choice(['linear', 'ease-in', 'ease-out', 'ease-in-out'], {
    default: 'ease-out',
    label: 'Easing',
    explain: 'How the arrival is spread over its time.',
  }),
  beneath: choice(['stays', 'fades', 'goes'], {
    default: 'stays',
    label: 'Beneath',
    explain: 'What the placeholder does while the picture arrives.',
  }),
  skip: z
    .array(z.enum(['memory', 'flicking', 'reduced-motion']))
    .max(3)
    .default(['memory']),
  on: choice(['compositor', 'main'], {
    default: 'compositor',
    label: 'Runs on',
    explain: 'On the compositor an arrival costs the main thread nothing.',
  }),
})

/** All options of a slot, for the whole app, in a named set or on the slot itself. */
export const slotOptions = {
  address: address.prefault({ type: 'pointer', at: '/photo' }),
  widthAt: pointerOrNone('/width', {
    label: 'Width from',
    explain: 'The field with the width of the picture, px.',
  }),
  heightAt: pointerOrNone('/height', {
    label: 'Height from',
    explain: 'The field with the height of the picture, px.',
  }),
  bytesAt: pointerOrNone('/bytes', {
    label: 'Bytes from',
    explain: 'The field with the size of the picture, bytes.',
  }),
  size: size.prefault({ type: 'fixed', widthDp: 124, heightDp: 124 }),
  insetDp: four({
    default: 0,
    min: 0,
    max: 10_000,
    unit: 'dp',
    label: 'Inset',
    explain: 'How far the picture keeps from the edges of its slot: top, right, bottom and left.',
  }),
  clip: flag({ default: true, label: 'Clip', explain: 'Cut off what extends beyond the frame of the slot.' }),
  fit: choice(fit, { default: 'cover', label: 'Fit', explain: 'How the picture is fitted into the slot, as in CSS.' }),
  position: z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]).default([0.5, 0.5]),
  cornersDp: four({
    default: 8,
    min: 0,
    max: 10_000,
    unit: 'dp',
    label: 'Corners',
    explain: 'The radius of the corners of the slot, clockwise from the top left.',
  }),
  circle: flag({ default: false, label: 'Circle', explain: 'Cut the picture to a circle or an ellipse.' }),
  shadowDp: amount({
    default: 0,
    min: 0,
    max: 48,
    unit: 'dp',
    label: 'Shadow',
    explain: 'How far the shadow under the picture reaches.',
  }),
  shapeAt: choice(['draw', 'decode'], {
    default: 'draw',
    label: 'Shape made at',
    explain: 'Corners cut at each draw, or once when decoding.',
  }),
  treatments: z.array(treatment).max(8).default([]),
  media: media.prefault({ type: 'still' }),
  decodeAt: decodeAt.prefault({ type: 'slot' }),
  stages,
  transition,
  priority: choice(['low', 'normal', 'high'], {
    default: 'normal',
    label: 'Priority',
    explain: 'Which slot of a cell is requested first.',
  }),
}

const slot = fields({
  id: words({ default: 'main', label: 'Slot', explain: 'The name of this picture slot.' }),
  use: z.string().nullable().default(null),
  ...slotOptions,
})

const text = fields({
  at: pointer().default('/title'),
  sizeDp: amount({
    default: 14,
    min: 1,
    max: 200,
    unit: 'dp',
    label: 'Text size',
    explain: 'The height of the letters.',
  }),
  lines: whole({
    default: 1,
    min: 1,
    max: 50,
    unit: 'lines',
    label: 'Lines',
    explain: 'At most this many lines are shown.',
  }),
  spareDp: amount({ default: 0, min: 0, max: 1000, unit: 'dp', label: 'Spare', explain: 'Room kept below the text.' }),
})

export const cellSchema = fields({
  kind: z.string().max(200).default('*'),
  arrangement: choice(['picture-start', 'picture-end', 'picture-top', 'picture-under', 'picture-only'], {
    default: 'picture-only',
    label: 'Arrangement',
    explain: 'Where the pictures are, beside the text.',
  }),
  height: z
    .discriminatedUnion('type', [
      fields({ type: z.literal('fixed'), dp: z.number().min(1).max(10_000).default(124) }),
      fields({ type: z.literal('content') }),
    ])
    .prefault({ type: 'fixed', dp: 124 }),
  slots: z.array(slot).max(8).prefault([{}]),
  texts: z.array(text).max(12).default([]),
})
