import { strToU8, zipSync } from 'fflate'
import { toNdjson } from '../../core/log/ndjson.ts'
import { appEventsOf } from '../../core/profile/views/app-events.ts'
import { mapSvg } from '../../core/handoff/map-svg.ts'
import { figuresAsCsv } from '../../core/profile/views/figures-csv.ts'
import { mapOf } from '../../core/profile/views/map-data.ts'
import { harOf } from '../../core/profile/views/har.ts'
import { parseProject, type Raw } from '../../core/project/parse.ts'
import { makeVectors } from '../../core/vectors/make-vectors.ts'
import type { VectorFile } from '../../core/vectors/protocol.ts'
import { version } from '../../core/version.ts'
import { openedRun, type StoredRun } from './opened-run.ts'

/** The kinds of file that can be written of a run. */
export const runFiles = ['har', 'log', 'events', 'figures', 'map'] as const
export type RunFile = (typeof runFiles)[number]

/**
 * A kept run as HTTP Archive 1.2, its log in NDJSON, the app events that an app could have sent of it, its figures as
 * CSV, or its map as SVG.
 */
export function runFileJob({ what, ...run }: StoredRun & { what: RunFile }): string {
  const { facts, ledger, metrics } = openedRun(run)
  switch (what) {
    case 'har':
      return `${JSON.stringify(harOf(facts, { name: 'Tile Tug', version }), null, 1)}\n`
    case 'log':
      return [...toNdjson(facts.log)].join('')
    case 'events':
      return [...appEventsOf(facts.log)].join('')
    case 'figures':
      return figuresAsCsv(metrics)
    case 'map':
      return mapSvg(mapOf(facts, ledger), `Scroll map of “${facts.log.head.script}” on “${facts.log.head.screen}”`)
  }
}

const mostCases = 60

export interface MadeVectors {
  file: VectorFile
  text: string
}

/** Conformance cases from a project's rules. */
export function vectorsJob({ raw }: { raw: Raw }): MadeVectors {
  const parsed = parseProject(raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const file = makeVectors(parsed.project, mostCases, 1)
  return { file, text: `${JSON.stringify(file, null, 1)}\n` }
}

/** Some texts as one zip. */
export function zipJob({ files }: { files: { name: string; text: string }[] }): Uint8Array {
  return zipSync(Object.fromEntries(files.map(({ name, text }) => [name, strToU8(text)])), { level: 6 })
}
