import { describe, expect, it } from 'vitest'
import { CsvSource } from '../../src/core/evidence/csv-source.ts'
import { EvidenceError, type Source } from '../../src/core/evidence/evidence.ts'
import { importRun, plainOptions, readerFor } from '../../src/core/evidence/import-run.ts'
import { isoMs, readInstant, readNumber, readSpan } from '../../src/core/evidence/instants.ts'
import { JsonSlices } from '../../src/core/evidence/json-slices.ts'
import { LinesSource, readPattern, type LinePattern } from '../../src/core/evidence/lines-source.ts'
import { recognise } from '../../src/core/evidence/recognise.ts'
import { patternFrom, piecesOf } from '../../src/core/evidence/pattern-from-line.ts'
import { draw } from '../../src/core/numbers/draw.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { eventsText, filledProject, harText, profileRun, readAll, readEvents, readHar } from '../support/evidence.ts'

interface EntryParts {
  url?: string
  at?: number
  status?: number
  mime?: string
  bodySize?: number
  content?: object
  response?: object
  entry?: object
}

const at = (ms: number) => new Date(Date.UTC(2026, 0, 2, 10) + ms).toISOString()
function entry({
  url = 'https://a.example.test/p/1.webp',
  at: ms = 0,
  status = 200,
  mime = 'image/webp',
  ...more
}: EntryParts) {
  return {
    startedDateTime: at(ms),
    time: 100,
    request: { method: 'GET', url, headers: [] },
    response: {
      status,
      redirectURL: '',
      bodySize: more.bodySize ?? 1000,
      content: more.content ?? { size: 1000, mimeType: mime },
      ...more.response,
    },
    timings: { blocked: 10, wait: 40, receive: 50 },
    ...more.entry,
  }
}
const har = (entries: object[], more: object = {}) => JSON.stringify({ log: { version: '1.2', entries, ...more } })
const figures = (...sources: Source[]) =>
  profileRun(importRun(sources, new Map(), { project: 'x', screen: 'x' }).log).metrics

