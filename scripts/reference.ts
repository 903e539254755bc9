import { writeFileSync } from 'node:fs'
import { format } from 'prettier'
import { z } from 'zod'
import {
  kindFields,
  kindMeanings,
  kindNames,
  type Column,
  type Field,
  type FieldForm,
} from '../src/core/log/event-kinds.ts'
import { comparedIds, metricDefinitions, metricIds } from '../src/core/profile/figures/metric-definitions.ts'
import { projectSchema } from '../src/core/project/project-schema.ts'

/** The parts of docs/ that are made from the definitions: `npm run reference` writes them, a test holds them to it. */
const pages = { metrics: metricsPage, settings: settingsPage, events: eventsPage }
export const pageNames = Object.keys(pages) as (keyof typeof pages)[]

export const pageOf = (name: keyof typeof pages): Promise<string> =>
  format(`${pages[name]()}\n`, { parser: 'markdown', printWidth: 120 })

const made = 'Made from the definitions by `npm run reference`; do not edit by hand.'
const cell = (text: string) => text.replaceAll('|', '\\|').replaceAll('\n', ' ')
const row = (...cells: string[]) => `| ${cells.map(cell).join(' | ')} |`

function metricsPage(): string {
  const groups = [...new Set(metricIds.map((id) => id.split('.')[0]!))]
  const compared = comparedIds.map((id) => {
    const { better, least } = metricDefinitions[id].effect!
    return row(`\`${id}\``, better, `${least}${unitOf(id) ? ` ${unitOf(id)}` : ''}`)
  })
  return [
    '# Metrics',
    `${made} Source: \`src/core/profile/figures/metric-definitions.ts\`; each is computed in \`metrics.ts\` beside it.`,
    'Everything is judged for one visit. Counts and sums over nothing are 0. Percentiles (nearest rank), shares and ratios over nothing are `null`, and so is what a run could not observe. “While scrolling” are the frames in which the window moved. The classes of bytes sum to `bytes.received` exactly.',
    ...groups.flatMap((group) => [
      `## ${group}`,
      [
        row('id', 'unit', 'is'),
        row('---', '---', '---'),
        ...metricIds
          .filter((id) => id.startsWith(`${group}.`))
          .map((id) => row(`\`${id}\``, unitOf(id), metricDefinitions[id].means)),
      ].join('\n'),
    ]),
    '## Compared',
    'Over ten seeds or more: the median of paired differences with its 95 % bootstrap interval (10,000 resamples, seeded). “Better” and “worse” are said when the interval excludes 0 and the median is at least the least effect; else no difference is seen.',
    [row('id', 'better is', 'least effect'), row('---', '---', '---'), ...compared].join('\n'),
  ].join('\n\n')
}

function unitOf(id: (typeof metricIds)[number]): string {
  const { unit } = metricDefinitions[id]
  switch (unit) {
    case 'count':
    case 'row':
      return ''
    case 'share':
      return '0–1'
    case 'yes-no':
      return '0 or 1'
    default:
      return unit
  }
}

interface JsonSchema {
  type?: string | string[]
  const?: unknown
  enum?: string[]
  default?: unknown
  label?: string
  explain?: string
  unit?: string
  minimum?: number
  maximum?: number
  properties?: Record<string, JsonSchema>
  items?: JsonSchema
  prefixItems?: JsonSchema[]
  oneOf?: JsonSchema[]
  anyOf?: JsonSchema[]
}

function settingsPage(): string {
  const schema = z.toJSONSchema(projectSchema, { io: 'input', unrepresentable: 'any' }) as JsonSchema
  const lines: string[] = []
  collect(schema, '', lines)
  return [
    '# Settings',
    `${made} Source: \`src/core/project/*-schema.ts\`. Paths are those of the project file; \`*\` stands for each member of a list. docs/formats.md says what else a file holds.`,
    [
      row('path', 'label', 'allowed', 'default', 'does'),
      row('---', '---', '---', '---', '---'),
      ...new Set(lines),
    ].join('\n'),
  ].join('\n\n')
}

/** Adds a line for each setting below a path: whatever has a label. */
function collect(schema: JsonSchema, path: string, lines: string[]): void {
  if (schema.label !== undefined)
    lines.push(
      row(
        `\`${path}\``,
        schema.label,
        allowed(schema),
        `\`${JSON.stringify(schema.default ?? null)}\``,
        schema.explain ?? '',
      ),
    )
  for (const [name, member] of Object.entries(schema.properties ?? {})) collect(member, `${path}/${name}`, lines)
  if (schema.items) collect(schema.items, `${path}/*`, lines)
  for (const branch of [...(schema.oneOf ?? []), ...(schema.anyOf ?? [])]) collect(branch, path, lines)
}

