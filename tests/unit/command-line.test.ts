import { execFile } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Operation } from 'fast-json-patch'
import { medianOf } from '../../src/core/compare/intervals.ts'
import type { Metrics } from '../../src/core/profile/figures/metric-definitions.ts'
import { parseProject } from '../../src/core/project/parse.ts'
import { applyPatch } from '../../src/core/project/patch.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { parseProjectText } from '../../src/core/project/parse-text.ts'
import { measureRun, profileRun } from '../../src/core/profile/profile.ts'
import { simulateVisits } from '../../src/core/simulate/visits.ts'

const demo = 'demo/saltmarsh.tiletug.json'
let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'tug-'))
})
afterAll(() => rm(folder, { recursive: true }))

interface Ended {
  code: number
  out: string
  err: string
}

function tug(...args: string[]): Promise<Ended> {
  return new Promise((resolve) => {
    execFile(process.execPath, ['scripts/tug.cjs', ...args], (error, out, err) =>
      resolve({ code: Number(error?.code ?? 0), out, err }),
    )
  })
}

const demoProject = async () => {
  const parsed = parseProjectText(await readFile(demo, 'utf8'))
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed
}

describe('tug run', () => {
  it('prints the figures of the simulation, one object for one visit', async () => {
    const { code, out, err } = await tug('run', demo, '--json', '--log', join(folder, 'run.ndjson'))
    const report = JSON.parse(out) as {
      visit: string
      metrics: Record<string, number | null>
      checks: { id: string; ok: boolean; evidence: string }[]
    }
    const { metrics, checks } = profileRun(simulateVisits((await demoProject()).project, ['first'])[0]!.log)
    expect([code, err, Object.keys(report)]).toEqual([0, '', ['visit', 'metrics', 'checks']])
    expect(report).toEqual({ visit: 'first', metrics, checks })
    // The log, in again: the same figures, and the same bytes when it is written again.
    const again = await tug('import', join(folder, 'run.ndjson'), '--json', '--log', join(folder, 'again.ndjson'))
    expect([again.code, JSON.parse(again.out)]).toEqual([0, { visit: 'first', world: 'simulated', metrics, checks }])
    expect(await readFile(join(folder, 'again.ndjson'), 'utf8')).toBe(
      await readFile(join(folder, 'run.ndjson'), 'utf8'),
    )
    const beside = await tug('import', join(folder, 'run.ndjson'), join(folder, 'again.ndjson'))
    expect([beside.code, beside.err]).toEqual([2, expect.stringMatching(/is the log of a run.*import it alone/)])
    const lines = (await readFile(join(folder, 'run.ndjson'), 'utf8'))
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>)
    expect(lines[0]).toMatchObject({
      format: 'tile-tug/run',
      version: 1,
      world: 'simulated',
      seed: 7,
      visit: 'first',
      project: 'Saltmarsh Kiln archive',
    })
    const received = lines.filter(
      (line) =>
        line.event === 'received' ||
        line.event === 'cancel' ||
        (line.event === 'fail' && (line.transfer as number) >= 0),
    )
    expect(received.reduce((sum, line) => sum + (line.bytes as number), 0)).toBe(metrics['bytes.received'])
  })

  it('reports several visits in their order, each from what the one before left', async () => {
    const { out } = await tug('run', demo, '--visits', 'again,first', '--json')
    const visits = JSON.parse(out) as { visit: string; metrics: Record<string, number> }[]
    expect(visits.map(({ visit }) => visit)).toEqual(['first', 'again'])
    expect(visits[1]!.metrics['tier.memoryShare']).toBeGreaterThan(visits[0]!.metrics['tier.memoryShare']!)
    const alone = JSON.parse((await tug('run', demo, '--visits', 'again', '--json')).out) as { metrics: unknown }
    expect(alone.metrics).toEqual(visits[1]!.metrics)
  })

  it('applies the variants whose condition holds, and says so', async () => {
    const { raw } = await demoProject()
    const file = join(folder, 'metered.tiletug.json')
    const write = (metered: boolean) =>
      writeFile(
        file,
        JSON.stringify({
          ...raw,
          network: { ...(raw.network as object), metered },
          variants: [
            { name: 'spare', when: 'metered', patch: [{ op: 'replace', path: '/loading/ahead/amount', value: 0 }] },
          ],
        }),
      )
    const report = async () => {
      const { out, err } = await tug('run', file, '--json')
      return { err, early: (JSON.parse(out) as { metrics: Record<string, number> }).metrics['requests.total']! }
    }
    await write(false)
    const plain = await report()
    await write(true)
    const spare = await report()
    expect(plain.err).toBe('')
    expect(spare.err).toBe(`${file}: the variant "spare" applies, its condition holds\n`)
    expect(spare.early).toBeLessThan(plain.early)
  })

  it('takes a screen, a script, a seed and a variant', async () => {
    const { out } = await tug('run', demo, '--screen', 'makers', '--script', 'Slow read', '--seed', '9')
    expect(out).toMatch(/frames\.count +\d+/)
    expect(out).toContain('holds  once (first)')
    const full = JSON.parse((await tug('run', demo, '--variant', 'Full-size decode', '--json')).out) as {
      metrics: Record<string, number>
    }
    expect(full.metrics['decode.pixelRatio']).toBeGreaterThan(5)
  })

  it.each([
    [['run', 'none.json'], 'none.json: cannot be read (there is no such file)'],
    [['run', demo, '--seed', 'x'], '--seed: found "x", allowed: a whole number from 0 to 4294967295'],
    [
      ['run', demo, '--screen', 'x'],
      `${demo}: --screen: no screen has the id "x"; there are wall, makers, shelves, kiln-log`,
    ],
    [
      ['run', demo, '--visits', 'second'],
      '--visits: found "second", allowed: first, restarted, again in any selection, separated by commas',
    ],
    [['run', demo, '--variant', 'x'], `${demo}: /variants: no variant is named "x"; allowed: Full-size decode`],
    [['run'], `tug: missing required argument 'file'; see "npm run -s tug -- --help"`],
    [['fly'], `tug: unknown command 'fly'; see "npm run -s tug -- --help"`],
  ])('%j ends with 2 and one line', async (args, line) => {
    expect(await tug(...args)).toEqual({ code: 2, out: '', err: `${line}\n` })
  })
})

