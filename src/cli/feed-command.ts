import { checkAddresses } from '../core/feed/address-check.ts'
import { FeedList } from '../core/feed/feed-list.ts'
import { isMadeUp, madeUpFeeds, madeUpPage } from '../core/feed/made-up.ts'
import { ListLayout } from '../core/layout/list-layout.ts'
import type { Item, Screen } from '../core/project/types.ts'
import { baseOf } from '../core/run/pictures.ts'
import { loadProject, outsideItems } from './load-project.ts'

/** `tug feed`: the address check of every screen and slot, as JSON. */
export async function feedCommand(file: string): Promise<void> {
  const { project } = await loadProject(file, undefined)
  const { widthDp, density } = project.device
  const screens = []
  for (const screen of project.screens) {
    const items = await allItems(file, screen)
    const list = new FeedList(screen.feed)
    list.append(items)
    const layout = new ListLayout(screen, widthDp, list)
    const slots = screen.cells.flatMap((cell, kind) => cell.slots.map((slot, number) => {
      const own = items.map((_, index) => index).filter((index) => layout.kindOf(index) === kind)
      const box = own.length > 0 ? layout.geometry(own[0]!).slots[number]! : { width: 1, height: 1 }
      const px = { widthPx: Math.max(1, Math.round(box.width * density)), heightPx: Math.max(1, Math.round(box.height * density)), density }
      const { counts, items: found, cleartextHosts } = checkAddresses(own.map((index) => items[index]!), screen, slot, px, baseOf(screen))
      const named = Object.fromEntries(Object.entries(found).map(([name, at]) => [name, at.map((i) => own[i]!)]))
      return { kind: cell.kind, slot: slot.id, counts, items: named, cleartextHosts }
    }))
    screens.push({ screen: screen.id, items: items.length, withoutKind: layout.withoutKind, slots })
  }
  process.stdout.write(`${JSON.stringify({ screens }, null, 2)}\n`)
}

async function allItems(file: string, screen: Screen): Promise<Item[]> {
  const { source } = screen.feed
  if (source.type === 'inline') return source.items
  if (source.type !== 'origin' || !isMadeUp(source.feed)) return [...((await outsideItems(file, screen)) ?? [])]
  const { feed } = source
  const pages = Math.ceil(madeUpFeeds[feed].items / madeUpFeeds[feed].perPage)
  return Array.from({ length: pages }, (_, page) => madeUpPage(feed, page + 1)!.items).flat()
}
