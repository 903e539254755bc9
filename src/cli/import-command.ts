import { createReadStream } from 'node:fs'
import { open, stat } from 'node:fs/promises'
import { basename } from 'node:path'
import { feedAddresses } from '../core/evidence/feed-addresses.ts'
import { fitWorld, projectOfRun, type FitBase } from '../core/evidence/fitted-project.ts'
import { EvidenceError, type Source, type SourceKind } from '../core/evidence/evidence.ts'
import { importRun, plainOptions, readerFor, type ReadOptions, type SourceReport } from '../core/evidence/import-run.ts'
import { readPattern } from '../core/evidence/lines-source.ts'
import { profileOf, RunLogReader } from '../core/evidence/run-log-reader.ts'
import { headLength, recognise } from '../core/evidence/recognise.ts'
import { knownItems } from '../core/feed/known-items.ts'
import { parseProject } from '../core/project/parse.ts'
import { metricIds } from '../core/profile/figures/metric-definitions.ts'
import { missingFor } from '../core/profile/figures/needs.ts'
import { profileRun } from '../core/profile/profile.ts'
import { badInput } from './fault.ts'
import { loadProject, outsideItems, pickScreen } from './load-project.ts'
import { metricTable } from './metric-table.ts'
import { writeLogs } from './write-logs.ts'
import { writeText } from './write-text.ts'

export interface ImportOptions {
  har: string[]
  frames: string[]
  memory: string[]
  busy: string[]
  lines: string[]
  events: string[]
  pattern: string[]
  offset: string[]
  framesColumns?: string
  framesBetween?: string
  project?: string
  screen?: string
  json?: boolean
  log?: string
  fit?: string
}

const mostBytes = 2_000_000_000

/** `tug import`: what a real app's run left behind, as a run with the same figures. */
export async function importCommand(files: readonly string[], options: ImportOptions): Promise<void> {
  if (files.length === 1 && (await kindOf(files[0]!)) === 'run') return importLogs(files[0]!, options)
  const base = options.project === undefined ? null : await baseOf(options.project, options.screen)
  const read: ReadOptions = {
    ...plainOptions,
    feed: base?.feed.all ?? plainOptions.feed,
    patterns: options.pattern.map((text) => {
      const pattern = readPattern(text)
      if (typeof pattern === 'string') throw badInput(`--pattern ${pattern}`)
      return pattern
    }),
    framesColumns: options.framesColumns ?? null,
    framesBetween: options.framesBetween === undefined ? null : between(options.framesBetween),
  }
  const wanted: { file: string; kind: SourceKind | null }[] = [
    ...files.map((file) => ({ file, kind: null })),
    ...(['har', 'frames', 'memory', 'busy', 'lines', 'events'] as const).flatMap((kind) =>
      options[kind].map((file) => ({ file, kind })),
    ),
  ]
  if (wanted.length === 0)
    throw badInput('import: name at least one file, such as --har run.har or --events run.ndjson')
  const offsets = readOffsets(options.offset, wanted)
  const sources: Source[] = []
  for (const { file, kind } of wanted) sources.push(await readSource(file, kind, read))
  const recorded = within('import', () =>
    importRun(sources, offsets, {
      project: base?.project.name ?? 'Recorded app',
      screen: base?.screen.id ?? 'recorded',
    }),
  )
  const { metrics, checks, facts } = profileRun(recorded.log)
  if (options.log !== undefined) await writeLogs(options.log, [recorded.log])
  if (options.fit !== undefined) await writeFit(options.fit, facts, base)
  const report = {
    visit: recorded.log.head.visit,
    world: recorded.log.head.world,
    metrics,
    checks: checks.map(({ id, ok, evidence }) => ({ id, ok, evidence })),
    sources: recorded.sources,
    notObserved: Object.fromEntries(
      metricIds.flatMap((id) => {
        const missing = missingFor(id, recorded.log.head)
        return missing === null ? [] : [[id, missing]]
      }),
    ),
  }
  process.stdout.write(
    options.json
      ? `${JSON.stringify(report, null, 2)}\n`
      : metricTable([report]) + recorded.sources.map(sourceLine).join(''),
  )
}

/** A run log of our own, read again: the figures that it had. */
async function importLogs(file: string, options: ImportOptions): Promise<void> {
  const reader = new RunLogReader()
  await readText(file, (text) => within(file, () => reader.push(text)))
  const logs = within(file, () => reader.finish())
  if (options.log !== undefined) await writeLogs(options.log, logs)
  const results = logs.map((log) => {
    const { metrics, checks } = within(file, () => profileOf(log))
    return {
      visit: log.head.visit,
      world: log.head.world,
      metrics,
      checks: checks.map(({ id, ok, evidence }) => ({ id, ok, evidence })),
    }
  })
  process.stdout.write(
    options.json ? `${JSON.stringify(results.length === 1 ? results[0] : results, null, 2)}\n` : metricTable(results),
  )
}

async function baseOf(file: string, screenId: string | undefined): Promise<FitBase> {
  const { raw, project } = await loadProject(file, undefined)
  const screen = pickScreen(file, project, screenId)
  const items = (await outsideItems(file, screen)) ?? knownItems(screen.feed) ?? []
  return { raw, project, screen, feed: feedAddresses(project, screen, items) }
}