describe('HAR', () => {
  it('counts pictures by type, by the feed, and by their neighbours; reports what it left out', () => {
    const source = readHar(
      har([
        entry({}),
        entry({ url: 'https://a.example.test/p/2', mime: '', at: 1 }),
        entry({ url: 'https://a.example.test/q/2', mime: '', at: 2 }),
        entry({ url: 'https://a.example.test/page', mime: 'text/html', at: 3 }),
        entry({ url: 'https://a.example.test/odd', mime: 'text/plain', at: 4 }),
      ]),
      new Set(['https://a.example.test/odd']),
    )
    expect(source.exchanges.map(({ address }) => address.slice(23))).toEqual(['p/1.webp', 'p/2', 'odd'])
    expect(source.notes).toEqual(['2 entries are not pictures: 2000 bytes, left out'])
  })

  it.each<[string, EntryParts, object]>([
    ['whole', {}, { 'bytes.received': 1000, 'bytes.unknown': 1000, 'requests.cancelledFree': 0 }],
    [
      'cut off by its comment, whatever the status',
      { response: { comment: 'request aborted' } },
      { 'bytes.cutOff': 1000, 'requests.cutOff': 1 },
    ],
    [
      'cut off by a field of its own',
      { status: 0, bodySize: 300, response: { _error: 'net::ERR_ABORTED' } },
      { 'bytes.cutOff': 300 },
    ],
    [
      'cancelled before a byte',
      { status: 0, bodySize: 0, response: { _error: 'cancelled' } },
      { 'requests.cancelledFree': 1, 'requests.cutOff': 0 },
    ],
    ['failed without an answer', { status: 0, bodySize: 0 }, { 'requests.failed': 1, 'bytes.received': 0 }],
    ['answered with an error', { status: 404, bodySize: 120 }, { 'requests.failed': 1, 'bytes.failed': 120 }],
    ['not modified', { status: 304, bodySize: 500 }, { 'bytes.received': 0, 'requests.total': 1 }],
    [
      'size by content and compression',
      { bodySize: -1, content: { size: 900, compression: 100, mimeType: 'image/png' } },
      { 'bytes.received': 800 },
    ],
    [
      'size by a field of its own',
      { bodySize: -1, content: { size: -1, mimeType: 'image/png' }, response: { _transferSize: 777 } },
      { 'bytes.received': 777 },
    ],
  ])('%s', (_name, parts, expected) => {
    expect(figures(readHar(har([entry(parts)])))).toMatchObject(expected)
  })

  it('counts an unknown size as 0 and says how many there are', () => {
    const source = readHar(
      har([entry({ bodySize: -1, content: { size: -1, mimeType: 'image/png' } }), entry({ at: 5 })]),
    )
    expect(source.unknownSizes).toBe(1)
    expect(figures(source)['bytes.received']).toBe(1000)
  })

  it('knows what came again, and only the lower bound of waste', () => {
    const result = figures(
      readHar(har([entry({}), entry({ at: 500 }), entry({ at: 900, status: 500, bodySize: 100 })])),
    )
    expect(result).toMatchObject({
      'bytes.again': 1000,
      'bytes.failed': 100,
      'bytes.unknown': 1000,
      'bytes.wastedShare': null,
    })
    expect(result['bytes.wastedAtLeastShare']).toBeCloseTo(1100 / 2100, 9)
    expect(result['pictures.waitP50']).toBeNull()
    expect(result['bytes.neverSeen']).toBeNull()
  })

  it('follows redirects to one exchange of the address that was asked for', () => {
    const source = readHar(
      har([
        entry({
          url: 'https://a.example.test/go/1',
          status: 302,
          mime: '',
          bodySize: 10,
          response: { redirectURL: '/p/9.webp' },
        }),
        entry({ url: 'https://a.example.test/p/9.webp', at: 100 }),
      ]),
    )
    expect(source.exchanges).toMatchObject([{ address: 'https://a.example.test/go/1', bytes: 1010, end: 'complete' }])
  })

  it('leaves the same entry out the second time, sorts, and reads around a byte order mark and a torn end', () => {
    const text = har([entry({ at: 200 }), entry({ url: 'https://a.example.test/p/2.webp' }), entry({ at: 200 })])
    const source = readHar(`\ufeff${text}`)
    expect(source.exchanges.map(({ address }) => address.slice(23))).toEqual(['p/2.webp', 'p/1.webp'])
    expect(source.skipped).toBe(1)
    const torn = readHar(text.slice(0, -40))
    expect(torn.exchanges.length).toBe(2)
    expect(torn.notes).toContain('the file ends in the middle; what comes before that was read')
  })

  it('says why there is nothing to read', () => {
    expect(() => readHar('[]')).toThrow('does not begin with {')
    expect(() => readHar('{"log":{"entries":[]}}')).toThrow('no entries at /log/entries')
    expect(() => readHar('{"log":{"entries":[{"a":1}]}}')).toThrow('none of its 1 entries can be read')
  })
})

describe('slices of JSON', () => {
  it('cuts elements at any piece length, with quotes, escapes and brackets in strings', () => {
    const elements = [{ a: 'x"]}\\' }, { b: [{ c: '\\"{' }] }, { d: { entries: [{}] } }]
    const text = JSON.stringify({ log: { before: { entries: [{ not: 1 }] }, entries: elements, after: 1 } })
    for (const length of [1, 2, 3, 7, 1000]) {
      const found: unknown[] = []
      const slices = new JsonSlices(['log.entries'], (_, element) => found.push(JSON.parse(element)))
      for (let from = 0; from < text.length; from += length) slices.push(text.slice(from, from + length))
      expect(slices.finish()).toBe(true)
      expect(found).toEqual(elements)
    }
  })
})

