import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { overlapOf } from '../../src/core/compare/overlap.ts'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { cellStory, itemStory } from '../../src/core/profile/stories/cell-stories.ts'
import { cellsLens } from '../../src/core/profile/views/lenses/cells-lens.ts'
import { failuresOf } from '../../src/core/profile/views/lenses/failures.ts'
import { framesLens } from '../../src/core/profile/views/lenses/frames-lens.ts'
import { memoryLens } from '../../src/core/profile/views/lenses/memory-lens.ts'
import { threadsLens } from '../../src/core/profile/views/lenses/threads-lens.ts'
import { tiersLens } from '../../src/core/profile/views/lenses/tiers-lens.ts'
import { ledgerTable } from '../../src/core/profile/figures/ledger-table.ts'
import { mapOf } from '../../src/core/profile/views/map-data.ts'
import { Playback } from '../../src/core/profile/views/playback.ts'
import { profileRun } from '../../src/core/profile/profile.ts'
import type { Step } from '../../src/core/project/types.ts'
import { simulate, Simulation } from '../../src/core/simulate/simulate.ts'
import { freeDevice, items, plainLink, projectOf } from '../support/projects.ts'
import { anyProject } from '../support/random-project.ts'

const numRuns = 120
const seed = 20261123

describe('views of a run', () => {
  it('come to the same as its metrics', () => {
    fc.assert(
      fc.property(anyProject, (project) => {
        const { facts, metrics } = profileRun(simulate(project).log)
        const frames = framesLens(facts)
        expect(Math.max(0, ...frames.works.map(({ workMs }) => workMs))).toBeCloseTo(metrics['frames.workMax'] ?? 0, 6)
        expect(frames.late.reduce((sum, each) => sum + each.frames, 0)).toBe(metrics['frames.count'])
        expect(frames.parts.reduce((sum, each) => sum + each.late, 0)).toBe(metrics['frames.late'])
        expect(frames.worst[0]?.lateMs ?? 0).toBeCloseTo(
          Math.max(0, ...facts.frames.map((each) => each.presented - each.due)) / 1000,
          6,
        )
        // A part of a run and the rest of it are the whole.
        const half = facts.endT / 2000
        const [early, late] = [
          threadsLens(facts, { fromMs: 0, toMs: half }),
          threadsLens(facts, { fromMs: half, toMs: facts.endT / 1000 }),
        ]
        const busy = (of: typeof early) =>
          of.lanes.reduce((sum, { spans }) => sum + spans.reduce((ms, { fromMs, toMs }) => ms + toMs - fromMs, 0), 0)
        const threads = threadsLens(facts)
        // Work of a last frame may go on beyond the end of the visit.
        expect(busy(early) + busy(late)).toBeCloseTo(
          busy(threadsLens(facts, { fromMs: 0, toMs: facts.endT / 1000 })),
          6,
        )
        expect(framesLens(facts, { fromMs: 0, toMs: facts.endT / 1000 })).toEqual(frames)
        const shares = (name: string) =>
          threads.lanes.filter((lane) => lane.name.startsWith(name)).map(({ busyShare }) => busyShare ?? 0)
        if (facts.endT > 0) {
          expect(shares('main')[0]).toBeCloseTo(metrics['threads.mainBusyShare']!, 9)
          expect(shares('fetch').reduce((sum, share) => sum + share, 0) / project.loading.fetchSlots).toBeCloseTo(
            metrics['threads.fetchBusyShare']!,
            9,
          )
        }
        expect(threads.inversions.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0)).toBeCloseTo(
          metrics['requests.inversionMs']!,
          6,
        )
        const cells = cellsLens(facts)
        if (facts.binds > 0)
          expect(cells.points.at(-1)).toMatchObject({
            created: metrics['cells.created'],
            bound: metrics['cells.bound'],
          })
        expect(cells.late.length).toBe(metrics['cells.createdAfterFirstScreen'])
        // By place: each row lies in one stretch, and the stretches lie side by side.
        const sum = (of: 'created' | 'bound') => cells.places.reduce((all, place) => all + place[of], 0)
        expect([sum('created'), sum('bound')]).toEqual([metrics['cells.created'], metrics['cells.bound']])
        expect(cells.places.length).toBeLessThanOrEqual(8)
        for (const [i, { fromRow, toRow, bound }] of cells.places.entries()) {
          expect(bound).toBe(facts.bindRows.filter((row) => row >= fromRow && row <= toRow).length)
          if (i > 0) expect(fromRow).toBe(cells.places[i - 1]!.toRow + 1)
        }
        const tiers = tiersLens(facts).points.at(-1)
        if (tiers)
          expect(tiers.memory / (tiers.memory + tiers.disk + tiers.network + tiers.local)).toBeCloseTo(
            metrics['tier.memoryShare']!,
            9,
          )
        expect(failuresOf(facts).reduce((sum, { requests }) => sum + requests.length, 0)).toBe(
          facts.requests.filter(({ end }) => end === 'failed').length,
        )
        const { points } = memoryLens(facts)
        const last = points.at(-1)
        if (last) expect(last.tier + last.bound + last.garbage + last.rest).toBeCloseTo(metrics['memory.endMb']!, 6)
      }),
      { numRuns, seed },
    )
  })
})

