import Dexie, { type DexieOptions, type Table } from 'dexie'
import type { TinyMap } from '../../core/profile/views/tiny-map.ts'
import type { EncodedLog } from '../../core/log/log-encoding.ts'
import type { Check } from '../../core/profile/figures/checks.ts'
import type { MapData } from '../../core/profile/views/map-data.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import type { Raw } from '../../core/project/parse.ts'
import type { Item, Visit } from '../../core/project/types.ts'

export interface StoredProject {
  id: string
  /** Counted up at each save: a tab that saves an older one is warned. */
  rev: number
  name: string
  /** Long lists of items are kept apart (shared-items.ts). */
  raw: Raw
  changed: number
  /** The project that this one is a copy of, because another tab had changed it. */
  copyOf?: string
}

export interface StoredRun {
  id: number
  project: string
  number: number
  when: number
  world: 'simulated' | 'live' | 'recorded'
  visit: Visit
  screen: string
  script: string
  seed: number
  hash: string
  metrics: Metrics
  checks: Check[]
  /** Settings that differ from the run before, as "what: from → to". */
  changed: string[]
  /** The settings that it ran with; long lists of items are kept apart (shared-items.ts). */
  raw: Raw
  baseline: boolean
  /** Its map as small as a word, made when it was kept. */
  tiny?: TinyMap
  /** A name of your own. */
  name?: string
  /** Later notes, by their moment. */
  notes?: { ms: number; text: string }[]
  /** Approximate size in storage, bytes, with its log and map. */
  bytes?: number
}

/** A long list of items, shared by a project, its copies and their runs. */
export interface SharedItems {
  id: string
  items: readonly Item[]
}

/** The items of a feed that a project names but does not hold. */
export interface StoredFeed {
  id: string
  project: string
  name: string
  items: readonly Item[]
}

/** A picture or video that was picked from this machine; a project names it and does not hold it. */
export interface StoredPicture {
  id: string
  project: string
  body: Blob
}

/** Named values of your own, for every project of this browser. */
export interface OwnPreset {
  id: string
  of: 'policy' | 'device' | 'network' | 'mapping'
  name: string
  values: Record<string, unknown>
}

export interface StoredLog {
  run: number
  log: EncodedLog
  map: MapData
  /** What it left in the tiers: later simulations may begin from it. */
  kept?: string | null
}

/** Increased with each change of the tables; every earlier version is opened in a test. */
export class Database extends Dexie {
  projects!: Table<StoredProject, string>
  runs!: Table<StoredRun, number, Omit<StoredRun, 'id'>>
  runLogs!: Table<StoredLog, number>
  feeds!: Table<StoredFeed, string>
  pictures!: Table<StoredPicture, string>
  presets!: Table<OwnPreset, string>
  secrets!: Table<{ name: string; value: string }, string>
  memory!: Table<{ name: string; value: unknown }, string>
  shared!: Table<SharedItems, string>

  constructor(options: DexieOptions = {}) {
    super('tile-tug', options)
    this.version(1).stores({ projects: 'id, changed', runs: '++id, project', runLogs: 'run', memory: 'name' })
    this.version(2).stores({ feeds: 'id, project', secrets: 'name' })
    this.version(3).stores({ pictures: 'id, project' })
    this.version(4).stores({ presets: 'id, of' })
    this.version(5).stores({ shared: 'id' })
  }
}

/** Everything that the app keeps in this browser; storage.ts may replace it by one that lasts as long as the page. */
export let database = new Database()

export function replaceDatabase(next: Database): void {
  database = next
}

/** The key of a project's sweep in `memory`. */
export const sweepName = (project: string) => `sweep ${project}`