function allowed({
  type,
  const: only,
  enum: options,
  minimum,
  maximum,
  unit,
  prefixItems,
  oneOf,
  anyOf,
}: JsonSchema): string {
  if (only !== undefined) return JSON.stringify(only)
  if (options) return options.join(', ')
  if (prefixItems)
    return `${prefixItems.length} × ${allowed({ ...prefixItems[0]!, ...(unit === undefined ? {} : { unit }) })}`
  const branches = oneOf ?? anyOf
  if (branches)
    return branches.map((branch) => allowed({ ...branch, ...(unit === undefined ? {} : { unit }) })).join(' or ')
  if (type === 'null') return 'null'
  if (type === 'boolean') return 'true, false'
  if (type === 'integer' || type === 'number') {
    const range = [minimum, maximum].map((bound) => bound?.toLocaleString('en') ?? '')
    return `${type === 'integer' ? 'whole, ' : ''}${range.join('–')}${unit === undefined ? '' : ` ${unit}`}`
  }
  return String(type ?? 'any')
}

const forms: Record<FieldForm, string> = {
  int: 'whole number',
  some: 'whole number, −1: none',
  counted: 'whole number from 1, 0: none',
  flag: '0 or 1',
  name: 'text',
  ms: 'ms',
  after: 'instant, ms',
  afterX: 'instant, ms',
  at: 'instant, ms',
  dp: 'dp',
  text: 'text',
  kB: 'kB',
  bytes: 'bytes',
}

function eventsPage(): string {
  return [
    '# Events of a run log',
    `${made} Source: \`src/core/log/event-kinds.ts\`. In NDJSON each line is \`{"event", "t", …}\` with the fields below; \`t\` is the instant in ms since the visit began. docs/formats.md says how a log begins and what its tables hold.`,
    [
      row('event', 'when', 'fields'),
      row('---', '---', '---'),
      ...kindNames.map((name, number) =>
        row(
          `\`${name}\``,
          kindMeanings[name],
          kindFields[number]!.map((field) => `${field.name} (${forms[field.form]})`).join(', '),
        ),
      ),
    ].join('\n'),
  ].join('\n\n')
}

/** The typed writer of events: a method a kind, so that each call is as cheap as one that names columns. */
export function writerSource(): Promise<string> {
  const methods = kindNames.map((name, number) => {
    const fields = kindFields[number]!
    if (fields.length === 0) return `  ${name}(t: Us): void {\n    this.to.row(${number}, t)\n  }`
    const values = new Map(fields.map((field) => [field.column, valueIn(field)]))
    const columns = ['a', 'b', 'c', 'd', 'x'].map((column) => values.get(column as Column) ?? '0')
    while (columns.at(-1) === '0') columns.pop()
    return `  ${name}(t: Us, event: EventFields<'${name}'>): void {\n    this.to.row(${[number, 't', ...columns].join(', ')})\n  }`
  })
  return format(
    `import type { Us } from '../worlds/ports.ts'
import type { EventFields } from './event-kinds.ts'

/** Takes events as columns, in the order of their instants, µs. */
export interface EventRows {
  row: (kind: number, t: Us, a?: number, b?: number, c?: number, d?: number, x?: number) => void
  /** The number of a text in the string table. */
  text: (value: string) => number
}

/**
 * Writes events by the names of their fields. ${made}
 */
export class EventWriter {
  private readonly to: EventRows

  constructor(to: EventRows) {
    this.to = to
  }

${methods.join('\n\n')}
}
`,
    { parser: 'typescript', printWidth: 120, semi: false, singleQuote: true },
  )
}

function valueIn({ name, form }: Field): string {
  switch (form) {
    case 'text':
      return `this.to.text(event.${name})`
    case 'flag':
      return `event.${name} ? 1 : 0`
    case 'some':
      return `event.${name} ?? -1`
    case 'counted':
      return `event.${name} === null ? 0 : event.${name} + 1`
    case 'after':
      return `event.${name} - t`
    case 'afterX':
      return `event.${name} - event.due`
    default:
      return `event.${name}`
  }
}

export const writerFile = 'src/core/log/event-writer.ts'

if (process.argv[1]?.endsWith('reference.ts')) {
  for (const name of pageNames) writeFileSync(`docs/${name}.md`, await pageOf(name))
  writeFileSync(writerFile, await writerSource())
}
