import { AssetTable } from '../loading/asset-table.ts'
import type { KeptTiers } from '../loading/loader-state.ts'
import { RunLog, type RunHead } from '../log/run-log.ts'
import type { Item, Project, Screen, Visit } from '../project/types.ts'
import { ScriptPlayer } from '../scrolling/script-player.ts'
import type { Us } from '../worlds/ports.ts'
import type { Seen } from '../network/reply.ts'
import { createVirtualWorld, type VirtualWorld } from '../worlds/virtual/virtual-world.ts'
import { keepTiers, restoreTiers } from './kept-tiers.ts'
import { ListRun } from '../list/list-run.ts'

/** The longest run is an hour. */
const maxRunUs: Us = 3_600_000_000

export interface SimulateOptions {
  screen?: string
  script?: string
  seed?: number
  visit?: Visit
  items?: readonly Item[] | null
  seen?: ReadonlyMap<string, Seen>
  kept?: KeptTiers | null
  epochMs?: number
  everyRefresh?: boolean
}

export interface Simulated {
  log: RunLog
  kept: KeptTiers
  endMs: number
}

/** A simulation that can be advanced in slices, so that a worker notices a cancel in between. */
export class Simulation {
  readonly log: RunLog
  readonly run: ListRun
  private readonly world: VirtualWorld
  private readonly table: AssetTable
  private readonly epochMs: number

  constructor(project: Project, options: SimulateOptions = {}) {
    const screen = screenOf(project, options.screen)
    const seed = options.seed ?? project.seed
    const script = scriptOf(project, options.script)
    this.epochMs = options.epochMs ?? 0
    this.log = new RunLog(
      headOf(project, screen, { world: 'simulated', seed, visit: options.visit ?? 'first', script: script.name }),
    )
    this.table = new AssetTable(this.log)
    const world = createVirtualWorld(project, screen.feed, seed, this.table, {
      items: options.items ?? null,
      seen: options.seen ?? new Map(),
      everyRefresh: options.everyRefresh ?? false,
    })
    this.world = world
    this.run = new ListRun({
      project,
      screen,
      world,
      log: this.log,
      table: this.table,
      seed,
      epochMs: this.epochMs,
      motion: (bounds, act, requestFrame) =>
        new ScriptPlayer(script.steps, project.device.flick, world.clock, bounds, act, requestFrame),
      setOffline: (offline) => world.network.setOffline(offline),
    })
    if (options.kept) restoreTiers(options.kept, options.visit ?? 'first', this.run.loader, this.table)
    this.log.head.diskStartBytes = this.run.loader.diskTier.bytes
    this.run.start()
  }

  /** Runs so many events or frames; true when the visit is over. */
  advance(steps: number): boolean {
    const { clock, frames } = this.world
    for (let i = 0; i < steps; i++) {
      if (this.run.checkEnd()) return true
      const event = clock.nextTime()
      const time = Math.min(event, frames.next)
      if (time === Infinity) this.run.end('done')
      else if (time > maxRunUs) this.run.end('an hour')
      else if (event <= frames.next) clock.runNext()
      else frames.step()
    }
    return this.run.checkEnd()
  }

  result(): Simulated {
    const endMs = this.log.endTime / 1000
    return { log: this.log, kept: keepTiers(this.run.loader, this.table), endMs: this.epochMs + endMs }
  }
}

/** Simulates one visit to its end. */
export function simulate(project: Project, options: SimulateOptions = {}): Simulated {
  const simulation = new Simulation(project, options)
  while (!simulation.advance(100_000));
  return simulation.result()
}

export function screenOf(project: Project, id: string | undefined): Screen {
  const screen = id === undefined ? project.screens[0] : project.screens.find((each) => each.id === id)
  if (!screen)
    throw new Error(`no screen has the id "${id}"; there are ${project.screens.map((each) => each.id).join(', ')}`)
  return screen
}

export function scriptOf(project: Project, name: string | undefined) {
  const wanted = name ?? project.script ?? ''
  const script = project.scripts.find((each) => each.name === wanted)
  if (!script && project.scripts.length > 0)
    throw new Error(
      `no script has the name "${wanted}"; there are ${project.scripts.map((each) => each.name).join(', ')}`,
    )
  return script ?? { name: '', steps: [] }
}

export function headOf(
  project: Project,
  screen: Screen,
  run: Pick<RunHead, 'world' | 'seed' | 'visit' | 'script'>,
): RunHead {
  const { loading, device } = project
  return {
    ...run,
    project: project.name,
    screen: screen.id,
    refreshHz: device.refreshHz,
    heightDp: device.heightDp,
    widthDp: device.widthDp,
    diskStartBytes: 0,
    policy: {
      fetchSlots: loading.fetchSlots,
      fetchSlotsPerHost: loading.fetchSlotsPerHost,
      decodeWorkers: loading.decodeWorkers,
      memoryMb: loading.memoryMb,
      diskMb: loading.diskMb,
      guard: loading.guard,
      resetOnBind: loading.resetOnBind,
      heldCells: screen.layout.heldCells,
      agingMs: loading.agingMs,
      columns: screen.layout.columns,
      restraint: loading.startBelowDpPerS !== null || loading.ahead.onlyWhenIdle,
    },
  }
}