describe('hostile projects', () => {
  const small = { format: 'tile-tug/project', version: 1, name: 'x', screens: [{ id: 'list' }] }
  const run = async (text: string) => {
    await writeFile(join(folder, 'hostile.json'), text)
    return tug('run', join(folder, 'hostile.json'), '--json')
  }

  it('end with one clear line, and none with an internal error', async () => {
    const items = Array.from({ length: 1000 }, (_, id) => ({ id, photo: `https://a.example.test/${id}.jpg` }))
    const doubling = [
      { op: 'add', path: '/x', value: [0] },
      ...Array.from({ length: 26 }, () => ({ op: 'copy', from: '/x', path: '/x/-' })),
    ]
    const cases: [string, RegExp][] = [
      [`${'['.repeat(6000)}1`, /nests deeper than 100 levels/],
      [
        JSON.stringify({
          ...small,
          variants: [{ name: 'v', when: 'metered', patch: doubling }],
          network: { metered: true },
        }),
        /\/variants\/0\/patch\/\d+: copy/,
      ],
      [
        JSON.stringify({
          ...small,
          screens: [{ id: 'list', feed: { source: { type: 'inline', items }, repeat: { times: 100_000 } } }],
        }),
        /\/screens\/0\/feed\/repeat\/times: found 100000, allowed: at most 1000:/,
      ],
      [
        JSON.stringify({
          ...small,
          screens: [{ id: 'list', feed: { source: { type: 'origin', feed: 'wall' }, repeat: { times: 1000 } } }],
        }),
        /\/feed\/repeat\/times: found 1000, allowed: at most 416:/,
      ],
    ]
    for (const [text, message] of cases) {
      const { code, out, err } = await run(text)
      expect([code, out], err).toEqual([2, ''])
      expect(err.trim().split('\n')).toHaveLength(1)
      expect(err).toMatch(message)
    }
    // Fields that are called like methods are unknown fields like any.
    const odd = await run(JSON.stringify({ ...small, constructor: { x: 1 }, toString: { y: 1 } }))
    expect(odd.code).toBe(0)
    expect(odd.err).toContain('/constructor: unknown field')
  })

  it('have budgets of metrics that there are, whatever objects are called', async () => {
    await writeFile(join(folder, 'odd.json'), JSON.stringify({ ...small, budgets: [{ metric: 'toString', max: 1 }] }))
    const { code, err } = await tug('check', join(folder, 'odd.json'))
    expect([code, err]).toEqual([2, expect.stringContaining('/budgets/0/metric: found "toString"') as string])
  })
})

