import { kindFields, kindNames, type Field } from './event-kinds.ts'
import { logFormat, logVersion } from './log-encoding.ts'
import { unitsPerDp } from '../numbers/units.ts'
import type { Chunk, RunLog } from './run-log.ts'

/**
 * One event as it is written to files: its kind, its instant in ms, and its fields by name (`create` has one called
 * kind).
 */
export type WrittenEvent = { event: string; t: number } & Record<string, number | string>

/** The event at a row of a chunk, with its fields by name. */
export function writtenEvent(log: RunLog, chunk: Chunk, row: number): WrittenEvent {
  const kind = chunk.kind[row]!
  const t = chunk.t[row]!
  const written: WrittenEvent = { event: kindNames[kind]!, t: t / 1000 }
  for (const field of kindFields[kind]!)
    written[field.name] = writtenField(log, field, chunk[field.column][row]!, t, chunk.x[row]!)
  return written
}

function writtenField(log: RunLog, field: Field, value: number, t: number, x: number): number | string {
  switch (field.form) {
    case 'int':
    case 'some':
    case 'counted':
    case 'flag':
    case 'bytes':
    case 'kB':
      return value
    case 'ms':
    case 'at':
      return value / 1000
    case 'after':
      return (t + value) / 1000
    case 'afterX':
      return (t + x + value) / 1000
    case 'dp':
      return value / unitsPerDp
    case 'text':
    case 'name':
      return log.strings[value] ?? ''
  }
}

/** The log as NDJSON lines: the head, the tables a line a row, then every event. Yields blocks of text. */
export function* toNdjson(log: RunLog): Generator<string> {
  const { world, seed, visit, project, ...rest } = log.head
  yield JSON.stringify({ format: logFormat, version: logVersion, world, seed, visit, project, ...rest }) + '\n'
  const table = (name: string, rows: readonly object[]) =>
    rows.map((row, id) => JSON.stringify({ table: name, id, ...row }) + '\n').join('')
  yield table('asset', log.assets) + table('rendition', log.renditions) + table('geometry', log.geometries)
  for (let index = 0, number = 0; index < log.count; number++) {
    const chunk = log.chunks[number]!
    let block = ''
    for (let row = 0; row < chunk.kind.length && index < log.count; row++, index++) {
      block += JSON.stringify(writtenEvent(log, chunk, row)) + '\n'
      if (block.length > 1_000_000) {
        yield block
        block = ''
      }
    }
    yield block
  }
}
