import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { pageNames, pageOf, writerFile, writerSource } from '../../scripts/reference.ts'
import { kindFields, kindNames, type EventKind } from '../../src/core/log/event-kinds.ts'
import { EventReader, type EventHandlers } from '../../src/core/log/event-reader.ts'
import { RunLog } from '../../src/core/log/run-log.ts'
import { writtenEvent } from '../../src/core/log/ndjson.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { projectOf } from '../support/projects.ts'

describe('what is made from the definitions', () => {
  it.each(pageNames)('docs/%s.md is up to date: npm run reference', async (name) => {
    expect(await pageOf(name)).toBe(readFileSync(`docs/${name}.md`, 'utf8'))
  })

  it('the writer of events is up to date: npm run reference', async () => {
    expect(await writerSource()).toBe(readFileSync(writerFile, 'utf8'))
  })
})

describe('events by name', () => {
  const { head } = simulate(projectOf({ steps: [] })).log

  /** A value for each field of a kind: each other than the rest, and none that its form turns into another. */
  const fieldsOf = (kind: EventKind) =>
    Object.fromEntries(
      kindFields[kindNames.indexOf(kind)]!.map(({ name, form }, i) => {
        const instants = { due: 5000, presented: 7000, begin: 4000 } as Record<string, number>
        const number = form === 'flag' ? true : (instants[name] ?? 11 + i)
        return [name, form === 'text' ? `text ${i}` : number]
      }),
    )

  it('are read as they were written, and NDJSON has each field of theirs', () => {
    const log = new RunLog(head)
    for (const kind of kindNames) (log.events[kind] as (t: number, event: object) => void)(7000, fieldsOf(kind))
    const read: [string, object][] = []
    const handlers = Object.fromEntries(
      kindNames.map((kind) => [kind, (event: object) => read.push([kind, { ...event }])]),
    ) as EventHandlers
    new EventReader(log, handlers).readAll()
    expect(read).toEqual(kindNames.map((kind) => [kind, { t: 7000, ...fieldsOf(kind) }]))
    for (const [row, kind] of kindNames.entries())
      expect(Object.keys(writtenEvent(log, log.chunks[0]!, row))).toEqual([
        'event',
        't',
        ...Object.keys(fieldsOf(kind)),
      ])
  })

  it('a reader that is asked within another leaves it where it was', () => {
    const log = new RunLog(head)
    for (let cell = 0; cell < 3; cell++) log.events.recycle(cell, { cell })
    const seen: number[] = []
    new EventReader(log, {
      recycle: (event) => {
        new EventReader(log, { recycle: ({ cell }) => seen.push(10 + cell) }).read(2, 3)
        seen.push(event.cell)
      },
    }).readAll()
    expect(seen).toEqual([12, 0, 12, 1, 12, 2])
  })
})
