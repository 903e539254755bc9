import { fidelityOf, type Fidelity } from '../../core/compare/fidelity.ts'
import { EvidenceError, type Source, type SourceKind } from '../../core/evidence/evidence.ts'
import { feedAddresses } from '../../core/evidence/feed-addresses.ts'
import { fitWorld, projectOfRun, type FitBase, type FittedWorld } from '../../core/evidence/fitted-project.ts'
import { importRun, plainOptions, readerFor, type SourceReport } from '../../core/evidence/import-run.ts'
import { readPattern } from '../../core/evidence/lines-source.ts'
import { readingsSource, type Readings } from '../../core/evidence/readings-source.ts'
import { headLength, recognise } from '../../core/evidence/recognise.ts'
import { knownItems } from '../../core/feed/known-items.ts'
import type { Facts } from '../../core/profile/facts/facts.ts'
import { metricIds, type MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { missingFor } from '../../core/profile/figures/needs.ts'
import { mapOf, movedMap, type MapData } from '../../core/profile/views/map-data.ts'
import { measureRun, profileRun } from '../../core/profile/profile.ts'
import { parseProject, type Raw } from '../../core/project/parse.ts'
import type { Item } from '../../core/project/types.ts'
import { simulate } from '../../core/simulate/simulate.ts'
import { stopIfCancelled, type JobHooks } from './job.ts'
import { describeRun, type RunResult } from './run-result.ts'

export interface EvidenceFile {
  name: string
  body: Blob
  /** Its kind; null: by its content. */
  kind: SourceKind | null
  /** Its offset, on top of its own clock, ms. */
  offsetMs: number
  /** Columns of a table, patterns of log lines, as they are typed; empty: none. */
  mapping: string
}

export interface EvidenceOrder {
  files: EvidenceFile[]
  readings: Readings
  raw: Raw
  screen: string
  items: readonly Item[] | null
  /** Without the fit and its simulation: for a run that is still growing. */
  quick: boolean
}

/** A file that could not be read, with its first lines, from which a mapping can be made. */
export interface UnreadFile {
  name: string
  message: string
  sample: string[]
}

export interface EvidenceAnswer {
  lanes: (SourceReport & { ticks: number[] })[]
  unread: UnreadFile[]
  run: RunResult | null
  notObserved: Partial<Record<MetricId, string>>
  fit:
    | (Omit<FittedWorld, 'raw'> & {
        raw: Raw
        screen: string
        script: string
        /** How near its simulation is, and the simulation’s map; null: no gesture could be recovered. */
        simulated: { fidelity: Fidelity; map: MapData } | null
      })
    | null
}

/** The most ticks that a lane is drawn with. */
const mostTicks = 600
/** A project's feed is taken for the app's when it has this share of the recorded addresses. */
const knownShare = 0.2

/** Reads the evidence of a real app, combines it into a run, and fits a world to it. */
export async function evidenceJob(order: EvidenceOrder, hooks: JobHooks): Promise<EvidenceAnswer> {
  const base = baseOf(order)
  const sources: Source[] = []
  const unread: UnreadFile[] = []
  const offsets = new Map<string, number>()
  const whole = order.files.reduce((sum, { body }) => sum + body.size, 1)
  let read = 0
  for (const file of order.files) {
    try {
      sources.push(
        await readFile(file, base, (bytes) => {
          stopIfCancelled(hooks)
          hooks.progress((0.8 * (read + bytes)) / whole)
        }),
      )
      offsets.set(file.name, file.offsetMs)
    } catch (error) {
      if (!(error instanceof EvidenceError)) throw error
      unread.push({ name: file.name, message: error.message, sample: await sampleOf(file.body) })
    }
    read += file.body.size
  }
  const typed = readingsSource(order.readings)
  if (typed) sources.push(typed)
  if (sources.length === 0) return { lanes: [], unread, run: null, notObserved: {}, fit: null }
  const names = { project: base?.project.name ?? 'Recorded app', screen: base?.screen.id ?? 'recorded' }
  const { log, sources: reports, aligned } = importRun(sources, offsets, names)
  const profile = profileRun(log)
  const fit = order.quick ? null : fitOf(profile.facts, base)
  if (fit?.simulated) Object.assign(profile.metrics, fit.simulated.fidelity)
  hooks.progress(1)
  return {
    lanes: reports.map((report, i) => ({ ...report, ticks: ticksOf(aligned[i]!.source, report.shiftMs) })),
    unread,
    run: describeRun(log, null, profile),
    notObserved: Object.fromEntries(
      metricIds.flatMap((id) => {
        const missing = missingFor(id, log.head)
        return missing === null ? [] : [[id, missing]]
      }),
    ),
    fit,
  }
}

function baseOf({ raw, screen, items }: EvidenceOrder): FitBase | null {
  const parsed = parseProject(raw)
  const found = parsed.ok ? parsed.project.screens.find(({ id }) => id === screen) : undefined
  if (!parsed.ok || !found) return null
  const known = items ?? knownItems(found.feed) ?? []
  return { raw: parsed.raw, project: parsed.project, screen: found, feed: feedAddresses(parsed.project, found, known) }
}

async function readFile(
  { name, body, kind, mapping }: EvidenceFile,
  base: FitBase | null,
  onBytes: (bytes: number) => void,
): Promise<Source> {
  const found = kind ?? kindOf(await body.slice(0, headLength).text())
  const lines = mapping.split('\n').filter((line) => line.trim() !== '')
  const patterns = found === 'lines' ? lines.map(patternOf) : []
  const reader = readerFor(name, found, {
    ...plainOptions,
    feed: base?.feed.all ?? new Set(),
    patterns,
    framesColumns: found === 'frames' && lines.length > 0 ? lines[0]! : null,
  })
  const decoder = new TextDecoder('utf-8', { fatal: true })
  const stream = body.stream().getReader()
  let bytes = 0
  for (let part = await stream.read(); !part.done; part = await stream.read()) {
    reader.push(decoded(() => decoder.decode(part.value, { stream: true })))
    onBytes((bytes += part.value.length))
  }
  decoded(() => decoder.decode())
  return reader.finish()
}

function kindOf(head: string): SourceKind {
  const found = recognise(head)
  if ('reason' in found) throw new EvidenceError(found.reason)
  if (found.kind === 'run') throw new EvidenceError('it is the log of a run: dropped anywhere else it is opened as one')
  return found.kind
}

function patternOf(text: string) {
  const pattern = readPattern(text)
  if (typeof pattern === 'string') throw new EvidenceError(pattern)
  return pattern
}

function decoded(decode: () => string): string {
  try {
    return decode()
  } catch {
    throw new EvidenceError('it is not UTF-8 text; save it as UTF-8')
  }
}

async function sampleOf(body: Blob): Promise<string[]> {
  return (await body.slice(0, 4096).text())
    .split(/\r?\n/)
    .filter((line) => line.trim() !== '')
    .slice(0, 5)
    .map((line) => line.slice(0, 200))
}

function fitOf(facts: Facts, base: FitBase | null): EvidenceAnswer['fit'] {
  const own = base && isOf(facts, base) ? base : ownBase(facts)
  if (!own) return null
  const world = fitWorld(facts, own)
  const parsed = parseProject(world.raw)
  if (!parsed.ok) return null
  const script = parsed.project.script ?? ''
  const recorded = measureRun(facts.log).metrics
  if (world.gesture === null) return { ...world, screen: own.screen.id, script, simulated: null }
  const made = measureRun(simulate(parsed.project, { screen: own.screen.id, script }).log)
  const simulated = {
    fidelity: fidelityOf(recorded, made.metrics),
    map: movedMap(mapOf(made.facts, made.ledger), -world.gesture.shiftMs),
  }
  return { ...world, screen: own.screen.id, script, simulated }
}

const isOf = ({ log }: Facts, { feed }: FitBase) =>
  log.assets.filter(({ address }) => feed.all.has(address)).length >= knownShare * Math.max(1, log.assets.length)

function ownBase(facts: Facts): FitBase | null {
  if (facts.log.assets.length === 0) return null
  const parsed = parseProject(projectOfRun(facts))
  if (!parsed.ok) return null
  const screen = parsed.project.screens[0]!
  const feed = feedAddresses(parsed.project, screen, knownItems(screen.feed) ?? [])
  return { raw: parsed.raw, project: parsed.project, screen, feed }
}

function ticksOf({ exchanges, events }: Source, shiftMs: number): number[] {
  const all = [...exchanges.map(({ startMs }) => startMs), ...events.map(({ t }) => t)].sort(
    (one, other) => one - other,
  )
  const step = Math.max(1, Math.ceil(all.length / mostTicks))
  return all.filter((_, i) => i % step === 0).map((ms) => ms + shiftMs)
}
