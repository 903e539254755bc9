import { knownItems } from '../core/feed/known-items.ts'
import { checkFeed } from '../core/simulate/feed-check.ts'
import { loadProject, outsideItems } from './load-project.ts'

/** `tug feed`: the address check of every screen and slot, as JSON. */
export async function feedCommand(file: string): Promise<void> {
  const { project } = await loadProject(file, undefined)
  const screens = []
  for (const screen of project.screens) {
    const items = knownItems(screen.feed) ?? (await outsideItems(file, screen)) ?? []
    const { withoutKind, slots } = checkFeed(project, screen, items)
    screens.push({
      screen: screen.id,
      items: items.length,
      withoutKind,
      slots: slots.map(({ kind, slot, counts, items: found, cleartextHosts, own }) => {
        const named = Object.fromEntries(Object.entries(found).map(([name, at]) => [name, at.map((i) => own[i]!)]))
        return { kind, slot, counts, items: named, cleartextHosts }
      }),
    })
  }
  process.stdout.write(`${JSON.stringify({ screens }, null, 2)}\n`)
}
