import Ajv from 'ajv'
import draft6 from 'ajv/dist/refs/json-schema-draft-06.json' with { type: 'json' }
import { readFile } from 'node:fs/promises'
import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { slotLinesOf } from '../../src/core/handoff/slot-instructions.ts'
import { instructions } from '../../src/core/handoff/instructions.ts'
import { sheetHtml } from '../../src/core/handoff/sheet-html.ts'
import { sheetMarkdown } from '../../src/core/handoff/sheet-markdown.ts'
import { plainAt, sheetOf } from '../../src/core/handoff/sheet.ts'
import { valueAt } from '../../src/core/feed/json-pointer.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import { harOf } from '../../src/core/profile/views/har.ts'
import type { Raw } from '../../src/core/project/parse.ts'
import { simulate } from '../../src/core/simulate/simulate.ts'
import { projectWith } from '../../src/core/sweep/setting.ts'
import { anyProject } from '../support/random-project.ts'
import fc from 'fast-check'

const demo = JSON.parse(await readFile('demo/saltmarsh.tiletug.json', 'utf8')) as Raw

const sheetFor = async (raw: Raw, seeds = 2) =>
  (await sheetOf({ raw, screen: 'wall', script: 'Flick down and back', seeds, items: new Map() }))!

describe('requests as HAR', () => {
  const ajv = new Ajv({ strict: false, validateFormats: false, allErrors: true })
  ajv.addMetaSchema(draft6)
  // The package brings the published schemas, one a file; they name each other by their files.
  const folder = 'node_modules/har-schema/lib'
  for (const file of readdirSync(folder).filter((name) => name.endsWith('.json')))
    ajv.addSchema(JSON.parse(readFileSync(`${folder}/${file}`, 'utf8')) as object)
  const isHar = ajv.getSchema('har.json')!

  it('are valid by the published schema, one entry a transfer, with the bytes that the run received', () => {
    expect(isHar).toBeDefined()
    expect(isHar({ log: { version: '1.2' } })).toBe(false)
    fc.assert(
      fc.property(anyProject, (project) => {
        const { facts, metrics } = profileRun(simulate(project).log)
        const har = JSON.parse(JSON.stringify(harOf(facts, { name: 'test', version: '1' }))) as {
          log: { entries: Record<string, unknown>[] }
        }
        expect([isHar(har), isHar.errors]).toEqual([true, null])
        const { entries } = har.log
        expect(entries.length).toBe(facts.transfers.length)
        const sum = entries.reduce((bytes, { response }) => bytes + (response as { bodySize: number }).bodySize, 0)
        expect(sum).toBe(metrics['bytes.received'])
        for (const { time, timings } of entries) {
          const { blocked, connect, send, wait, receive } = timings as Record<string, number>
          expect(time).toBeCloseTo(blocked! + Math.max(0, connect!) + send! + wait! + receive!, 6)
        }
        // A request is queued once, before its first transfer.
        for (const request of facts.requests) {
          const own = entries.filter((entry) => entry._request === request.id)
          const waits = own.map(({ timings }) => (timings as { blocked: number }).blocked)
          // The date has whole ms; the rest of the instant is in the first timing.
          expect(waits.slice(1).every((wait) => wait < 1)).toBe(true)
          const first = facts.transfers[request.transfers[0]!]
          if (first) expect(waits[0]).toBeCloseTo(first.startT / 1000 - Math.floor(request.queueT / 1000), 6)
        }
        const aborted = entries.filter(({ response }) => (response as { comment?: string }).comment === 'aborted')
        expect(aborted.length).toBe(facts.transfers.filter(({ end }) => end === 'cut').length)
      }),
      { numRuns: 60, seed: 20261127 },
    )
  })
})