describe('a part of a run', () => {
  it('and the rest of it are the whole, in every view', () => {
    fc.assert(
      fc.property(anyProject, fc.double({ min: 0, max: 1, noNaN: true }), (project, share) => {
        const profile = profileRun(simulate(project).log)
        const { facts, metrics, ledger } = profile
        const end = facts.endT / 1000
        // Between two µs: nothing happens at the cut itself.
        const cut = (Math.floor(share * facts.endT) + 0.5) / 1000
        const parts = [
          { fromMs: 0, toMs: cut },
          { fromMs: cut, toMs: end + 1 },
        ]
        const last = <P>(points: readonly P[]) => points.at(-1)
        expect(parts.reduce((sum, part) => sum + (last(cellsLens(facts, part).points)?.bound ?? 0), 0)).toBe(
          metrics['cells.bound'],
        )
        expect(parts.reduce((sum, part) => sum + cellsLens(facts, part).late.length, 0)).toBe(
          metrics['cells.createdAfterFirstScreen'],
        )
        const came = (part: (typeof parts)[number] | null) => {
          const at = last(tiersLens(facts, part).points)
          return at ? at.memory + at.disk + at.network + at.local : 0
        }
        expect(came(parts[0]!) + came(parts[1]!)).toBe(came(null))
        expect(parts.reduce((sum, part) => sum + tiersLens(facts, part).evictions.length, 0)).toBe(
          facts.evictions.length,
        )
        expect(parts.reduce((sum, part) => sum + memoryLens(facts, part).collections.length, 0)).toBe(
          facts.collections.length,
        )
        // The curve goes on where the other part has left it.
        const [before, after] = parts.map((part) => memoryLens(facts, part).points)
        if (before!.length > 0 && after!.length > 1)
          expect({ ...last(before!), ms: 0 }).toEqual({ ...after![0], ms: 0 })
        const some = new Set(facts.requests.flatMap(({ id }) => (id % 3 === 0 ? [id] : [])))
        const others = new Set(facts.requests.flatMap(({ id }) => (some.has(id) ? [] : [id])))
        const [one, other] = [ledgerTable(profile, some), ledgerTable(profile, others)]
        expect(one.received + other.received).toBe(metrics['bytes.received'])
        expect(one.inFlight + other.inFlight).toBe(ledger.inFlight)
        for (const table of [one, other])
          expect(table.rows.reduce((sum, row) => sum + row.bytes, 0)).toBe(table.received)
        expect([...one.rows, ...other.rows].reduce((sum, row) => sum + row.requests, 0)).toBe(facts.requests.length)
        const failed = (only: ReadonlySet<number>) => failuresOf(facts, only).flatMap(({ requests }) => requests)
        expect([...failed(some), ...failed(others)].sort((a, b) => a - b)).toEqual(
          facts.requests.filter((each) => each.end === 'failed').map(({ id }) => id),
        )
        expect(failed(some).every((id) => some.has(id))).toBe(true)
      }),
      { numRuns, seed },
    )
  })

  it('of the gesture is known by who moved the list, frame by frame', () => {
    const steps = [
      { do: 'wait', ms: 300 },
      { do: 'drag', dp: 500, ms: 400 },
      { do: 'wait', ms: 300 },
      { do: 'flick', dpPerS: 2500 },
      { do: 'wait', ms: 900 },
      { do: 'to', where: 'start', dpPerS: 3000 },
      { do: 'jump', row: 20 },
      { do: 'wait', ms: 200 },
    ] as Step[]
    const { log } = simulate(projectOf({ items: items(200), device: freeDevice, network: plainLink, steps }))
    const { facts } = profileRun(log)
    const { parts } = framesLens(facts)
    const count = Object.fromEntries(parts.map(({ part, frames }) => [part, frames]))
    const all = facts.frames.filter(({ moved }) => moved)
    // 400 ms of dragging at 60 Hz, and every frame between the flick and its rest.
    expect(count.drag).toBeGreaterThanOrEqual(24)
    expect(count.drag).toBeLessThanOrEqual(26)
    const dragged = facts.scrolls.filter(({ by }) => by === 'drag')
    expect(dragged.at(-1)!.top / unitsPerDp).toBeCloseTo(500, 1)
    expect(dragged.every(({ t }) => t > 300_000 && t < 750_000)).toBe(true)
    const glid = facts.scrolls.filter(({ by }) => by === 'flick')
    expect(glid.every(({ t }) => t > 1_000_000)).toBe(true)
    expect(glid.length).toBeGreaterThan(30)
    expect(facts.scrolls.at(-1)!.by).toBe('app')
    expect(count.drag! + count.flick! + count.app!).toBe(all.length)
  })
})

