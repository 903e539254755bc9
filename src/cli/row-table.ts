import type { MetricId } from '../core/profile/figures/metric-definitions.ts'
import { frontOf, type SweepRow } from '../core/sweep/sweep-row.ts'

const columns = [
  'frames.lateMsPerS',
  'pictures.holeShare',
  'bytes.wastedShare',
  'bytes.received',
] as const satisfies readonly MetricId[]

/** Rows of a sweep as a table for a person: the settings, four medians, and a star for those that no other beats. */
export function rowTable(paths: readonly string[], rows: readonly SweepRow[]): string {
  const front = new Set(frontOf(rows))
  const lines = [
    ['', 'row', ...paths, ...columns],
    ...rows.map(({ row, settings, metrics }) => [
      front.has(row) ? '*' : '',
      String(row),
      ...settings.map(({ value }) => (typeof value === 'string' ? value : JSON.stringify(value))),
      ...columns.map((id) => {
        const median = metrics[id]?.median
        return median === undefined ? '–' : String(Math.round(median * 10_000) / 10_000)
      }),
    ]),
  ]
  const widths = lines[0]!.map((_, i) => Math.max(...lines.map((line) => line[i]!.length)))
  return `${lines
    .map((line) =>
      line
        .map((cell, i) => cell.padEnd(widths[i]!))
        .join('  ')
        .trimEnd(),
    )
    .join('\n')}\n`
}
