import { z } from 'zod'
import { amount, choice, fields, flag, group, whole, words } from './setting.ts'

const cost = (fallback: number, label: string, explain: string, unit = 'ms') =>
  amount({ default: fallback, min: 0, max: 1_000_000, unit, label, explain })

const costsSchema = group({
  frameMs: cost(1.2, 'Frame', 'What every frame costs the main thread.'),
  createMs: cost(4, 'Create', 'Making a new cell.'),
  bindMs: cost(0.6, 'Bind', 'Binding a cell to an item.'),
  uploadMs: cost(0.15, 'Upload', 'Setting a decoded picture, a fixed part.'),
  uploadNsPerPx: cost(1, 'Upload per px', 'Setting a decoded picture, per px.', 'ns/px'),
  decodeMs: cost(1.5, 'Decode', 'Decoding, a fixed part.'),
  decodeNsPerPx: group({
    jpeg: cost(12, 'Decode JPEG', 'Decoding, per source px.', 'ns/px'),
    png: cost(20, 'Decode PNG', 'Decoding, per source px.', 'ns/px'),
    webp: cost(18, 'Decode WebP', 'Decoding, per source px.', 'ns/px'),
    avif: cost(35, 'Decode AVIF', 'Decoding, per source px.', 'ns/px'),
  }).meta({ label: 'Decode per px', explain: 'Decoding, per source px.', unit: 'ns/px' }),
  reducedFactor: cost(0.4, 'Reduced', 'The cost of a decode to half the size or less, as a share of a full one.', '×'),
  treatNsPerPx: group({
    grayscale: cost(2, 'Grayscale', 'Per px of the rendition.', 'ns/px'),
    tint: cost(2, 'Tint', 'Per px of the rendition.', 'ns/px'),
    blur: cost(12, 'Blur', 'Per px of the rendition.', 'ns/px'),
    corners: cost(3, 'Corners', 'Per px of the rendition.', 'ns/px'),
  }),
  fetchMs: cost(
    0,
    'Fetch',
    'The time that passing a transfer to the system and back adds to the wait for the first byte.',
  ),
  seekMs: cost(35, 'Seek', 'Seeking to the moment of a video at which its poster is cut.'),
  maskMs: cost(0.05, 'Mask', 'Drawing one picture through a mask in one frame.'),
  layoutMs: cost(0.8, 'Layout', 'Laying out again after a jump.'),
  transitionMs: cost(0.05, 'Transition', 'One transition on the main thread, per frame.'),
  setupMs: cost(6, 'Set-up', 'Setting up the loader once.'),
  diskMs: cost(4, 'Disk', 'Opening one entry of the disk tier.'),
  diskKBps: amount({
    default: 80_000,
    min: 1,
    max: 100_000_000,
    unit: 'kB/s',
    label: 'Disk rate',
    explain: 'Reading from the disk tier.',
  }),
  gcThresholdMb: cost(24, 'Collect at', 'Garbage that starts a collection.', 'MB'),
  gcPauseMs: cost(4, 'Collection', 'The pause of one collection.'),
})

