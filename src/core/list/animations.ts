import type { Us } from '../worlds/ports.ts'
import type { ListState } from './list-state.ts'

/**
 * Pictures that play. All keep the same beat, so that one frame of the list draws what is due in every cell. One that
 * plays `on-screen` stops outside it; drawing a frame costs the main thread an upload.
 */
export class Animations {
  private readonly list: ListState
  private readonly any: boolean
  /** When the next frame of any of them is due; Infinity: none plays. */
  private next: Us = Infinity
  /** Its timer has fired, and no frame late enough has come since. */
  private rang = false
  /** The frame that was drawn last, by cell and slot. */
  private readonly drawn = new Map<string, number>()

  constructor(list: ListState) {
    this.list = list
    this.any = list.parts.screen.cells.some((cell) =>
      cell.slots.some(({ media }) => media.type === 'animated' && media.play !== 'first-frame'),
    )
  }

  due(now: Us): boolean {
    if (now >= this.next) return true
    // A real frame can carry a timestamp from just before the timer: then it is set again.
    if (this.rang) this.setTimer()
    return false
  }

  private setTimer(): void {
    const { clock, frames } = this.list.world
    this.rang = false
    clock.at(this.next, () => {
      this.rang = true
      frames.request()
    })
  }

  /** Draws what is due, and requests the list's frame for the next. */
  advance(now: Us): void {
    if (!this.any || this.list.hidden) return
    const { recycler, world, parts } = this.list
    const before = this.next
    this.next = Infinity
    for (const cell of recycler.attached.values())
      for (const [number, slot] of cell.slots.entries()) {
        const { media } = parts.screen.cells[cell.kind]!.slots[number]!
        if (
          slot.shows === null ||
          media.type !== 'animated' ||
          media.play === 'first-frame' ||
          (media.play === 'on-screen' && !slot.onScreen)
        )
          continue
        const { frames = 1, frameMs = 0, width, height } = parts.table.renditions[slot.shows]!
        if (frames < 2) continue
        const us = Math.max(1, Math.round(frameMs * 1000))
        const beat = Math.floor(now / us)
        this.next = Math.min(this.next, (beat + 1) * us)
        const place = `${cell.id} ${number}`
        if (this.drawn.get(place) === beat) continue
        this.drawn.set(place, beat)
        world.surface.frame(cell.id, number, slot.shows, beat % frames)
        world.frames.work('animation', 1, width * height)
      }
    if (this.next < Infinity && (this.next !== before || this.rang)) this.setTimer()
  }
}
