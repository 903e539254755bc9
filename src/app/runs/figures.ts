import type { Check } from '../../core/profile/figures/checks.ts'
import type { Metrics } from '../../core/profile/figures/metrics.ts'

export interface Figure {
  id: string
  name: string
  explain: string
  /** Less is better, more is better. */
  better: 'less' | 'more'
  form: (value: number) => { text: string; unit: string }
}

const percent = (value: number) => ({ text: (100 * value).toFixed(1), unit: '%' })
const seconds = (value: number) => ({ text: (value / 1000).toFixed(2), unit: 's' })
const plain =
  (unit: string, digits = 0) =>
  (value: number) => ({ text: value.toFixed(digits), unit })

/** The headline figures of a run, in the order in which they stand. */
export const headline: readonly Figure[] = [
  {
    id: 'frames.lateMsPerS',
    name: 'late while scrolling',
    explain: 'How much later than due frames came, for each second of scrolling.',
    better: 'less',
    form: plain('ms/s', 1),
  },
  {
    id: 'pictures.holeShare',
    name: 'holes: no picture yet',
    explain: 'The share of screen area and time in which a picture was still missing.',
    better: 'less',
    form: percent,
  },
  {
    id: 'bytes.wastedShare',
    name: 'of bytes nobody saw',
    explain: 'Bytes that failed, were cut off, came again or were never seen.',
    better: 'less',
    form: percent,
  },
  {
    id: 'pictures.firstScreenMs',
    name: 'first screen',
    explain: 'From the start of the visit, feed included, until the first screen is settled.',
    better: 'less',
    form: seconds,
  },
  {
    id: 'pictures.wrong',
    name: 'wrong pictures',
    explain: 'Times a cell showed the picture of another item.',
    better: 'less',
    form: plain(''),
  },
  {
    id: 'memory.peakMb',
    name: 'memory at its peak',
    explain: 'Tiers, bound pictures, transfers, garbage and base.',
    better: 'less',
    form: plain('MB'),
  },
]

/** More figures, that findings are about. */
const more: readonly Figure[] = [
  {
    id: 'bytes.received',
    name: 'received',
    explain: 'Whole body bytes that came.',
    better: 'less',
    form: (value) => ({ text: (value / 1e6).toFixed(2), unit: 'MB' }),
  },
  { id: 'decode.ms', name: 'decoding', explain: 'Time spent decoding, in all.', better: 'less', form: plain('ms') },
  {
    id: 'pictures.jumps',
    name: 'jumps',
    explain: 'Moves of what is on screen caused by a late size.',
    better: 'less',
    form: plain(''),
  },
  {
    id: 'pictures.flickers',
    name: 'flickers',
    explain: 'Shown pictures that went back to waiting.',
    better: 'less',
    form: plain(''),
  },
  {
    id: 'pictures.soft',
    name: 'soft pictures',
    explain: 'Shown with fewer px than their slot.',
    better: 'less',
    form: plain(''),
  },
  {
    id: 'pictures.failed',
    name: 'failed',
    explain: 'Exposures that ended on the failed visual.',
    better: 'less',
    form: plain(''),
  },
  {
    id: 'pictures.waitP95',
    name: 'wait, 95th of 100',
    explain: 'From entering the screen to being shown.',
    better: 'less',
    form: plain('ms'),
  },
  {
    id: 'tier.evictedThenWanted',
    name: 'evicted, then wanted',
    explain: 'Pictures pushed out of memory and wanted again.',
    better: 'less',
    form: plain(''),
  },
  { id: 'requests.retries', name: 'retries', explain: 'Tries after the first one.', better: 'less', form: plain('') },
]

/** All figures that are held against each other in Compare. */
export const compared: readonly Figure[] = [...headline, ...more]

/** How a metric is told; one without words of its own goes by its id. */
export const figureOf = (id: string): Figure =>
  [...headline, ...more].find((figure) => figure.id === id) ?? {
    id,
    name: id,
    explain: id,
    better: 'less',
    form: plain('', 2),
  }

/** The three that follow the hand. */
export const deltas = headline.slice(0, 3)

export function tell(figure: Figure, metrics: Metrics): string {
  const value = metrics[figure.id]
  if (value === null || value === undefined) return '–'
  const { text, unit } = figure.form(value)
  return unit ? `${text} ${unit}` : text
}

/** The number alone, where its unit stands above it. */
export function numberOf(figure: Figure, metrics: Metrics): string {
  const value = metrics[figure.id]
  return value === null || value === undefined ? '–' : figure.form(value).text
}

/** The difference to a baseline with its sign; null when there is none to tell. */
export function difference(
  figure: Figure,
  metrics: Metrics,
  base: Metrics | null,
): { text: string; is: 'better' | 'worse' | 'same' } | null {
  const value = metrics[figure.id]
  const before = base?.[figure.id]
  if (typeof value !== 'number' || typeof before !== 'number') return null
  const { text } = figure.form(Math.abs(value - before))
  if (Number(text) === 0) return { text: '=', is: 'same' }
  const is = value < before === (figure.better === 'less') ? 'better' : 'worse'
  return { text: `${value > before ? '+' : '−'}${text}`, is }
}

/** How many checks hold, are broken, and cannot be decided by the run's log. */
export function checksWord(checks: readonly Check[]): string {
  const count = (ok: Check['ok']) => checks.filter((check) => check.ok === ok).length
  const [held, broken, open] = [count(true), count(false), count(null)]
  if (held === checks.length) return `All ${held} checks hold`
  const parts = [`${held} checks hold`, broken > 0 && `${broken} broken`, open > 0 && `${open} not decided`]
  return parts.filter((part) => part !== false).join(', ')
}
