import { FeedList } from '../feed/feed-list.ts'
import type { CellGeometry } from '../layout/cell-geometry.ts'
import { ListLayout } from '../layout/list-layout.ts'
import type { Claim } from '../loading/request.ts'
import type { Screen } from '../project/types.ts'
import type { Surface } from '../worlds/ports.ts'
import type { ListState } from './list-state.ts'
import { priorities } from './list-cells.ts'
import { needsNetwork } from './feed-pages.ts'
import { Pictures } from './pictures.ts'
import type { Place } from './recycler.ts'

/** The first screenful of another screen. */
interface Glance {
  screen: Screen
  layout: ListLayout
  feed: FeedList
  pictures: Pictures
  /** The places of what is visible, in list order. */
  seen: Place[]
}

interface Opened {
  screen: Screen
  glance: Glance | null
  surface: Surface | null
  close: () => void
  claims: Map<number, { claim: Claim; cell: number; slot: number }>
  /** Pictures that wait for a frame. */
  toSet: { claim: Claim; cell: number; slot: number }[]
}

/**
 * Screens that open over the one that the run is about, and lists that are looked ahead for before their screens open.
 * An opened screen stays at its top; what it loads ranks as on screen and counts as used, not as an exposure of the
 * list that is judged.
 */
export class OpenedScreens {
  private readonly list: ListState
  private readonly glances = new Map<string, Glance>()
  private readonly asked = new Set<string>()
  private opened: Opened | null = null
  /** The picture whose claim is being made: memory answers before the claim has an id. */
  private asking: { cell: number; slot: number } | null = null
  private readonly aheadClaims = new Map<string, Claim[]>()

  constructor(list: ListState) {
    this.list = list
  }

  /** Whether something of it waits for a frame. */
  get waiting(): boolean {
    return (
      this.opened !== null &&
      (this.opened.toSet.length > 0 || (this.opened.glance !== null && this.opened.surface === null))
    )
  }

  /** Another screen of the project opens over this one; a name that no screen has means the item's own screen. */
  open(id: string, item: number): void {
    this.close()
    const { project } = this.list.parts
    const screen = project.screens.find((each) => each.id === id) ?? this.screenOf(id, item)
    if (!screen) return
    this.opened = { screen, glance: null, surface: null, close: () => undefined, claims: new Map(), toSet: [] }
    this.logScope(screen, 'active')
    this.glanceAt(screen)
  }

  /** The way back: its claims end now, and it receives nothing more. */
  close(): void {
    const { opened } = this
    if (!opened) return
    this.opened = null
    for (const { claim } of opened.claims.values()) this.list.loader.release(claim, 'closed')
    this.logScope(opened.screen, 'closed')
    opened.close()
  }

  /** Claims the first screenful of the named lists, once nothing on screen is without its picture. */
  lookAhead(): void {
    const { lists } = this.list.parts.project.loading.ahead
    if (lists.length === 0 || this.list.hidden || this.asked.size === lists.length || !this.settled) return
    for (const id of lists) {
      if (this.asked.has(id)) continue
      this.asked.add(id)
      const screen = this.list.parts.project.screens.find((each) => each.id === id && each !== this.list.parts.screen)
      if (screen) this.glanceAt(screen)
    }
  }

  delivered(claim: Claim): void {
    const place = this.opened?.claims.get(claim.id) ?? this.asking
    if (!this.opened || !place) return
    this.opened.toSet.push({ claim, cell: place.cell, slot: place.slot })
    this.list.wake()
  }

  failed(claim: Claim): void {
    const place = this.opened?.claims.get(claim.id) ?? this.asking
    if (place) this.opened?.surface?.stage(place.cell, place.slot, 'failed')
  }

  arriving(claim: Claim, bytes: number, total: number | null): void {
    const place = this.opened?.claims.get(claim.id)
    if (place) this.opened?.surface?.arriving(place.cell, place.slot, bytes, total)
  }

  /** In a frame: its cells are made, and what has arrived for them is set. */
  show(): void {
    const { opened } = this
    if (!opened?.glance) return
    if (!opened.surface) this.makeCells(opened, opened.glance)
    const { world, log, loader, parts } = this.list
    for (const { claim, cell, slot } of opened.toSet.splice(0)) {
      opened.claims.delete(claim.id)
      if (claim.state !== 'delivered') continue
      const { width, height } = parts.table.renditions[claim.rendition]!
      world.frames.work('upload', 1, width * height)
      log.events.use(world.clock.now(), { claim: claim.id, rendition: claim.rendition })
      if (loader.memory.has(claim.rendition)) opened.surface!.picture(cell, slot, claim.rendition, false)
      loader.release(claim, 'used')
    }
  }

  private get settled(): boolean {
    let any = false
    for (const cell of this.list.recycler.attached.values())
      for (const slot of cell.slots) {
        if (slot.claim?.state === 'open') return false
        any = true
      }
    return any
  }