const csv = (text: string, more: object = {}) =>
  readAll(new CsvSource('x.csv', { kind: null, columns: null, between: null, ...more }), text)

describe('tables', () => {
  it('reads frames by the words and units of their header', () => {
    const source = csv('start_ns,end_ns,work_us\r\n0,20000000,9000\r\n16666667,30000000,4000\r\n')
    expect(source.kind).toBe('frames')
    expect(source.events).toMatchObject([
      { event: 'frame', presentedMs: 20, beginMs: 0, workMs: 9 },
      { event: 'frame', presentedMs: 30, workMs: 4 },
    ])
    // Each is due a refresh after it began: 20 ms is late at 60 Hz, 13.3 ms is not.
    expect(figures(source)).toMatchObject({
      'frames.count': 2,
      'frames.late': 1,
      'frames.workMax': 9,
      'frames.onTimeShare': null,
    })
  })

  it('reads columns by hand, between markers, with junk counted', () => {
    const text =
      'noise\n---DATA---\n0,100000000,1,1,116000000\n0,116666667,1,1,150000000\nbad,line\n---DATA---\n0,1,1,1,1\n'
    const source = csv(text, { columns: 'start=2,end=5,unit=ns', between: /^---DATA---$/ })
    expect(source.events.length).toBe(2)
    expect(source.skipped).toBe(1)
    expect(figures(source)).toMatchObject({ 'frames.count': 2, 'frames.late': 1 })
  })

  it('reads memory with decimal commas, and busy threads', () => {
    const memory = csv('Zeit;time (s);used [MB]\nx;0,5;120,5\nx;1,0;130,25\nx;1,5;-4\n')
    expect(figures(memory)).toMatchObject({ 'memory.startMb': 120.5, 'memory.peakMb': 130.25, 'memory.endMb': 130.25 })
    expect(memory.skipped).toBe(1)
    const busy = csv('thread,start_ms,duration_ms\nmain,0,40\nmain,60,40\ndecode-1,0,50\ndecode-2,0,100\n')
    expect(figures(busy)).toMatchObject({
      'threads.mainBusyShare': 0.8,
      'threads.decodeBusyShare': 0.75,
      'frames.count': null,
    })
  })

  it('says what is missing', () => {
    expect(() => csv('a,b\n1,2\n')).toThrow('name them by hand')
    expect(() => csv('1,2\n', { columns: 'begin=x' })).toThrow('there is no column x')
    expect(() => csv('1,2\n', { columns: 'foo=1' })).toThrow('columns are start,')
    expect(() => csv('start,end\n')).toThrow('no row with numbers')
  })
})

const pattern = (text: string) => readPattern(text) as LinePattern

describe('log lines', () => {
  const patterns = [
    pattern(String.raw`bind=^(?<t>\d\d-\d\d [\d:.]+) .*bind c(?<cell>\w+) row (?<row>\d+) (?<address>\S+)`),
    pattern(String.raw`show=^(?<t>\d\d-\d\d [\d:.]+) .*show c(?<cell>\w+) (?<address>\S+) from (?<tier>\w+)`),
    pattern(String.raw`recycle=^(?<t>\d\d-\d\d [\d:.]+) .*free c(?<cell>\w+)`),
  ]
  const lines = [
    '03-14 09:26:53.500 D/Feed: bind cA row 0 https://a.example.test/1',
    '03-14 09:26:53.600 D/Feed: something else',
    '03-14 09:26:53.750 D/Feed: show cA https://a.example.test/1 from disk',
    '03-14 09:26:54.500 D/Feed: free cA',
  ]

  it('become events by their patterns; a cell is on screen from bind to recycle', () => {
    const source = readAll(new LinesSource('app.log', patterns), lines.join('\r\n'))
    expect(source.skipped).toBe(1)
    expect(source.firstSkipped).toEqual([`line 2: ${lines[1]}`])
    expect(figures(source)).toMatchObject({
      'pictures.exposures': 1,
      'pictures.waitP50': 250,
      'pictures.holeShare': 0.25,
      'tier.diskShare': 1,
      'cells.bound': 1,
      'cells.created': null,
      'bytes.received': null,
    })
  })

  it.each([
    ['jump=(?<t>.)', 'found "jump"'],
    ['bind=(?<cell>.)', 'no group (?<t>…)'],
    ['bind=(?<t>.)(?<colour>.)', 'a group "colour"'],
    ['bind=(?<t>(', 'not a regular expression'],
  ])('%s is told', (text, message) => expect(readPattern(text)).toContain(message))
})

