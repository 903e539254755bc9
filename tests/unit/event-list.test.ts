import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { eventsAsCsv, lineOf, listEvents } from '../../src/core/log/event-list.ts'
import { demoLog as log, demoProfile } from '../support/demo-run.ts'

describe('the list of events', () => {
  it('is searched by kind and by text, and exported as CSV that reads back', () => {
    const all = listEvents(log, { kinds: [], text: '' }, 10)
    expect([all.events.length, all.matching]).toEqual([10, log.count])
    // Whatever a line prints can be searched for, names of fields too.
    for (const text of [
      'row 5',
      `key ${String(listEvents(log, { kinds: ['bind'], text: '' }, 1).events[0]!.key)}`,
      'cell 0, key',
    ]) {
      const found = listEvents(log, { kinds: [], text }, 10_000)
      expect([text, found.matching > 0]).toEqual([text, true])
      for (const each of found.events) expect(lineOf(each)).toContain(text)
    }
    const binds = listEvents(log, { kinds: ['bind'], text: '' }, 1000)
    expect(binds.matching).toBe(demoProfile.metrics['cells.bound'])
    const key = binds.events[2]!.key as string
    expect(
      listEvents(log, { kinds: ['bind'], text: key }, 1000).events.every((event) =>
        JSON.stringify(event).includes(key),
      ),
    ).toBe(true)
    const csv = Papa.parse<Record<string, string>>(eventsAsCsv(log, { kinds: ['bind'], text: '' }), {
      header: true,
    }).data
    expect(csv.map((row) => [Number(row.t), row.key, Number(row.row)])).toEqual(
      binds.events.map((event) => [event.t, event.key, event.row]),
    )
  })
})