describe('playback', () => {
  it('ends with the screen that the run itself ended with, and comes to the same from either side', () => {
    fc.assert(
      fc.property(anyProject, (project) => {
        const simulation = new Simulation(project)
        while (!simulation.advance(10_000));
        const { run, log } = simulation
        // A run that its heap has ended, or that stopped waiting, may stop with a frame under way.
        fc.pre(run.ended === 'done')
        const end = log.endTime / 1000
        const playback = new Playback(log)
        const played = playback.screenAt(end)
        expect(played.top).toBeCloseTo(run.top / unitsPerDp, 9)
        const bottom = run.top + Math.max(log.head.heightDp, log.head.widthDp) * unitsPerDp
        const there = [...run.attachedCells.values()].filter(
          (cell) =>
            run.layout.topOf(cell.row) < bottom && run.layout.topOf(cell.row) + run.layout.heightOf(cell.row) > run.top,
        )
        const cellAt = (cell: number, index: number, top: number, shows: readonly (number | null)[]) =>
          `cell ${cell}: item ${index} at ${top.toFixed(2)}, ${shows.join()}`
        expect(
          played.cells
            .map(({ cell, index, top, slots }) =>
              cellAt(cell, index, top, slots.length > 0 ? slots.map(({ rendition }) => rendition) : [null]),
            )
            .sort(),
        ).toEqual(
          there
            .map((cell) =>
              cellAt(
                cell.id,
                cell.index,
                run.layout.topOf(cell.row) / unitsPerDp,
                cell.slots.map(({ shows }) => shows),
              ),
            )
            .sort(),
        )
        const middle = playback.screenAt(end / 2)
        expect(new Playback(log).screenAt(end / 2)).toEqual(middle)
        expect(playback.screenAt(end)).toEqual(played)
      }),
      { numRuns, seed },
    )
  })
})

describe('stories', () => {
  it('are there for every cell and item that a run has, in the order of their instants', () => {
    fc.assert(
      fc.property(anyProject, (project) => {
        const { facts } = profileRun(simulate(project).log)
        for (const cell of facts.cells.keys()) {
          const { sentences } = cellStory(facts, cell)!
          expect(sentences[0]!.text).toBe('made.')
          expect(sentences.map(({ t }) => t)).toEqual(sentences.map(({ t }) => t).sort((a, b) => a - b))
        }
        expect(cellStory(facts, facts.cells.length)).toBeNull()
        for (const index of new Set(facts.exposures.map((each) => each.index))) {
          const { sentences } = itemStory(facts, index)!
          const seen = facts.exposures.filter((each) => each.index === index).length
          expect(sentences.filter(({ text }) => text.startsWith('on screen'))).toHaveLength(seen)
        }
      }),
      { numRuns: 40, seed },
    )
  })
})

describe('two maps', () => {
  it('share what both have asked for; the rest is only in one', () => {
    fc.assert(
      fc.property(anyProject, (project) => {
        const maps = [
          project,
          { ...project, loading: { ...project.loading, ahead: { ...project.loading.ahead, amount: 9 } } },
        ].map((each) => {
          const { facts, ledger } = profileRun(simulate(each).log)
          return mapOf(facts, ledger)
        })
        const { both, only } = overlapOf(maps[0]!, maps[1]!)
        const count = (mask: Uint8Array) => mask.reduce((sum, one) => sum + one, 0)
        expect(count(both.a)).toBe(count(both.b))
        expect(count(both.a) + count(only.a)).toBe(maps[0]!.lines.y.length)
        expect(count(overlapOf(maps[0]!, maps[0]!).only.a)).toBe(0)
      }),
      { numRuns: 40, seed },
    )
  })
})
