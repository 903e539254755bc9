import type { Check } from '../core/profile/figures/checks.ts'
import { metricIds, type Metrics } from '../core/profile/figures/metric-definitions.ts'

interface VisitFigures {
  visit: string
  metrics: Metrics
  checks: Check[]
}

/** The metrics of some visits side by side, and the checks that failed, as plain text. */
export function metricTable(visits: readonly VisitFigures[]): string {
  const names = metricIds
  const wide = Math.max(...names.map((name) => name.length)) + 2
  const row = (name: string, cells: string[]) =>
    name.padEnd(wide) + cells.map((cell) => cell.padStart(16)).join('') + '\n'
  const lines = names.map((name) =>
    row(
      name,
      visits.map(({ metrics }) => number(metrics[name])),
    ),
  )
  const checks = visits.flatMap(({ visit, checks }) =>
    checks.map((check) => `${verdict(check)} ${check.id} (${visit}): ${check.evidence}\n`),
  )
  return (
    row(
      '',
      visits.map(({ visit }) => visit),
    ) +
    lines.join('') +
    '\n' +
    checks.join('')
  )
}

function number(value: number | null): string {
  if (value === null) return '–'
  return Number.isInteger(value) ? String(value) : String(Math.round(value * 10_000) / 10_000)
}

function verdict({ ok }: Check): string {
  if (ok === null) return 'not decided'
  return ok ? 'holds ' : 'BROKEN'
}
