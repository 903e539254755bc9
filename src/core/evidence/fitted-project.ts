import { unitsPerDp } from '../numbers/units.ts'
import type { Facts } from '../profile/facts/facts.ts'
import type { Raw } from '../project/parse.ts'
import { projectFormat, projectVersion } from '../project/project-schema.ts'
import type { Project, Screen } from '../project/types.ts'
import type { FeedAddresses } from './feed-addresses.ts'
import { fitDevice } from './fit-device.ts'
import { fitLoading } from './fit-loading.ts'
import { fitNetwork, type Fitted, type Kept } from './fit-network.ts'
import { recoverGesture, type Gesture } from './recover-gesture.ts'

export interface FittedWorld {
  /** A project file. */
  raw: Raw
  fitted: Fitted[]
  kept: Kept[]
  gesture: Gesture | null
}

/** The base of a fit: a parsed project with its file, and the screen that was recorded. */
export interface FitBase {
  raw: Raw
  project: Project
  screen: Screen
  feed: FeedAddresses
}

/** A project whose network, device, loader and script are those of a recorded run; the rest is as in `base`. */
export function fitWorld(facts: Facts, base: FitBase): FittedWorld {
  const { network, fitted: ofNetwork, kept: keptNetwork } = fitNetwork(facts, base.project.network)
  const { device, fitted: ofDevice, kept: keptDevice } = fitDevice(facts, base.project.device)
  const { loading, fitted: ofLoading, kept: keptLoading } = fitLoading(facts, base.project.loading)
  const { head } = facts.log
  device.widthDp = clamp(head.widthDp, 100, 4000)
  device.heightDp = clamp(head.heightDp, 100, 4000)
  const gesture = recoverGesture(facts, base.feed, feedMs(base.screen, network))
  const kept = [...keptNetwork, ...keptDevice, ...keptLoading]
  if (!gesture)
    kept.push({
      path: '/script',
      why: 'neither scrolls nor binds were recorded, and the addresses are none of the feed',
    })
  const scripts = ((base.raw.scripts as Raw[] | undefined) ?? base.project.scripts).filter(
    (script) => (script as { name?: unknown }).name !== gesture?.script.name,
  )
  return {
    raw: {
      ...base.raw,
      network,
      device,
      loading,
      ...(gesture ? { scripts: [...scripts, gesture.script], script: gesture.script.name } : {}),
    },
    fitted: [...ofNetwork, ...ofDevice, ...ofLoading],
    kept,
    gesture,
  }
}

/** How long the first page of a feed takes to arrive, ms; 0 for one that the project holds. */
function feedMs({ feed }: Screen, { rttMs, thinkMs, setupRtts }: Project['network']): number {
  return feed.source.type === 'inline' ? 0 : rttMs * (setupRtts + 1) + thinkMs
}

/**
 * A project file for a run of an unknown project: its pictures as a list, in the order in which they were bound or
 * requested.
 */
export function projectOfRun(facts: Facts): Raw {
  const { log, itemPlaces } = facts
  const seen = new Set<number>()
  const items: Raw[] = []
  const add = (asset: number) => {
    if (seen.has(asset)) return
    seen.add(asset)
    const { address, bytes } = log.assets[asset]!
    items.push({ id: String(items.length + 1), photo: address, ...(bytes > 0 ? { bytes } : {}) })
  }
  const byRow = facts.claims
    .flatMap(({ row, rendition }) => (row === null || itemPlaces.size === 0 ? [] : [{ row, rendition }]))
    .toSorted((one, other) => one.row - other.row)
  for (const { rendition } of byRow) add(log.renditions[rendition]!.asset)
  for (const request of facts.requests) add(request.asset)
  const heights = facts.places.map(({ height }) => height / unitsPerDp).toSorted((one, other) => one - other)
  const { columns } = log.head.policy
  // What the app has requested in cleartext, it may request so.
  const cleartextHosts = [
    ...new Set(log.assets.filter(({ address }) => /^http:/i.test(address)).map(({ host }) => host)),
  ]
  return {
    format: projectFormat,
    version: projectVersion,
    name: log.head.project,
    loading: { cleartextHosts: cleartextHosts.slice(0, 100) },
    screens: [
      {
        id: log.head.screen,
        name: 'As recorded',
        feed: { source: { type: 'inline', items } },
        layout: { columns, gapDp: 0, paddingDp: 0 },
        cells: [
          {
            kind: '*',
            height: { type: 'fixed', dp: clamp(Math.round(heights[heights.length >> 1] ?? 120), 1, 4000) },
            slots: [
              { id: 'main', address: { type: 'pointer', at: '/photo' }, bytesAt: '/bytes', size: { type: 'fill' } },
            ],
          },
        ],
      },
    ],
  }
}

const clamp = (value: number, least: number, most: number) => Math.max(least, Math.min(most, value))