describe('a sample line whose values are named', () => {
  it('becomes a pattern that reads its like, and no other line', () => {
    const line = '03-14 09:26:53.500 D/Feed: bind c12 row 7 https://a.example.test/7.webp (fast)'
    const pieces = piecesOf(line)
    expect(pieces.map(({ text }) => text).join('')).toBe(line)
    const at = (text: string) => pieces.findIndex((piece) => piece.isValue && piece.text === text)
    const roles = new Map([
      [at('03-14 09:26:53.500'), 't'],
      [at('c12'), 'cell'],
      [at('7'), 'row'],
      [at('https://a.example.test/7.webp'), 'address'],
    ] as const)
    const read = pattern(patternFrom('bind', pieces, roles))
    const like = '12-01 00:00:01.000 D/Feed: bind c3 row 40 https://a.example.test/x (slow)'
    expect({ ...read.match.exec(like)!.groups }).toEqual({
      t: '12-01 00:00:01.000',
      cell: 'c3',
      row: '40',
      address: 'https://a.example.test/x',
    })
    expect(read.match.test(like.replace('bind', 'free'))).toBe(false)
  })
})

describe('app events', () => {
  const head = {
    format: 'tile-tug/app-events',
    version: 1,
    app: 'Kiln app',
    refreshHz: 60,
    heightDp: 800,
    clockMs: 1000,
  }
  const source = (events: object[]) => readEvents([head, ...events].map((each) => JSON.stringify(each)).join('\n'))

  it('make a run by themselves: waits, bytes, waste', () => {
    const address = 'https://a.example.test/1'
    const other = 'https://a.example.test/2'
    const events = source([
      { t: 1000, event: 'bind', cell: 1, row: 0, address },
      { t: 1000, event: 'want', address },
      { t: 1010, event: 'start', address },
      { t: 1200, event: 'received', address, bytes: 5000 },
      { t: 1250, event: 'show', cell: 1, address, tier: 'network' },
      { t: 1250, event: 'want', address: other },
      { t: 1260, event: 'start', address: other },
      { t: 1300, event: 'cancel', address: other, bytes: 700 },
      { t: 1400, event: 'tap', x: 1 },
      { t: 2000, event: 'recycle', cell: 1 },
    ])
    expect(events.notes).toContain('1 events "tap" are not known here: counted, not used')
    expect(figures(events)).toMatchObject({
      'pictures.waitP50': 250,
      'bytes.received': 5700,
      'bytes.shown': 5000,
      'bytes.cutOff': 700,
      'bytes.unknown': 0,
      'bytes.wastedShare': 700 / 5700,
      'requests.total': 2,
      'frames.count': null,
      'memory.peakMb': null,
    })
  })

  it('are one request where a row comes back while the app still reads what the other side has written', () => {
    const address = 'https://a.example.test/1'
    const response = { event: 'response', address, status: 200, bytes: 5000, aborted: false }
    const bind = { event: 'bind', cell: 1, row: 0, address }
    const first = [
      { t: 1000, ...bind },
      { t: 1000, event: 'want', address },
      { t: 1010, event: 'start', address },
      { t: 1020, ...response, firstByteMs: 1100, endMs: 1200 },
      { t: 1150, event: 'recycle', cell: 1 },
      { t: 1210, ...bind },
      { t: 1210, event: 'want', address },
      { t: 1250, event: 'received', address, bytes: 5000 },
      { t: 1260, event: 'show', cell: 1, address, tier: 'network' },
    ]
    expect(figures(source(first))).toMatchObject({ 'requests.total': 1, 'bytes.received': 5000, 'bytes.shown': 5000 })
    // An app that reports no starts, and one that loads it once more later.
    expect(figures(source(first.filter(({ event }) => event !== 'start')))).toMatchObject({ 'requests.total': 1 })
    const second = [
      { t: 1500, event: 'recycle', cell: 1 },
      { t: 1600, ...bind },
      { t: 1600, event: 'want', address },
      { t: 1605, event: 'start', address },
      { t: 1610, ...response, firstByteMs: 1650, endMs: 1700 },
      { t: 1710, event: 'received', address, bytes: 5000 },
    ]
    expect(figures(source([...first, ...second]))).toMatchObject({ 'requests.total': 2, 'bytes.received': 10_000 })
  })

  it('leave out what a clock that has jumped reports, and say how much', () => {
    const marks = [-9e9, 1000, 2000, 3000, 4000, 9e12].map((t) => ({ t, event: 'memory', mb: 90 }))
    const run = importRun([source(marks)], new Map(), { project: 'x', screen: 'x' })
    expect(run.sources[0]!.notes.at(-1)).toMatch(/^2 of these lie before the run or more than 71 minutes/)
    expect(profileRun(run.log).facts.memory.map(({ t }) => t / 1000)).toEqual([0, 1000, 2000, 3000])
  })

  it('may give each bind a cell of a new name', () => {
    const steps = Array.from({ length: 20_000 }, (_, i) => [
      { t: 1000 + i, event: 'bind', cell: `c${i}`, row: i, address: `https://a.example.test/${i}`, heightDp: 100 },
      { t: 1000 + i, event: 'frame', presentedMs: 1000 + i },
      { t: 1000 + i, event: 'scroll', topDp: 100 * i },
      { t: 1000 + i, event: 'recycle', cell: `c${i}` },
    ]).flat()
    expect(figures(source(steps))).toMatchObject({ 'cells.bound': 20_000, 'pictures.exposures': 20_000 })
  })

  it('count ends of which no begin was reported, and none that comes after its picture', () => {
    const result = figures(
      source([
        { t: 1000, event: 'received', address: 'https://a.example.test/1', bytes: 10 },
        { t: 1005, event: 'fail', address: 'https://a.example.test/1', reason: 'undecodable' },
        { t: 1010, event: 'fail', address: 'https://a.example.test/2', reason: 'offline' },
        { t: 1020, event: 'cancel', address: 'https://a.example.test/3', bytes: 30 },
        { t: 1030, event: 'cancel', address: 'https://a.example.test/4' },
      ]),
    )
    expect(result).toMatchObject({
      'requests.total': 4,
      'requests.failed': 1,
      'requests.cutOff': 1,
      'requests.cancelledFree': 1,
      'bytes.received': 40,
    })
  })

  it('keep to one clock with sources of another, shifted by hand', () => {
    const events = source([
      { t: 1000, event: 'mark', text: 'go' },
      { t: 1500, event: 'memory', mb: 90 },
    ])
    const run = importRun(
      [events, readHar(har([entry({ at: 300 })], { pages: [{ startedDateTime: at(100) }] }))],
      new Map([['har', 50]]),
      {
        project: 'x',
        screen: 'x',
      },
    )
    expect(run.sources).toMatchObject([
      { name: 'run.ndjson', kind: 'events', events: 2, fromMs: 0, toMs: 500 },
      { name: 'run.har', kind: 'har', events: 1, fromMs: 250, toMs: 350 },
    ])
    expect(run.log.head.project).toBe('Kiln app')
  })
})

