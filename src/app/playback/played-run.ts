import { FeedList } from '../../core/feed/feed-list.ts'
import { classify } from '../../core/feed/address.ts'
import type { PlayedScreen } from '../../core/profile/views/playback.ts'
import { parseProject } from '../../core/project/parse.ts'
import type { Item } from '../../core/project/types.ts'
import { PlayedList } from '../../live/played-list.ts'
import { pictureAt } from '../cell/sample/sample-picture.ts'
import { playWorker } from '../simulate/worker-client.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { itemsOf } from '../store/feed-store.ts'

/** A kept run, ready to be drawn at any moment. */
export interface PlayedRun {
  list: PlayedList
  widthDp: number
  heightDp: number
  /** Why the items are not available any more, and their texts are missing; null: they are. */
  withoutTexts: string | null
  screenAt: (ms: number) => Promise<PlayedScreen>
}

/**
 * Prepares a kept run for playback: its items by key, its log in the worker, pictures on demand. `pxPerDp`: how large
 * the page shows it.
 */
export async function openPlayed(run: StoredRun, kept: StoredLog, pxPerDp: () => number): Promise<PlayedRun> {
  // The settings that it ran with, variants included.
  const parsed = parseProject(run.raw)
  if (!parsed.ok) throw new Error(parsed.message)
  const { project } = parsed
  const screen = project.screens.find(({ id }) => id === run.screen)
  if (!screen) throw new Error(`the run's screen "${run.screen}" is not in its project`)
  const { items, trouble } = await itemsByKey(run.project, screen)
  const { addresses } = await playWorker.ask('play', { hash: run.hash, log: kept.log, ms: 0 }).result
  const list = new PlayedList({
    project,
    screen,
    shown: () => Math.min(1, pxPerDp() / project.device.density),
    itemOf: (key) => items.get(key) ?? {},
    pictureOf: ({ rendition, kind, slot, px }) => {
      const address = classify(addresses[rendition] ?? '', null)
      // A picture that is no longer available is played as its placeholder.
      return pictureAt({ id: run.project, project }, address, screen.cells[kind]!.slots[slot]!, px).catch(() => null)
    },
  })
  return {
    list,
    widthDp: project.device.widthDp,
    heightDp: project.device.heightDp,
    withoutTexts: trouble,
    async screenAt(ms) {
      const known = await playWorker.ask('play', { hash: run.hash, log: null, ms }).result
      if (known.screen) return known.screen
      // Others were opened there meanwhile: this one is opened again.
      const again = await playWorker.ask('play', { hash: run.hash, log: kept.log, ms }).result
      if (!again.screen) throw new Error('a run that was just opened has no screen')
      return again.screen
    },
  }
}

async function itemsByKey(
  project: string,
  screen: Parameters<typeof itemsOf>[1],
): Promise<{ items: Map<string, Item>; trouble: string | null }> {
  const feed = new FeedList(screen.feed)
  const found = await itemsOf(project, screen).then(
    (items) => ({ items, trouble: null }),
    (error: unknown) => ({ items: [], trouble: error instanceof Error ? error.message : String(error) }),
  )
  feed.append(found.items)
  feed.complete()
  return {
    items: new Map(Array.from({ length: feed.count }, (_, index) => [feed.key(index), feed.item(index)])),
    trouble: found.trouble,
  }
}