export const deviceSchema = group({
  name: words({ default: 'Mid 60', label: 'Device', explain: 'A name for these values; they are illustrative.' }),
  widthDp: amount({
    default: 411,
    min: 100,
    max: 4000,
    unit: 'dp',
    label: 'Width',
    explain: 'The width of the screen.',
  }),
  heightDp: amount({
    default: 823,
    min: 100,
    max: 4000,
    unit: 'dp',
    label: 'Height',
    explain: 'The height of the screen.',
  }),
  density: amount({
    default: 2.625,
    min: 0.5,
    max: 8,
    unit: 'px/dp',
    label: 'Density',
    explain: 'px of the screen for each dp.',
  }),
  refreshHz: amount({
    default: 60,
    min: 1,
    max: 480,
    unit: 'Hz',
    label: 'Refresh',
    explain: 'How often the screen can show a new frame.',
  }),
  speed: amount({ default: 1, min: 0.01, max: 100, unit: '×', label: 'Speed', explain: 'Costs are divided by this.' }),
  heapMb: amount({
    default: 256,
    min: 1,
    max: 65_536,
    unit: 'MB',
    label: 'Heap',
    explain: 'The app ends when its memory passes this.',
  }),
  granted: group({
    network: flag({ default: true, label: 'Network', explain: 'Whether the app may use the network.' }),
    storage: flag({ default: true, label: 'Storage', explain: 'Whether the app may use storage.' }),
  }),
  flick: group({
    curve: choice(['exponential', 'steady'], {
      default: 'exponential',
      label: 'Flick curve',
      explain: 'How a flick slows down: by a share of its speed, or by the same amount each second.',
    }),
    timeMs: amount({
      default: 325,
      min: 1,
      max: 10_000,
      unit: 'ms',
      label: 'Flick time',
      explain: 'The time constant of a flick.',
    }),
    stopDpPerS: amount({
      default: 20,
      min: 0.001,
      max: 10_000,
      unit: 'dp/s',
      label: 'Flick stop',
      explain: 'A flick slower than this is at rest.',
    }),
  }),
  costs: costsSchema,
})

const faultKinds = [
  'status',
  'timeout',
  'stall',
  'truncate',
  'wrong-type',
  'broken',
  'huge',
  'empty',
  'redirect-loop',
  'drip',
] as const

const fault = fields({
  match: z.string().min(1).max(2000).default('*'),
  kind: z.enum(faultKinds),
  status: z.int().min(100).max(599).default(503),
  retryAfterS: z.number().min(0).max(86_400).nullable().default(null),
  rate: z.number().min(0).max(1).default(1),
  times: z.int().min(1).max(1_000_000).nullable().default(null),
  afterBytes: z.int().min(0).max(2_000_000_000).default(0),
  fromMs: z.number().min(0).max(3_600_000).default(0),
  toMs: z.number().min(0).max(3_600_000).nullable().default(null),
})

const span = fields({ fromMs: z.number().min(0).max(3_600_000), toMs: z.number().min(0).max(3_600_000) })

export const networkSchema = group({
  name: words({ default: 'Ferry', label: 'Network', explain: 'A name for these values; they are illustrative.' }),
  rttMs: amount({
    default: 90,
    min: 0,
    max: 60_000,
    unit: 'ms',
    label: 'Round trip',
    explain: 'There and back, with nothing to carry.',
  }),
  jitterMs: amount({
    default: 20,
    min: 0,
    max: 60_000,
    unit: 'ms',
    label: 'Jitter',
    explain: 'How much earlier or later the first byte may arrive.',
  }),
  downKbps: amount({
    default: 4000,
    min: 1,
    max: 10_000_000,
    unit: 'kbit/s',
    label: 'Down',
    explain: 'The rate that all transfers share.',
  }),
  protocol: choice(['h1', 'h2'], {
    default: 'h2',
    label: 'Protocol',
    explain: 'One transfer a connection (h1), or all of a host on one (h2).',
  }),
  connectionsPerHost: whole({
    default: 6,
    min: 1,
    max: 64,
    unit: 'connections',
    label: 'Connections',
    explain: 'Connections to one host with h1.',
  }),
  setupRtts: amount({
    default: 3,
    min: 0,
    max: 20,
    unit: 'round trips',
    label: 'Set-up',
    explain: 'Round trips that a new connection costs.',
  }),
  slowStart: flag({
    default: true,
    label: 'Slow start',
    explain: 'A connection starts with 14,600 bytes a round trip and doubles.',
  }),
  metered: flag({
    default: false,
    label: 'Metered',
    explain: 'Bytes cost money: variants for metered networks apply.',
  }),
  thinkMs: amount({
    default: 20,
    min: 0,
    max: 60_000,
    unit: 'ms',
    label: 'Think',
    explain: 'The time the server takes before its first byte.',
  }),
  faults: z.array(fault).max(100).default([]),
  offline: z.array(span).max(100).default([]),
})
