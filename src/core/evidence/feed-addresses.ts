import { addressOf } from '../feed/address.ts'
import { FeedList } from '../feed/feed-list.ts'
import { ListLayout } from '../layout/list-layout.ts'
import { baseOf } from '../list/pictures.ts'
import { unitsPerDp } from '../numbers/units.ts'
import type { Item, Project, Screen } from '../project/types.ts'

/** Items beyond this are left out: no recording gets that far. */
const mostItems = 20_000

export interface FeedAddresses {
  /** The address of each item's first picture, in the order of the feed. */
  addresses: string[]
  /** All addresses of all slots. */
  all: ReadonlySet<string>
  columns: number
  /** How far apart rows are, dp. */
  pitchDp: number
}

/** The addresses that a screen's feed requests, made as the app makes them. */
export function feedAddresses(project: Project, screen: Screen, items: readonly Item[]): FeedAddresses {
  const { widthDp, density } = project.device
  const list = new FeedList(screen.feed)
  const looked = items.slice(0, mostItems)
  list.append(looked)
  const layout = new ListLayout(screen, widthDp, list)
  const all = new Set<string>()
  const addresses = looked.map((item, index) => {
    const kind = layout.fittingKindOf(index)
    const cell = kind === null ? undefined : screen.cells[kind]
    if (!cell) return ''
    const found = cell.slots.map((slot, number) => {
      const box = layout.geometry(index).slots[number]!
      const px = {
        widthPx: Math.max(1, Math.round(box.width * density)),
        heightPx: Math.max(1, Math.round(box.height * density)),
        density,
      }
      return addressOf(item, slot, px, baseOf(screen)).href
    })
    for (const address of found) all.add(address)
    return found[0] ?? ''
  })
  const rows = layout.rowCount
  const pitchDp =
    rows > 0 ? layout.topOf(Math.min(rows - 1, 50)) / unitsPerDp / Math.max(1, Math.min(rows - 1, 50)) : 120
  return { addresses, all, columns: screen.layout.columns, pitchDp: pitchDp > 0 ? pitchDp : 120 }
}
