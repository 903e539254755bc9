import type { Metrics } from '../../src/core/profile/figures/metric-definitions.ts'
import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { judgeBudget } from '../../src/core/compare/budgets.ts'
import { pictureHeader } from '../../src/workers/picture-header.ts'
import Papa from 'papaparse'
import { eventsAsCsv, lineOf, listEvents } from '../../src/core/log/event-list.ts'
import { K, kindFields, kindNames } from '../../src/core/log/event-kinds.ts'
import { decodeLog, encodeLog } from '../../src/core/log/log-encoding.ts'
import { hashLog } from '../../src/core/log/log-hash.ts'
import { RunLog } from '../../src/core/log/run-log.ts'
import { ledgerTable } from '../../src/core/profile/figures/ledger-table.ts'
import { mapClasses, mapOf } from '../../src/core/profile/views/map-data.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { tellRequest } from '../../src/core/profile/stories/stories.ts'
import { parseProjectText } from '../../src/core/project/parse-text.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'
import { nearestLine, fitAll, plotOf, toX, toY, zoomTime } from '../../src/app/map/map-view.ts'

const parsed = parseProjectText(readFileSync(new URL('../../demo/saltmarsh.tiletug.json', import.meta.url), 'utf8'))
if (!parsed.ok) throw new Error(parsed.message)
const { log } = simulate(parsed.project)
const { facts, ledger, metrics } = profileRun(log)

describe('stories', () => {
  it('tell every request of the demo in order, from wanted to its end', () => {
    for (const request of facts.requests) {
      const story = tellRequest(facts, ledger, request.id)!
      const times = story.sentences.map(({ t }) => t)
      expect(times).toEqual([...times].sort((a, b) => a - b))
      expect(story.sentences[0]!.text).toMatch(/^wanted: (cell \d+ was bound in|row \d+ came near)/)
      expect(story.sentences.every(({ text }) => text.endsWith('.') && !/undefined|NaN|-1/.test(text))).toBe(true)
    }
    expect(tellRequest(facts, ledger, 99_999)).toBeNull()
  })

  it('say how much had arrived when a transfer was cut off', () => {
    const cut = facts.transfers.find((each) => each.end === 'cut' && each.bytes > 0)!
    const text = tellRequest(facts, ledger, cut.request)!
      .sentences.map((each) => each.text)
      .join(' ')
    expect(text).toContain(
      `cut off; ${Math.round((100 * cut.bytes) / cut.total!)} % of ${Math.round(cut.total! / 1000)} kB had arrived.`,
    )
    expect(text).toMatch(/cell \d+ was recycled\./)
  })
})

describe('the scroll map', () => {
  const map = mapOf(facts, ledger)

  it('has a line for every request, a hole for every wait and a drip for every late frame', () => {
    expect(map.lines.request.length).toBe(facts.requests.length)
    const counted = map.lines.kind.reduce<Record<string, number>>(
      (sum, kind) => ({ ...sum, [mapClasses[kind]!]: (sum[mapClasses[kind]!] ?? 0) + 1 }),
      {},
    )
    for (const name of ['shown', 'cutOff', 'cancelledFree', 'failed'] as const)
      expect([name, counted[name] ?? 0]).toEqual([name, metrics[`requests.${name}`]])
    expect(map.drips.t.length).toBe(metrics['frames.late'])
    expect(map.lines.bytes.reduce((sum, bytes) => sum + bytes, 0)).toBe(metrics['bytes.received'])
  })

  it('finds the line under a pointer, and zooms around it', () => {
    const plot = plotOf(900, 400)
    const view = fitAll(map)
    const i = 40
    const [x, y] = [toX(map.lines.to[i]!, view, plot), toY(map.lines.y[i]!, view, plot)]
    const found = nearestLine(map, x, y, view, plot)!
    expect(Math.abs(toY(map.lines.y[found]!, view, plot) - y)).toBeLessThan(1)
    expect(nearestLine(map, 899, 1, view, plot)).toBeNull()
    const closer = zoomTime(view, 0.5, 2000, map)
    expect(toX(2000, closer, plot)).toBeCloseTo(toX(2000, view, plot), 6)
    expect(closer.toMs - closer.fromMs).toBeCloseTo((view.toMs - view.fromMs) / 2, 6)
  })
})

