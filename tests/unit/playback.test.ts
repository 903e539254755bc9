import fc from 'fast-check'
import { expect, it } from 'vitest'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { Playback } from '../../src/core/profile/views/playback.ts'
import type { SlotState } from '../../src/core/list/list-cell.ts'
import { Simulation } from '../../src/core/simulate/simulate.ts'
import { anyVisit } from '../support/random-project.ts'

/** What a slot shows, as far as the engine knows: how much of a picture has come is the network's to say. */
function stageOf({ shows, claim }: SlotState) {
  if (shows !== null) return 'settled'
  if (claim === null) return 'absent'
  return claim.state === 'failed' ? 'failed' : 'under way'
}

it('a log that is played to its end shows the cells, places and pictures that the engine ended with', () => {
  fc.assert(
    fc.property(anyVisit, ({ project }) => {
      const simulation = new Simulation(project)
      while (!simulation.advance(100_000));
      const { run } = simulation
      fc.pre(run.ended === 'done')
      const { log } = simulation.result()
      const screen = new Playback(log).screenAt(log.endTime / 1000)
      expect(screen.top).toBe(run.top / unitsPerDp)
      // So much of it is on screen, however the device was turned.
      const tall = Math.min(project.device.heightDp, project.device.widthDp)
      const onScreen = ({ top, height }: { top: number; height: number }) =>
        top < screen.top + tall && top + height > screen.top
      const real = [...run.attachedCells.values()].map((cell) => ({
        cell: cell.id,
        index: cell.index,
        row: cell.row,
        column: cell.column,
        top: cell.top! / unitsPerDp,
        height: run.layout.heightOf(cell.row) / unitsPerDp,
        slots: cell.slots.map((slot) => ({ rendition: slot.shows, stage: stageOf(slot) })),
      }))
      const slotsOf = (kind: number) => project.screens[0]!.cells[kind]!.slots.length
      const played = screen.cells.map(({ cell, index, row, column, top, height, slots, kind }) => ({
        cell,
        index,
        row,
        column,
        top,
        height,
        slots: Array.from({ length: slotsOf(kind) }, (_, i) => ({
          rendition: slots[i]?.rendition ?? null,
          stage: ['waiting', 'arriving'].includes(slots[i]?.stage ?? '') ? 'under way' : (slots[i]?.stage ?? 'absent'),
        })),
      }))
      const byCell = (one: { cell: number }, other: { cell: number }) => one.cell - other.cell
      expect(played.filter(onScreen).sort(byCell)).toEqual(real.filter(onScreen).sort(byCell))
    }),
    { numRuns: 250, seed: 20261125 },
  )
}, 120_000)
