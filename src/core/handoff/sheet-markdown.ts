import { metricDefinitions, type MetricId } from '../profile/figures/metric-definitions.ts'
import type { Sheet, SheetLine } from './sheet.ts'

/** The sheet as Markdown. */
export function sheetMarkdown(sheet: Sheet): string {
  const { project, screen, script, device, network, seeds, groups, steps, granted, budgets, mended, notLookedAt } =
    sheet
  return [
    `# ${plainText(project)}: what the app takes over`,
    `Made on “${plainText(screen)}” with the gesture “${plainText(script)}”, on ${plainText(device)} over ${plainText(network)}; figures are medians over ${seeds} seeds, with their 95 % interval, against a plain loader that differs in that one setting alone.`,
    ...(granted.length > 0 ? ['## What the app must be granted', list(granted)] : []),
    ...groups.flatMap(({ place, lines }) => [`## At ${place}`, list(lines.map(lineOf))]),
    ...(steps.length > 0 ? ['## The policy as steps'] : []),
    ...steps.flatMap(({ at, steps: own }) => [
      `**${at[0]!.toUpperCase()}${at.slice(1)}**`,
      ['```text', ...own, '```'].join('\n'),
    ]),
    ...(budgets.length > 0
      ? [
          '## Budgets',
          list(
            budgets.map(
              ({ ok, message, margin }) =>
                `${ok ? 'Kept' : '**Broken**'}: ${message}${margin === null ? '' : `, ${Math.round(100 * margin)} % ${ok ? 'to spare' : 'beyond it'}`}.`,
            ),
          ),
        ]
      : []),
    ...(mended.length > 0 ? ['## Mistakes that this avoids', list(mended)] : []),
    ...(notLookedAt.length > 0 ? ['## What was not looked at', list(notLookedAt)] : []),
    '',
  ].join('\n\n')
}

const list = (lines: readonly string[]) => lines.map((line) => `- ${plainText(line)}`).join('\n')

function lineOf({ label, value, plain, say, reason, proof, comment }: SheetLine): string {
  return `**${label}: ${value}** (a plain loader: ${plain}). ${say} ${reason} ${proofOf(proof)}${comment ? ` Comment: ${comment}` : ''}`
}

/** The effect of a setting alone, in words. */
export function proofOf(proof: SheetLine['proof']): string {
  if (!proof) return '_A design decision: no difference was seen in this drive._'
  const { metric, before, after, difference } = proof
  const signed = (value: number) => `${value < 0 ? '−' : '+'}${figure(metric, Math.abs(value))}`
  return `_Proof: ${nameOf(metric)} ${figure(metric, before)} → ${figure(metric, after)} (${signed(difference.low)} … ${signed(difference.high)})._`
}

/** As it reads in a sentence: elsewhere “of bytes nobody saw” is below a number. */
const nameOf = (metric: MetricId) => (metricDefinitions[metric].name ?? metric).replace(/^of /, '')

function figure(metric: MetricId, value: number): string {
  const { unit } = metricDefinitions[metric]
  switch (unit) {
    case 'share':
      return `${(100 * value).toFixed(1)} %`
    case 'bytes':
      return `${(value / 1e6).toFixed(2)} MB`
    case 'count':
    case 'row':
    case 'yes-no':
      return value.toFixed(0)
    case 'ratio':
      return value.toFixed(2)
    default:
      return `${value.toFixed(1)} ${unit}`
  }
}

/** Names come from files: markup in them is escaped. */
const plainText = (text: string) =>
  text.replace(/[<>]/g, (mark) => (mark === '<' ? '&lt;' : '&gt;')).replace(/[\r\n]+/g, ' ')