describe('the run log', () => {
  it('comes back from its encoding whatever is in it', () => {
    const int = fc.integer({ min: -2_147_483_648, max: 2_147_483_647 })
    const event = fc.tuple(
      fc.nat(kindNames.length - 1),
      fc.nat(4_294_967_295),
      int,
      int,
      int,
      int,
      fc.maxSafeInteger().map((n) => Math.trunc(n / 4)),
    )
    fc.assert(
      fc.property(fc.array(event, { maxLength: 300 }), (events) => {
        const one = new RunLog(log.head)
        for (const each of events) one.row(...each)
        one.text('a text')
        expect(hashLog(decodeLog(encodeLog(one)))).toBe(hashLog(one))
      }),
      { numRuns: 100 },
    )
  })

  it('of another format or a newer version is refused with a clear message', () => {
    const stored = encodeLog(log)
    expect(() => decodeLog({ ...stored, version: 9 })).toThrow(
      'the run log is of version 9; this version reads up to 2',
    )
    expect(() => decodeLog({ ...stored, format: 'other' as never })).toThrow('this is not a run log (format other)')
  })

  it('gives no field of an event the name of another', () => {
    for (const [number, fields] of kindFields.entries()) {
      const names = ['event', 't', ...fields.map((field) => field.name)]
      expect([kindNames[number], new Set(names).size]).toEqual([kindNames[number], names.length])
      expect(new Set(fields.map((field) => field.column)).size).toBe(fields.length)
    }
    expect(K.frame).toBe(0)
  })
})

describe('budgets', () => {
  const late = (value: number | null) => ({ 'frames.late': value }) as Metrics
  const judge = (budget: object, values: (number | null)[], base: number | null = null) =>
    judgeBudget(
      { metric: 'frames.late', visit: 'first', ...budget } as never,
      values.map(late),
      base === null ? null : late(base),
    ).ok

  it('hold the median of the seeds, and a difference to the baseline', () => {
    expect(judge({ max: 5 }, [1, 4, 100])).toBe(true)
    expect(judge({ max: 5 }, [1, 6, 100])).toBe(false)
    expect(judge({ min: 2, max: 5 }, [1])).toBe(false)
    expect(judge({ max: 5 }, [null])).toBe(true)
    expect(judge({ max: 1, relativeTo: 'baseline' }, [10], 9)).toBe(true)
    expect(judge({ max: 0.5, relativeTo: 'baseline' }, [10], 9)).toBe(false)
  })
})

describe('picture headers', () => {
  it('tell the px of every format that the origin sends, and null for what is none', async () => {
    const image = sharp({ create: { width: 321, height: 123, channels: 3, background: '#357' } })
    for (const format of ['png', 'jpeg', 'webp', 'gif', 'avif'] as const)
      expect([format, pictureHeader(await image.clone().toFormat(format).toBuffer())]).toEqual([
        format,
        { width: 321, height: 123 },
      ])
    const jpeg = await image.jpeg().toBuffer()
    for (const broken of [Buffer.alloc(0), Buffer.from('no picture at all'), jpeg.subarray(0, 30)])
      expect(pictureHeader(broken)).toBeNull()
  })
})

describe('lenses', () => {
  const { log } = simulate(
    projectOf({
      items: items(60, 40_000),
      device: freeDevice,
      network: plainLink,
      steps: [
        { do: 'wait', ms: 500 },
        { do: 'flick', dpPerS: 5000 },
        { do: 'wait', ms: 800 },
      ],
    }),
  )
  const profile = profileRun(log)

  it('the ledger as a table sums to what was received, to the byte, and its decoding to all of it', () => {
    const table = ledgerTable(profile)
    expect(table.rows.reduce((sum, row) => sum + row.bytes, 0)).toBe(profile.metrics['bytes.received'])
    expect(table.rows.reduce((sum, row) => sum + row.decodeMs, 0)).toBeCloseTo(profile.metrics['decode.ms']!, 6)
    expect(table.rows.reduce((sum, row) => sum + row.requests, 0)).toBe(profile.metrics['requests.total'])
    for (const { dearest } of table.rows)
      expect(dearest.map(({ bytes }) => bytes)).toEqual(dearest.map(({ bytes }) => bytes).sort((a, b) => b - a))
  })

  it('events are found by kind and by text, and taken out as CSV that reads back', () => {
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
    expect(binds.matching).toBe(profile.metrics['cells.bound'])
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