describe('tug check', () => {
  it('ends with 0 or 1 as the budgets say, and writes JUnit', async () => {
    const { raw } = await demoProject()
    const file = join(folder, 'budgets.tiletug.json')
    await writeFile(
      file,
      JSON.stringify({
        ...raw,
        budgets: [
          { metric: 'bytes.wastedShare', max: 0.001 },
          { metric: 'pictures.wrong', max: 0 },
        ],
      }),
    )
    expect((await tug('check', demo)).code).toBe(0)
    const broken = await tug('check', file, '--junit', join(folder, 'report.xml'), '--seeds', '2')
    expect([broken.code, broken.err]).toEqual([1, `${file}: 1 of 2 budgets broken\n`])
    expect(broken.out).toMatch(
      /^BROKEN bytes\.wastedShare is 0\.\d+ on the first visit; the budget is ≤ 0\.001\nkept {3}pictures\.wrong/,
    )
    const xml = await readFile(join(folder, 'report.xml'), 'utf8')
    expect(xml).toMatch(/<testsuites tests="2" failures="1"/)
  })

  it('needs a baseline for relative budgets, and a metric that there is', async () => {
    const { raw } = await demoProject()
    const write = async (budgets: object[]) => {
      const file = join(folder, 'relative.tiletug.json')
      await writeFile(file, JSON.stringify({ ...raw, budgets }))
      return file
    }
    const relative = await write([{ metric: 'bytes.received', max: 0, relativeTo: 'baseline' }])
    expect((await tug('check', relative)).err).toMatch(/\/budgets\/0: is relative to a baseline/)
    await writeFile(join(folder, 'base.json'), (await tug('run', demo, '--json')).out)
    expect((await tug('check', relative, '--against', join(folder, 'base.json'))).code).toBe(0)
    expect((await tug('check', await write([{ metric: 'bytes.lost', max: 0 }]))).code).toBe(2)
  })
})

describe('tug feed', () => {
  it('prints the address check of every screen', async () => {
    const { code, out } = await tug('feed', demo)
    const { screens } = JSON.parse(out) as {
      screens: { screen: string; items: number; slots: { counts: Record<string, number> }[] }[]
    }
    expect(code).toBe(0)
    expect(screens.map(({ screen, items }) => [screen, items])).toEqual([
      ['wall', 2400],
      ['makers', 320],
      ['shelves', 600],
      ['kiln-log', 800],
    ])
    expect(screens[0]!.slots[0]!.counts).toMatchObject({ absent: 12, malformed: 6, cleartext: 24 })
  })
})