  private glanceAt(screen: Screen): void {
    const known = this.glances.get(screen.id)
    if (known) return void this.taken(known)
    const { parts, world, log } = this.list
    const feed = new FeedList(screen.feed)
    if (needsNetwork(screen.feed) && !parts.project.device.granted.network) {
      log.events.page(world.clock.now(), { n: 1, outcome: `${screen.id}: not-granted`, items: 0 })
      return
    }
    world.screens.pages(screen).ask(1, (reply, reason) => {
      if (this.list.ended !== null) return
      log.events.page(world.clock.now(), {
        n: 1,
        outcome: reply ? `ok, ${screen.id}` : `${screen.id}: ${reason}`,
        items: reply?.items.length ?? 0,
      })
      if (!reply) return
      feed.append(reply.items)
      if (!reply.more) feed.complete()
      const layout = new ListLayout(screen, this.list.width, feed)
      const glance: Glance = {
        screen,
        layout,
        feed,
        pictures: new Pictures(screen, feed, layout, parts.table, parts.project),
        seen: seenOf(layout, this.list.height),
      }
      this.glances.set(screen.id, glance)
      this.taken(glance)
    })
  }

  /** Its items are known: they are shown when it is open, and claimed ahead when it is not yet. */
  private taken(glance: Glance): void {
    if (this.opened?.screen === glance.screen) {
      this.opened.glance = glance
      this.list.wake()
    } else if (!this.aheadClaims.has(glance.screen.id)) this.aheadClaims.set(glance.screen.id, this.claimAhead(glance))
  }

  private claimAhead({ screen, layout, pictures, seen }: Glance): Claim[] {
    const claims = seen.flatMap(({ index }) =>
      pictures.of(index).flatMap((picture, slot) =>
        picture && picture.refused === null
          ? [
              this.list.loader.claim(
                {
                  rendition: picture.rendition,
                  cell: null,
                  slot,
                  index,
                  row: this.centreRow,
                  priority: priorities[screen.cells[layout.kindOf(index)]!.slots[slot]!.priority],
                  refused: null,
                  later: true,
                },
                false,
              ),
            ]
          : [],
      ),
    )
    this.list.world.frames.request()
    return claims
  }

  private makeCells(opened: Opened, { screen, layout, feed, pictures, seen }: Glance): void {
    const { world, loader } = this.list
    const { surface, close } = world.screens.show(
      screen,
      (index) => feed.item(index),
      (index): CellGeometry => layout.geometry(index),
    )
    opened.surface = surface
    opened.close = close
    for (const claim of this.aheadClaims.get(screen.id) ?? []) loader.release(claim, 'ahead')
    this.aheadClaims.set(screen.id, [])
    for (const [cell, { index, row, column }] of seen.entries()) {
      surface.create(cell, layout.kindOf(index))
      surface.bind(cell, index)
      surface.place(cell, layout.leftOf(column), layout.cellWidthDp, layout.topOf(row), layout.heightOf(row))
      for (const [slot, picture] of pictures.of(index).entries()) {
        surface.stage(cell, slot, picture ? 'waiting' : 'absent')
        if (!picture) continue
        this.asking = { cell, slot }
        const priority = priorities[screen.cells[layout.kindOf(index)]!.slots[slot]!.priority]
        const claim = loader.claim(
          {
            rendition: picture.rendition,
            cell: null,
            slot: null,
            index,
            row: this.centreRow,
            priority,
            refused: picture.refused,
            scope: 'opened',
          },
          true,
        )
        this.asking = null
        opened.claims.set(claim.id, { claim, cell, slot })
      }
    }
    world.frames.work('create', seen.length, 0)
    world.frames.work('bind', seen.length, 0)
    surface.scroll(0, layout.total)
  }

  /** A screen of its own for an item: its first picture as wide as the device. */
  private screenOf(id: string, item: number): Screen | null {
    const { screen } = this.list.parts
    if (item >= this.list.feed.count) return null
    const cell = screen.cells[this.list.layout.fittingKindOf(item) ?? 0]!
    const slot = cell.slots[0]
    if (!slot) return null
    return {
      ...screen,
      id,
      feed: {
        ...screen.feed,
        source: { type: 'inline', items: [this.list.feed.item(item)] },
        kind: null,
        repeat: { ...screen.feed.repeat, times: 1 },
      },
      layout: { ...screen.layout, columns: 1, gapDp: 0, paddingDp: 0 },
      cells: [
        {
          ...cell,
          kind: '*',
          arrangement: 'picture-top',
          height: { type: 'content' },
          slots: [{ ...slot, size: { type: 'aspect', ratio: 1 }, circle: false }],
        },
      ],
    }
  }

  private get centreRow(): number {
    const { layout, top, height } = this.list
    return layout.rowAt(top + height / 2) ?? 0
  }

  private logScope(screen: Screen, state: 'active' | 'closed'): void {
    const { log, world } = this.list
    log.events.scope(world.clock.now(), { which: screen.id, state })
  }
}

function seenOf(layout: ListLayout, height: number): Place[] {
  const last = layout.rowAt(height - 1)
  if (last === null) return []
  const seen: Place[] = []
  for (let row = 0; row <= last; row++)
    for (let column = 0; column < layout.columns; column++) {
      const index = layout.itemAt(row, column)
      if (index !== null) seen.push({ index, row, column })
    }
  return seen
}
