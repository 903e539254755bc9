import type { Check } from '../../core/profile/figures/checks.ts'
import {
  comparedIds,
  metricDefinitions,
  type ComparedId,
  type MetricId,
  type Metrics,
  type MetricUnit,
} from '../../core/profile/figures/metric-definitions.ts'

/** A metric as it is shown. */
export interface Figure {
  id: MetricId
  name: string
  explain: string
  /** Less is better, more is better. */
  better: 'less' | 'more'
  form: (value: number) => { text: string; unit: string }
}

const fixed =
  (unit: string, digits = 0, factor = 1) =>
  (value: number) => ({ text: (value * factor).toFixed(digits), unit })

const forms: Record<MetricUnit, Figure['form']> = {
  count: fixed(''),
  row: fixed(''),
  'yes-no': fixed(''),
  ms: fixed('ms'),
  'ms/s': fixed('ms/s', 1),
  share: fixed('%', 1, 100),
  ratio: fixed('', 2),
  dp: fixed('dp'),
  bytes: fixed('MB', 2, 1e-6),
  MB: fixed('MB'),
}

/** Figures whose unit is too coarse for them: a refresh is some 16 ms. */
const finer: Partial<Record<MetricId, Figure['form']>> = {
  'pictures.firstScreenMs': fixed('s', 2, 1e-3),
  'frames.workP95': fixed('ms', 1),
}

export function figureOf(id: MetricId): Figure {
  const { name = id, means, unit, effect } = metricDefinitions[id]
  return { id, name, explain: means, better: effect?.better ?? 'less', form: finer[id] ?? forms[unit] }
}

/** The headline figures of a run, in the order in which they are shown. */
const headlineIds = [
  'frames.lateMsPerS',
  'pictures.holeShare',
  'bytes.wastedShare',
  'pictures.firstScreenMs',
  'pictures.wrong',
  'memory.peakMb',
] as const satisfies readonly ComparedId[]

export const headline = headlineIds.map(figureOf)

/** All figures that Compare shows: the headline ones, then the others that findings are about. */
export const compared = [
  ...headline,
  ...comparedIds.filter((id) => !(headlineIds as readonly MetricId[]).includes(id)).map(figureOf),
]

/** The three that follow the hand, each with its name in the strip. */
export const deltas = (
  [
    ['late', 'frames.lateMsPerS'],
    ['holes', 'pictures.holeShare'],
    ['waste', 'bytes.wastedShare'],
  ] as const
).map(([word, id]) => ({ ...figureOf(id), word }))

/** A value with its unit. */
export function formatFigure(figure: Figure, value: number): string {
  const { text, unit } = figure.form(value)
  return unit ? `${text} ${unit}` : text
}

export function formatMetric(figure: Figure, metrics: Metrics): string {
  const value = metrics[figure.id]
  return value === null || value === undefined ? '–' : formatFigure(figure, value)
}

/** The number alone, where its unit is above it. */
export function numberOf(figure: Figure, metrics: Metrics): string {
  const value = metrics[figure.id]
  return value === null || value === undefined ? '–' : figure.form(value).text
}

/** The difference to a baseline with its sign; null when there is none. */
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
  const holding = `${held} ${held === 1 ? 'check holds' : 'checks hold'}`
  if (held === checks.length) return held === 1 ? holding : `All ${holding}`
  const parts = [holding, broken > 0 && `${broken} broken`, open > 0 && `${open} not decided`]
  return parts.filter((part) => part !== false).join(', ')
}
