import { noItems } from '../../feed/known-items.ts'
import { archiveBase } from '../../feed/tiles.ts'
import { isMadeUp, madeUpPage } from '../../feed/made-up.ts'
import type { AssetTable } from '../../loading/asset-table.ts'
import type { Feed, Item, Project } from '../../project/types.ts'
import type { Disk, Pages, Surface, World } from '../ports.ts'
import { plainReply, type Seen } from '../../network/reply.ts'
import { VirtualClock } from './virtual-clock.ts'
import { VirtualDecoder } from './virtual-decoder.ts'
import { VirtualFrames } from './virtual-frames.ts'
import { VirtualHeap } from './virtual-heap.ts'
import { VirtualNetwork } from './virtual-network.ts'

export interface VirtualWorld extends World {
  clock: VirtualClock
  network: VirtualNetwork
  frames: VirtualFrames
}

export interface VirtualOptions {
  /** Items for feeds that a simulation cannot know itself (a file, an address, a folder). */
  items: readonly Item[] | null
  seen: ReadonlyMap<string, Seen>
  everyRefresh: boolean
}

/** A whole world of models for one visit: the same project, seed and options give the same events. */
export function createVirtualWorld(
  project: Project,
  feed: Feed,
  seed: number,
  table: AssetTable,
  options: VirtualOptions,
): VirtualWorld {
  const clock = new VirtualClock()
  const { costs, speed } = project.device
  const link = { ...project.network, thinkMs: project.network.thinkMs + costs.fetchMs / speed }
  const network = new VirtualNetwork(
    clock,
    link,
    seed,
    options.seen,
    project.loading.headers,
    project.loading.timeoutMs,
  )
  return {
    clock,
    network,
    decoder: new VirtualDecoder(
      clock,
      project.device,
      table,
      (asset) =>
        network.replies.get(asset) ??
        plainReply(table.hrefs[asset]!, table.hints[asset]!, null, options.seen.get(table.hrefs[asset]!) ?? null),
    ),
    disk: virtualDisk(clock, project.device),
    frames: new VirtualFrames(clock, project.device, options.everyRefresh),
    heap: new VirtualHeap(project.device),
    pages: virtualPages(network, feed, options.items, project.loading.timeoutMs),
    surface: noSurface,
    screens: {
      pages: (screen) =>
        noItems(screen.feed) === null
          ? virtualPages(network, screen.feed, null, project.loading.timeoutMs)
          : { ask: (_page, done) => done(null, 'its items are not in the project'), failed: nothing },
      show: () => ({ surface: noSurface, close: () => undefined }),
    },
  }
}

function virtualDisk(clock: VirtualClock, device: Project['device']): Disk {
  const { costs, speed } = device
  const read: Disk['read'] = (_asset, _request, bytes, done) => {
    const ms = (costs.diskMs + bytes / costs.diskKBps) / speed
    clock.at(clock.now() + Math.round(ms * 1000), () => done(true))
  }
  return {
    read,
    local: read,
    write: () => undefined,
    renew: () => undefined,
    remove: () => undefined,
  }
}

function virtualPages(network: VirtualNetwork, feed: Feed, given: readonly Item[] | null, timeoutMs: number): Pages {
  const { source } = feed
  return {
    ask(page, done) {
      const items = given ?? (source.type === 'inline' ? source.items : null)
      if (items) {
        done({ items, more: false }, 'ok')
        return
      }
      if (source.type !== 'origin' || !isMadeUp(source.feed)) throw new Error(noItems(feed) ?? 'no items')
      const reply = madeUpPage(source.feed, page)!
      const host = archiveBase.slice('https://'.length, -1)
      const address = `${archiveBase}feeds/${source.feed}?page=${page}`
      network.call({ host, address, bytes: sizeOf(reply), timeoutMs }, (reason) =>
        reason === null ? done({ items: reply.items, more: reply.next !== null }, 'ok') : done(null, reason),
      )
    },
    failed: nothing,
  }
}

const sizes = new WeakMap<object, number>()

/** The bytes of a page as JSON. */
function sizeOf(page: object): number {
  let bytes = sizes.get(page)
  if (bytes === undefined) sizes.set(page, (bytes = utf8Length(JSON.stringify(page))))
  return bytes
}

function utf8Length(text: string): number {
  let bytes = 0
  for (const character of text) {
    const code = character.codePointAt(0)!
    bytes += 1 + Number(code >= 0x80) + Number(code >= 0x800) + Number(code >= 0x10000)
  }
  return bytes
}

const nothing = () => undefined
const noSurface: Surface = {
  create: nothing,
  bind: nothing,
  recycle: nothing,
  place: nothing,
  arrange: nothing,
  stage: nothing,
  arriving: nothing,
  picture: nothing,
  frame: nothing,
  clear: nothing,
  scroll: nothing,
}