describe('tug sweep, search and check over devices', () => {
  const vary = ['--vary', '/loading/fetchSlots=2,6', '--vary', 'network=Ferry,Salt flats', '--seeds', '3']

  it('writes the same bytes for any number of jobs and for merged shards, and reports rows with medians and a front', async () => {
    const file = (name: string) => join(folder, name)
    const text = (name: string) => readFile(file(name), 'utf8')
    const { code, out, err } = await tug('sweep', demo, ...vary, '--jobs', '1', '--csv', file('one.csv'), '--json')
    expect([code, err]).toEqual([0, ''])
    const report = JSON.parse(out) as {
      rows: { row: number; settings: object; seeds: number; metrics: Record<string, { median: number }> }[]
      front: number[]
    }
    expect(report.rows.map(({ row, settings, seeds }) => [row, settings, seeds])).toEqual([
      [0, { '/loading/fetchSlots': 2, network: 'Ferry' }, 3],
      [1, { '/loading/fetchSlots': 2, network: 'Salt flats' }, 3],
      [2, { '/loading/fetchSlots': 6, network: 'Ferry' }, 3],
      [3, { '/loading/fetchSlots': 6, network: 'Salt flats' }, 3],
    ])
    expect(report.front.length).toBeGreaterThan(0)
    const [head, ...lines] = (await text('one.csv')).split('\r\n')
    expect(head).toMatch(
      /^row,\/loading\/fetchSlots,network,seeds,frames\.count,frames\.count\.low,frames\.count\.high,/,
    )
    expect(Number(lines[3]!.split(',')[4])).toBe(report.rows[3]!.metrics['frames.count']!.median)
    await Promise.all([
      tug('sweep', demo, ...vary, '--jobs', '2', '--csv', file('two.csv')),
      tug('sweep', demo, ...vary, '--shard', '1/2', '--csv', file('a.csv')),
      tug('sweep', demo, ...vary, '--shard', '2/2', '--csv', file('b.csv')),
    ])
    expect((await tug('sweep', '--merge', file('b.csv'), file('a.csv'), '--csv', file('merged.csv'))).code).toBe(0)
    expect(await text('two.csv')).toBe(await text('one.csv'))
    expect(await text('merged.csv')).toBe(await text('one.csv'))
  })

  it('finds settings that meet the budgets, as a patch that can be applied; without any it ends with 1', async () => {
    const budgeted = join(folder, 'budgeted.json')
    const { raw } = await demoProject()
    const budgets = (max: number) =>
      writeFile(budgeted, JSON.stringify({ ...raw, budgets: [{ metric: 'bytes.wastedShare', max }] }))
    await budgets(0.2)
    const range = ['--vary', '/loading/fetchSlots=1..6', '--seeds', '4', '--least', 'pictures.holeShare', '--json']
    const { code, out } = await tug('search', budgeted, ...range)
    const found = JSON.parse(out) as {
      met: boolean
      patch: Operation[]
      budgets: object[]
      runs: number
      metrics: Metrics
    }
    expect([code, found.met, found.budgets]).toMatchObject([
      0,
      true,
      [{ metric: 'bytes.wastedShare', limit: 0.2, ok: true }],
    ])
    expect(found.runs).toBeLessThan(24)
    const patched = applyPatch(raw, found.patch)
    const parsed = patched.ok ? parseProject(patched.raw) : patched
    if (!parsed.ok) throw new Error(parsed.message)
    const holes = [7, 8, 9, 10].map(
      (seed) => measureRun(simulate(parsed.project, { seed }).log).metrics['pictures.holeShare']!,
    )
    expect(found.metrics['pictures.holeShare']).toBe(medianOf(Float64Array.from(holes)))
    // One over a baseline is searched for as the limit that it comes to.
    await writeFile(join(folder, 'budgeted-base.json'), (await tug('run', budgeted, '--json')).out)
    const relative = { metric: 'bytes.wastedShare', max: 0.01, relativeTo: 'baseline' }
    await writeFile(join(folder, 'over.json'), JSON.stringify({ ...raw, budgets: [relative] }))
    const over = ['search', join(folder, 'over.json'), ...range]
    expect(await tug(...over)).toMatchObject({
      code: 2,
      err: expect.stringContaining('give one with --against') as string,
    })
    const held = JSON.parse((await tug(...over, '--against', join(folder, 'budgeted-base.json'))).out) as typeof found
    const base = parseProject(raw)
    if (!base.ok) throw new Error(base.message)
    const before = measureRun(simulate(base.project, { seed: base.project.seed }).log).metrics['bytes.wastedShare']!
    expect(held.budgets).toMatchObject([{ limit: before + 0.01 }])
    await budgets(0.0001)
    const none = await tug('search', budgeted, ...range)
    expect([none.code, (JSON.parse(none.out) as { met: boolean }).met]).toEqual([1, false])
    expect(none.err).toMatch(
      /^[^\n]*nothing in the range meets the budgets; nearest: bytes\.wastedShare is 0\.\d+ against 0\.0001\n$/,
    )
  })

  it('holds budgets that a variant brings on one device alone', async () => {
    const varied = join(folder, 'varied.json')
    const budget = { metric: 'bytes.received', max: 1, visit: 'again' }
    const patch = [{ op: 'add', path: '/budgets/-', value: budget }]
    const { raw } = await demoProject()
    await writeFile(varied, JSON.stringify({ ...raw, variants: [{ name: 'weak', when: 'weak-device', patch }] }))
    const { code, out } = await tug('check', varied, '--devices', 'Mid 60,Old 60')
    expect([code, out.match(/on the again visit.* on (.*)$/m)?.[1]]).toEqual([1, 'Old 60'])
    expect(out.match(/ on Mid 60$/gm)).toHaveLength(1)
  })

  it('holds budgets on every device and network that is named', async () => {
    const { code, out } = await tug('check', demo, '--devices', 'all', '--networks', 'Ferry,Kiln room')
    expect(code).toBe(0)
    expect(out.split('\n').filter((line) => / on [^,]+, (Ferry|Kiln room)$/.test(line)).length).toBe(8)
  })

  it.each([
    [['sweep', demo], 'found no --vary'],
    [['sweep', demo, '--vary', '/loading/fetchSlots=2,x'], '/loading/fetchSlots: found "x"'],
    [['sweep', demo, '--vary', '/loading/fetchSlots=2', '--shard', '3/2'], '--shard: found "3/2"'],
    [['sweep', demo, '--vary', 'device=None'], 'device: found "None", allowed: Mid 60'],
    [['sweep', '--merge', demo, '--csv', '/dev/null'], 'found no head'],
    [['search', demo, '--vary', '/loading/fetchSlots=5..1'], 'the lower one first'],
    [['search', demo, '--vary', '/loading/fetchSlots=1..2', '--least', 'x'], '--least: found "x"'],
    [['check', demo, '--networks', 'None'], '--networks: found "None"'],
  ])('%j ends with 2 and one line', async (args, wrong) => {
    const { code, out, err } = await tug(...args)
    expect([code, out, err.split('\n').length]).toEqual([2, '', 2])
    expect(err).toContain(wrong)
  })
})