describe('the hand-off sheet', () => {
  it('has a line for every setting that differs from a plain loader, each in its place and with its value', async () => {
    const sheet = await sheetFor(demo)
    const outcome = projectWith(demo, [])
    if (!outcome.ok) throw new Error('the demo does not parse')
    const differing = instructions.filter(
      ({ path }) => JSON.stringify(valueAt(outcome.project, path)) !== JSON.stringify(plainAt(path)),
    )
    const lines = sheet.groups.flatMap((group) => group.lines)
    // What a plain loader leaves out altogether is among them.
    expect(lines.map(({ path }) => path)).toEqual(
      expect.arrayContaining(['/loading/diskMb', '/loading/retry/attempts']),
    )
    const ofLoader = lines.filter(({ path }) => path.startsWith('/loading/'))
    expect(ofLoader.map(({ path }) => path).sort()).toEqual(differing.map(({ path }) => path).sort())
    expect(new Set(lines.map(({ id }) => id)).size).toBe(lines.length)
    // What a cell is made with, and what becomes of memory, have places of their own.
    const at = (place: string) => sheet.groups.find((group) => group.place === place)!.lines.map(({ say }) => say)
    expect(at('cell creation')).toEqual([
      'Give it its frame when the cell is made: 1 : 1 of its width.',
      'Show the colour #E6DFCF until its picture comes.',
      'Show a cracked tile when it could not be loaded, and ask again when it is tapped.',
      'Round its corners by 6 dp, by clipping at each draw.',
    ])
    expect(at('bind')[0]).toBe(
      'Ask for the address {+photo}?width={widthPx}&height={heightPx}&as=webp: a URI template (RFC 6570) over the item’s fields, with widthPx and heightPx as the slot’s size in px and density as that of the screen.',
    )
    expect(at('bind')).toContain(
      'Fade it in over 200 ms when it arrives, on the compositor; show it at once when it was in memory.',
    )
    expect(at('memory pressure')).toEqual(['Drop every decoded picture that no cell shows; the disk still has them.'])
    const shelves = slotLinesOf(outcome.project.screens[2]!, 2)
    expect(shelves.map(({ of, instruction, slot }) => `${of}: ${instruction.say(slot)}`)).toContain(
      'Slot “mark” of “case”: Ask for it with low priority: after the others of its cell.',
    )
    expect(lines.find(({ path }) => path === '/loading/cancel/when')).toMatchObject({
      say: 'Cancel the download of a cell when the cell is recycled.',
      proof: { metric: 'bytes.wastedShare', is: 'better' },
    })
    // Its words follow the value: another one has other words.
    const other = await sheetFor({ ...demo, loading: { cancel: { when: 'zone', zoneRows: 9, keepAbove: 0.4 } } }, 1)
    const said = other.groups.flatMap((group) => group.lines).map(({ say }) => say)
    expect(said).toContain('Cancel a download when its row is more than 9 rows from the screen.')
    expect(said).toContain('Finish it instead when 40 % of it or more has arrived, and keep it.')
    expect(JSON.stringify(other.steps)).toContain('9 rows from the screen')
  })

  it('has words for every setting of the loader, by itself or with the one that it belongs to', async () => {
    const labelled = [...(await readFile('docs/settings.md', 'utf8')).matchAll(/^\| `(\/loading\/[^`*]+)`/gm)].map(
      ([, path]) => path!,
    )
    expect(labelled.length).toBeGreaterThan(20)
    const covered = new Set(instructions.map(({ path }) => path))
    // Each of these is a number in the sentence of another.
    const within: Record<string, string> = {
      '/loading/cancel/zoneRows': '/loading/cancel/when',
      '/loading/ahead/by': '/loading/ahead/amount',
      '/loading/ahead/direction': '/loading/ahead/amount',
      '/loading/ahead/onlyWhenIdle': '/loading/ahead/amount',
      '/loading/retry/firstMs': '/loading/retry/attempts',
      '/loading/retry/factor': '/loading/retry/attempts',
      '/loading/retry/jitter': '/loading/retry/attempts',
    }
    expect(labelled.filter((path) => !covered.has(path) && !covered.has(within[path] ?? ''))).toEqual([])
    // Any of them that is decided otherwise gets its line.
    const decided = await sheetFor(
      {
        ...demo,
        loading: {
          timeoutMs: 4321,
          agingMs: 777,
          decodeWorkers: 3,
          standIn: true,
          cancel: { whenLeft: 'let-go', whenPaused: 'let-go' },
        },
      },
      1,
    )
    const paths = decided.groups.flatMap((group) => group.lines.map(({ path }) => path))
    for (const path of ['timeoutMs', 'agingMs', 'decodeWorkers', 'standIn']) expect(paths).toContain(`/loading/${path}`)
  })

  it('names secrets and never has one, escapes what files say, and refers to nothing outside', async () => {
    const raw = {
      ...demo,
      name: 'Kiln <script>alert(1)</script>',
      loading: {
        cleartextHosts: ['kiln.example.test'],
        headers: [{ host: 'kiln.example.test', name: 'Authorization', scheme: 'Bearer', secret: 'kiln token' }],
      },
      budgets: [
        { metric: 'bytes.wastedShare', max: 0.0001 },
        { metric: 'bytes.received', max: 0, relativeTo: 'baseline' },
      ],
    }
    const sheet = await sheetFor(raw, 1)
    const [markdown, html] = [sheetMarkdown(sheet), sheetHtml(sheet)]
    for (const text of [markdown, html]) {
      expect(text).not.toContain('<script')
      expect(text).toContain('Authorization')
      expect(text).toContain('kiln token')
    }
    expect(markdown).toContain('**Broken**: bytes.wastedShare is')
    // What does not fit in a sheet is reported.
    expect(markdown).toContain('The budget of bytes.received over the baseline')
    expect(html.match(/<svg /g)).toHaveLength(2)
    expect(html.replaceAll('http://www.w3.org/2000/svg', '')).not.toMatch(/(src|href)=|url\(|@import|https?:\/\//)
  })
})