async function writeFit(
  file: string,
  facts: ReturnType<typeof profileRun>['facts'],
  base: FitBase | null,
): Promise<void> {
  const world = fitWorld(facts, base ?? ownBase(facts))
  for (const { path, value, low, high, samples, confidence } of world.fitted)
    process.stderr.write(
      `${path} = ${value} (${samples} samples${low === null ? '' : `, the middle half from ${rounded(low)} to ${rounded(high!)}`}; ${confidence})\n`,
    )
  for (const { path, why } of world.kept) process.stderr.write(`${path} stays as it was: ${why}\n`)
  if (world.gesture)
    process.stderr.write(
      `/script = recorded, from ${world.gesture.from}, within ${rounded(world.gesture.uncertaintyDp)} dp\n`,
    )
  await writeText('--fit', file, `${JSON.stringify(world.raw, null, 2)}\n`)
}

function ownBase(facts: ReturnType<typeof profileRun>['facts']): FitBase {
  const parsed = parseProject(projectOfRun(facts))
  if (!parsed.ok) throw badInput(`--fit: no project can be made of this run: ${parsed.message}`)
  const screen = parsed.project.screens[0]!
  return {
    raw: parsed.raw,
    project: parsed.project,
    screen,
    feed: feedAddresses(parsed.project, screen, knownItems(screen.feed) ?? []),
  }
}

const rounded = (value: number) => String(Math.round(value * 100) / 100)

function between(text: string): RegExp {
  try {
    return new RegExp(text, 'u')
  } catch (error) {
    throw badInput(`--frames-between ${text}: is not a regular expression (${(error as Error).message})`)
  }
}

function readOffsets(
  texts: readonly string[],
  wanted: readonly { file: string; kind: SourceKind | null }[],
): Map<string, number> {
  const offsets = new Map<string, number>()
  const known = new Set<string>([
    ...wanted.flatMap(({ file }) => [file, basename(file)]),
    'har',
    'frames',
    'memory',
    'busy',
    'lines',
    'events',
  ])
  for (const text of texts) {
    const mark = text.lastIndexOf('=')
    const name = text.slice(0, Math.max(0, mark))
    const ms = Number(text.slice(mark + 1))
    if (mark < 1 || text.slice(mark + 1).trim() === '' || !Number.isFinite(ms) || !known.has(name))
      throw badInput(`--offset ${text}: found "${text}", allowed: SOURCE=MS, where SOURCE is ${[...known].join(', ')}`)
    offsets.set(basename(name), ms)
  }
  return offsets
}

async function readSource(file: string, kind: SourceKind | null, options: ReadOptions): Promise<Source> {
  const known = kind ?? (await kindOf(file))
  if (known === 'run') throw badInput(`${file}: is the log of a run, which is not evidence of another: import it alone`)
  const reader = within(file, () => readerFor(basename(file), known, options))
  await readText(file, (text) => within(file, () => reader.push(text)))
  return within(file, () => reader.finish())
}

async function readText(file: string, take: (text: string) => void): Promise<void> {
  await readable(file)
  const decoder = new TextDecoder('utf-8', { fatal: true })
  for await (const chunk of createReadStream(file, { highWaterMark: 1 << 20 }))
    take(textOf(file, () => decoder.decode(chunk as Buffer, { stream: true })))
  textOf(file, () => decoder.decode())
}

async function readable(file: string): Promise<void> {
  try {
    const found = await stat(file)
    if (found.isDirectory()) throw badInput(`${file}: cannot be read (it is a folder)`)
    if (found.size > mostBytes) throw badInput(`${file}: is larger than 2 GB; record for a shorter time`)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if (typeof code !== 'string') throw error
    throw badInput(`${file}: cannot be read (${code === 'ENOENT' ? 'there is no such file' : code})`)
  }
}

async function kindOf(file: string): Promise<SourceKind | 'run'> {
  await readable(file)
  const handle = await open(file)
  try {
    const { buffer, bytesRead } = await handle.read({ buffer: Buffer.alloc(headLength), length: headLength })
    const found = recognise(buffer.subarray(0, bytesRead).toString('utf8'))
    if ('reason' in found) throw badInput(`${file}: ${found.reason}`)
    return found.kind
  } finally {
    await handle.close()
  }
}

function textOf(file: string, decode: () => string): string {
  try {
    return decode()
  } catch {
    throw badInput(`${file}: is not UTF-8 text; save it as UTF-8`)
  }
}

/** An error of the evidence, reported as bad input of a file. */
function within<T>(where: string, act: () => T): T {
  try {
    return act()
  } catch (error) {
    if (error instanceof EvidenceError) throw badInput(`${where}: ${error.message}`)
    throw error
  }
}

function sourceLine({ name, kind, events, skipped, fromMs, toMs, notes }: SourceReport): string {
  const span = fromMs === null ? '' : `, ${rounded(fromMs)}–${rounded(toMs!)} ms`
  return `${name} (${kind}): ${events} events${span}, ${skipped} skipped${notes.map((note) => `\n  ${note}`).join('')}\n`
}