describe('tug import', () => {
  it('takes any mix of files, known by their content, and fits a project that the others read', async () => {
    const [har, events, frames, fit] = ['e.har', 'e.ndjson', 'f.csv', 'fit.json'].map((name) => join(folder, name))
    const { out } = await tug('run', demo, '--json', '--har', har!, '--events', events!)
    const original = JSON.parse(out) as { metrics: Metrics }
    await writeFile(frames!, 'start_ms,end_ms\n0,30\n16.7,40\n')
    const { code, out: printed } = await tug(
      ...['import', har!, events!, frames!, '--project', demo, '--offset', 'f.csv=100', '--json', '--fit', fit!],
    )
    const imported = JSON.parse(printed) as {
      world: string
      metrics: Metrics
      notObserved: Record<string, string>
      sources: { name: string; kind: string; fromMs: number }[]
    }
    expect([code, imported.world]).toEqual([0, 'recorded'])
    expect(imported.sources.map(({ kind }) => kind)).toEqual(['har', 'events', 'frames'])
    expect(imported.sources[2]!.fromMs).toBe(130)
    for (const id of ['bytes.received', 'bytes.cutOff', 'requests.total', 'requests.failed'] as const)
      expect(imported.metrics[id]).toBe(original.metrics[id])
    expect(imported.metrics['frames.count']).toBe(original.metrics['frames.count']! + 2)
    expect(imported.metrics['pictures.flickers']).toBeNull()
    expect(imported.notObserved['pictures.flickers']).toContain('only a run of the bench')
    const run = await tug('run', fit!, '--json')
    expect((JSON.parse(run.out) as { metrics: Metrics }).metrics['requests.total']).toBeGreaterThan(10)
  })

  it.each([
    [['import'], 'name at least one file'],
    [['import', 'none.har'], 'none.har: cannot be read (there is no such file)'],
    [['import', demo], 'it is of the format "tile-tug/project"'],
    [['import', '--har', 'README.md'], 'README.md: this is not a JSON object'],
    [['import', '--lines', 'README.md'], 'README.md: log lines need a pattern'],
    [['import', '--lines', 'README.md', '--pattern', 'fly=.'], '--pattern "fly=.": found "fly"'],
    [['import', '--har', 'x.har', '--offset', 'y=1'], '--offset y=1'],
    [['demo-app', 'http://127.0.0.1:1/'], 'allowed: the base address of a recording'],
    [['demo-app', 'http://127.0.0.1:1/recordings/x', '--cancels', 'often'], '--cancels: found "often"'],
    [['vectors', 'make', demo], '--out V.json is missing'],
    [['vectors', 'run', demo, '--', 'true'], '/format'],
    [['vectors', 'run', 'none.json', '--', 'true'], 'none.json: cannot be read'],
  ])('%j ends with 2 and one line', async (args, wrong) => {
    const { code, out, err } = await tug(...args)
    expect([code, out, err.trim().split('\n').length]).toEqual([2, '', 1])
    expect(err).toContain(wrong)
  })

  it('makes vectors, and ends with 1 and a report when a loader fails them', async () => {
    const [file, report] = [join(folder, 'v.json'), join(folder, 'v.xml')]
    expect((await tug('vectors', 'make', demo, '--cases', '12', '--out', file)).code).toBe(0)
    const engine = [process.execPath, 'scripts/tug.cjs', 'vectors', 'engine']
    const passed = await tug('vectors', 'run', file, '--', ...engine)
    expect([passed.code, passed.out]).toEqual([0, expect.stringMatching(/^slots: \d+ of \d+ passed/)])
    const silent = await tug('vectors', 'run', file, '--clause', 'share,memory', '--junit', report, '--', 'false')
    expect([silent.code, silent.out]).toEqual([1, expect.stringContaining('the loader has ended (code 1)')])
    expect(await readFile(report, 'utf8')).toContain('<failure')
  })
})

describe('tug handoff', () => {
  it('makes the sheet of the screen that is named', async () => {
    const { code, out } = await tug('handoff', demo, '--screen', 'shelves', '--seeds', '1')
    expect([code, out.includes('Made on “Shelves” with the gesture “Flick down and back”')]).toEqual([0, true])
    expect(out).toContain('**Slot “mark” of “case”, priority: low**')
    const wrong = await tug('handoff', demo, '--screen', 'attic', '--seeds', '1')
    expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('no screen has the id "attic"')])
  })
})