describe('what a text says', () => {
  it('is read as instants, spans and numbers of any locale', () => {
    expect(isoMs('2026-01-02T10:00:00.250+01:00')).toBe(Date.UTC(2026, 0, 2, 9, 0, 0, 250))
    expect(isoMs('2024-02-29 23:59:59,5Z')).toBe(Date.UTC(2024, 1, 29, 23, 59, 59, 500))
    expect(isoMs('2026-13-02T10:00:00Z')).toBeNull()
    expect(readInstant('12.5s')).toEqual({ ms: 12_500, wallClock: false })
    expect(readSpan('16667 us', 'ms')).toBeCloseTo(16.667, 9)
    expect([
      readNumber('1.234,5'),
      readNumber('1,234.5'),
      readNumber('1,5'),
      readNumber('1 000'),
      readNumber('x'),
    ]).toEqual([1234.5, 1234.5, 1.5, 1000, null])
  })

  it('knows what a file is by its content', () => {
    const kinds = [
      '{"log":{"version":"1.2"',
      '{"format":"tile-tug/app-events","version":1}',
      'frame_start,frame_end\n',
      'time,memory_mb\n',
      'thread,start,end\n',
      '03-14 09:26 hello',
    ]
    expect(kinds.map((text) => recognise(text))).toEqual(
      ['har', 'events', 'frames', 'memory', 'busy', 'lines'].map((kind) => ({ kind })),
    )
    expect(recognise('{"format":"tile-tug/project"}')).toHaveProperty('reason')
    expect(recognise('')).toEqual({ reason: 'it is empty' })
  })
})

