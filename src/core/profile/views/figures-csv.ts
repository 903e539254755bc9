import Papa from 'papaparse'
import { metricDefinitions, metricIds, type Metrics } from '../figures/metric-definitions.ts'

/** Every figure of a run as CSV (RFC 4180), in full precision; one that was not observed has no value. */
export function figuresAsCsv(metrics: Metrics): string {
  const data = metricIds.map((id) => [id, metrics[id] ?? '', metricDefinitions[id].unit, metricDefinitions[id].means])
  return Papa.unparse({ fields: ['metric', 'value', 'unit', 'means'], data }, { newline: '\r\n', escapeFormulae: true })
}