describe('1,000 damaged files of each kind', () => {
  const { project } = filledProject({})
  const original = profileRun(simulate(project, { seed: 3 }).log)
  const good = {
    har: harText(original).slice(0, 7000),
    events: eventsText(original.facts.log).slice(0, 5000),
    frames: `start_ms,end_ms,work_ms\n${Array.from({ length: 60 }, (_, i) => `${i * 16.7},${i * 16.7 + 12},8`).join('\n')}`,
    memory: `time_ms,memory_mb\n${Array.from({ length: 60 }, (_, i) => `${i * 100},${80 + i}`).join('\n')}`,
    busy: `thread,start_ms,end_ms\n${Array.from({ length: 60 }, (_, i) => `main,${i * 20},${i * 20 + 9}`).join('\n')}`,
    lines: Array.from({ length: 60 }, (_, i) => `${i * 20}ms bind c${i % 4} row ${i} https://a.example.test/${i}`).join(
      '\n',
    ),
  } as const
  const options = {
    ...plainOptions,
    patterns: [pattern(String.raw`bind=^(?<t>\S+) bind c(?<cell>\d) row (?<row>\d+) (?<address>\S+)`)],
  }
  const junk = ['"', '{', '}', '[', ',', '\n', '-1', '1e99', '\0', 'null', '\ufeff', '\\', '99999999999']

  it.each(Object.keys(good) as (keyof typeof good)[])('%s: a run, or a message that says what is wrong', (kind) => {
    let runs = 0
    for (let n = 0; n < 1000; n++) {
      const random = (i: number) => draw(n, 'resample', i)
      let text: string = good[kind]
      for (let cut = 0; cut <= n % 4; cut++) {
        const from = Math.floor(random(3 * cut) * text.length)
        const length = Math.floor(random(3 * cut + 1) * 60)
        text = text.slice(0, from) + junk[Math.floor(random(3 * cut + 2) * junk.length)]! + text.slice(from + length)
      }
      if (n % 5 === 0) text = text.slice(0, Math.floor(random(99) * text.length))
      try {
        const result = figures(readAll(readerFor('x', kind, options), text, 4096))
        expect(Object.values(result).filter((value) => value !== null && !Number.isFinite(value))).toEqual([])
        runs++
      } catch (error) {
        expect(error).toBeInstanceOf(EvidenceError)
        expect((error as Error).message.length).toBeGreaterThan(20)
      }
    }
    expect(runs).toBeGreaterThan(100)
  })
})
